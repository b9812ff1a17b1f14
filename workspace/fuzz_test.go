package workspace

import (
	"testing"
	"time"

	"github.com/stretchr/testify/require"
)

// FuzzConfig: any text is a workspace or a list of problems with places, in a moment.
func FuzzConfig(f *testing.F) {
	for _, seed := range []string{"tovrel: 1\ndatasets:\n  one: {tables: {t: t.csv}}\ntranslators:\n  a@1: {kind: pocket, " +
		"version: 2}\nrules: {numbers: {rel: 1e-6}, by-column: {a: {null: zero}}}\nrun: {budget: {money: 1}, diagnose: " +
		"{runs: 9}, timeout: 5s}\nlimits: {memory: 1GB}\ngate: {accuracy: {at-least: 0.9}}\n",
		"tovrel: [[[[", "a: &a [*a]", "tovrel: !!str 1", "? a\n: b",
		"tovrel: 1\ndatasets: {one: {connect: sqlite, dsn: \"${X}\"}}", "\t", "- - -", "tovrel: 1e400",
		"tovrel: 1\nrun: {repeats: 99999999999999999999}"} {
		f.Add([]byte(seed))
	}
	f.Fuzz(func(t *testing.T, text []byte) {
		start := time.Now()
		_, problems := parse(text)
		for _, p := range problems {
			require.NotEmpty(t, p.Message)
			require.NotEmpty(t, p.Error())
		}
		require.Less(t, time.Since(start), 10*time.Second)
	})
}
