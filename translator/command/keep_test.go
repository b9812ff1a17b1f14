package command_test

import (
	"context"
	"errors"
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"tovrel/core/fault"
	"tovrel/translator"
	"tovrel/translator/command"
)

// answer is a loop that answers every line with its number as a query, with two hooks: before the reply and after it.
func answer(before, after string) []string {
	return []string{"sh", "-c", `n=0
while read -r line; do
  n=$((n+1)); total=$(cat asked 2>/dev/null || echo 0); total=$((total+1)); echo $total >asked
  id=$(printf %s "$line" | sed 's/.*"id":"\([^"]*\)".*/\1/')
  q=$(printf %s "$line" | sed 's/.*"question":"\([^"]*\)".*/\1/')
  ` + before + `
  printf '{"query": "SELECT %s"}\n' "$q"
  ` + after + `
done`}
}

// TestStrayLines: whatever a long-lived program says unasked, no question ever gets the reply of another, and one that does so now and
// then loses no question.
func TestStrayLines(t *testing.T) {
	const questions = 20
	stray := `printf '{"query": "SELECT stray"}\n'`
	for name, c := range map[string]struct {
		before, after string
		loses         bool // it does so always: no question can be answered
		may           bool // where both lines come at once, which is the reply cannot be told
		// the program tells that its line is written: one that comes after the next question was sent cannot be told from its reply
		late bool
	}{
		"never":                      {},
		"a reply twice":              {after: `[ $n = 3 ] && printf '{"query": "SELECT %s"}\n' "$q"`},
		"a valid line after a reply": {after: `[ $((total % 5)) = 0 ] && ` + stray},
		"… a moment later":           {after: `[ $((total % 5)) = 0 ] && { sleep 0.01; ` + stray + `; }; echo >written`, late: true},
		"… without its end":          {after: `[ $total = 4 ] && printf '{"query": "SELECT st'`},
		"words before a reply":       {before: `[ $total = 4 ] && echo 'loading the model'`},
		"an empty line":              {before: `[ $total = 4 ] && echo`},
		"one more after each reply":  {after: stray, may: true},
		"words before each reply":    {before: `echo thinking`, loses: true},
		"it ends after each reply":   {after: `exit 0`},
		"it ends in the middle":      {before: `[ $total = 4 ] && exit 3`},
	} {
		t.Run(name, func(t *testing.T) {
			dir := t.TempDir()
			asker, err := command.New(command.Settings{Run: answer(c.before, c.after), Dir: dir, Keep: true, Timeout: time.Minute})
			require.NoError(t, err)
			asker = translator.Limit(asker, translator.Limits{Retries: 2, First: time.Millisecond})
			defer func() { require.NoError(t, asker.Close()) }()
			for i := range questions {
				got, err := asker.Ask(context.Background(), translator.Request{ID: "s/q", Question: fmt.Sprintf("q%d", i)})
				var f *translator.Failure
				if c.loses || c.may && errors.As(err, &f) {
					require.True(t, errors.As(err, &f))
					require.Equal(t, fault.MalformedReply, f.Code)
					continue
				}
				require.NoError(t, err)
				require.Equal(t, fmt.Sprintf("SELECT q%d", i), got.Reply.Query)
				if c.late {
					written := filepath.Join(dir, "written")
					require.Eventually(t, func() bool { return os.Remove(written) == nil }, time.Minute, time.Millisecond)
					time.Sleep(100 * time.Millisecond) // for its line to be read
				}
			}
		})
	}
}

// TestIDs: a reply that repeats the id of another question is not taken, by whatever transport it comes.
func TestIDs(t *testing.T) {
	for name, c := range map[string]struct {
		id     string
		refuse bool
	}{"none": {"", false}, "the same": {`, "id": "s/one"`, false}, "another": {`, "id": "s/two"`, true},
		"a service's own": {`, "id": "r-17"`, false}, "a number": {`, "id": 7`, false}} {
		for _, keep := range []bool{false, true} {
			t.Run(fmt.Sprint(name, keep), func(t *testing.T) {
				asker, err := command.New(command.Settings{Run: []string{"sh", "-c",
					`read -r line; echo '{"query": "SELECT 1"` + c.id + `}'; cat >/dev/null`}, Dir: t.TempDir(), Keep: keep,
					Timeout: 2 * time.Second})
				require.NoError(t, err)
				asker = translator.Limit(asker, translator.Limits{})
				defer asker.Close() //nolint:errcheck // nothing to lose
				_, err = asker.Ask(context.Background(), translator.Request{ID: "s/one", Question: "q"})
				if c.refuse {
					require.ErrorContains(t, err, `is to the question "s/two"`)
				} else {
					require.NoError(t, err)
				}
			})
		}
	}
}

// TestNothingIsLeft: of 200 programs that leave something behind in ways of their own, nothing is there when the asker is closed.
func TestNothingIsLeft(t *testing.T) {
	t.Setenv("TOVREL_TEST_MARK", filepath.Base(t.TempDir())+t.Name())
	leave := []string{
		`sleep 60 &`,
		`(sleep 60 &)`,
		`setsid sleep 60 &`,
		`(setsid sh -c 'setsid sleep 60 & sleep 60' &)`,
		`nohup sleep 60 >/dev/null 2>&1 &`,
		`trap '' INT TERM HUP; sleep 60 &`,
	}
	ends := []string{`echo '{"query": "SELECT 1"}'`, `exit 3`, `echo '{"query'`, `kill -9 $$`, `sleep 60`}
	for i := range 200 {
		body := "read -r line; " + leave[i%len(leave)] + " " + ends[i%len(ends)]
		keep := i%4 == 3
		timeout := 5 * time.Second
		if strings.HasSuffix(body, "sleep 60") {
			timeout = 50 * time.Millisecond
		}
		asker, err := command.New(command.Settings{Run: []string{"sh", "-c", body}, Dir: t.TempDir(),
			Env: []string{"TOVREL_TEST_MARK"}, Keep: keep, Timeout: timeout})
		require.NoError(t, err)
		_, _ = asker.Ask(context.Background(), translator.Request{ID: "s/q", Question: "q"})
		require.NoError(t, asker.Close())
	}
	require.Eventually(t, func() bool { return len(marked(t)) == 0 }, 2*time.Second, 20*time.Millisecond, "%v", marked(t))
}

// marked are the processes that bear this test's mark, but for this one.
func marked(t *testing.T) []string {
	t.Helper()
	all, err := filepath.Glob("/proc/[0-9]*/environ")
	require.NoError(t, err)
	var found []string
	for _, path := range all {
		body, err := os.ReadFile(path)
		if err == nil && strings.Contains(string(body), "TOVREL_TEST_MARK="+os.Getenv("TOVREL_TEST_MARK")) {
			name, _ := os.ReadFile(filepath.Join(filepath.Dir(path), "cmdline"))
			found = append(found, strings.ReplaceAll(string(name), "\x00", " "))
		}
	}
	return found
}
