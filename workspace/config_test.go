package workspace

import (
	"encoding/json"
	"flag"
	"fmt"
	"maps"
	"os"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
)

var update = flag.Bool("update", false, "rewrite what is read of the settings; read what changed")

// TestSettings holds what each setting of tovrel.yaml is read as, and what is said of one that is wrong: a line of YAML below `tovrel:
// 1`, with
// the lines that it changes in what an empty file gives, or its problems.
func TestSettings(t *testing.T) {
	const file = "../testdata/settings.txt"
	kept, err := os.ReadFile(file)
	require.NoError(t, err)
	empty, problems := parse([]byte("tovrel: 1\n"))
	require.Empty(t, problems)
	var got strings.Builder
	cases := 0
	for line := range strings.Lines(string(kept)) {
		if strings.HasPrefix(line, "  ") {
			continue
		}
		got.WriteString(line)
		if strings.HasPrefix(line, "#") {
			continue
		}
		cases++
		w, problems := parse([]byte("tovrel: 1\n" + strings.ReplaceAll(line, "⏎", "\n")))
		for _, p := range problems {
			fmt.Fprintf(&got, "  %s %s: %s; %s\n", strings.TrimPrefix(p.Position.String(), ConfigName+":"), p.Code, p.Message, p.Remedy)
		}
		if len(problems) == 0 {
			for _, l := range added(told(t, empty), told(t, w)) {
				fmt.Fprintf(&got, "  %s\n", l)
			}
		}
	}
	if *update {
		require.NoError(t, os.WriteFile(file, []byte(got.String()), 0o600))
		return
	}
	require.Equal(t, strings.Split(string(kept), "\n"), strings.Split(got.String(), "\n"))
	require.Greater(t, cases, 60)
}

// told is a workspace as lines of its fields.
func told(t *testing.T, w *Workspace) []string {
	t.Helper()
	body, err := json.Marshal(w)
	require.NoError(t, err)
	var all any
	require.NoError(t, json.Unmarshal(body, &all))
	return flat("", all)
}

// flat lists the leaves of a JSON value with their paths.
func flat(path string, v any) []string {
	var out []string
	switch v := v.(type) {
	case map[string]any:
		for _, k := range slices.Sorted(maps.Keys(v)) {
			out = append(out, flat(path+"."+k, v[k])...)
		}
	case []any:
		for i, x := range v {
			out = append(out, flat(fmt.Sprintf("%s[%d]", path, i), x)...)
		}
	case nil:
	default:
		out = append(out, fmt.Sprintf("%s = %v", strings.TrimPrefix(path, "."), v))
	}
	return out
}

// added are the lines that are not among others.
func added(before, after []string) []string {
	known := map[string]bool{}
	for _, l := range before {
		known[l] = true
	}
	var out []string
	for _, l := range after {
		if !known[l] && !strings.Contains(l, "At.") && !strings.HasSuffix(l, " = ") && !strings.HasSuffix(l,
			" = false") && !strings.HasSuffix(l, " = 0") {
			out = append(out, l)
		}
	}
	return out
}
