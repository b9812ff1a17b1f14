package main_test

import (
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
)

var shown = regexp.MustCompile(`(?m)^ *(?:\$ )?\.?/?tovrel ([a-z]+(?: [a-z]+)?)`)

// twoWords are the commands that hold others.
var twoWords = map[string]bool{"data": true, "set": true}

// shownCommands lists the commands that a document shows at the start of its lines.
func shownCommands(text string) [][]string {
	var commands [][]string
	for _, m := range shown.FindAllStringSubmatch(text, -1) {
		words := strings.Fields(m[1])
		if !twoWords[words[0]] {
			words = words[:1]
		}
		commands = append(commands, words)
	}
	return commands
}

// TestReadmeRuns: each command that the README shows runs as it is written: those of the tour in the demo's workspace, those of "Your own
// workspace" in one that is made as it says. An answer of no is one, too.
func TestReadmeRuns(t *testing.T) {
	t.Parallel()
	body, err := os.ReadFile("README.md")
	require.NoError(t, err)
	tour, own, found := strings.Cut(string(body), "## Your own workspace")
	require.True(t, found)
	demo := filepath.Join(t.TempDir(), "demo")
	require.NoError(t, os.CopyFS(demo, os.DirFS(demoFolder(t))))
	write(t, demo, "expected.csv", []byte("a,b\n1,2\n"))
	write(t, demo, "answer.json", []byte(`{"columns": ["a", "b"], "rows": [[1, 2]]}`))

	mine := t.TempDir()
	settings := regexp.MustCompile("(?s)```yaml\n(.*?)```").FindStringSubmatch(own)
	require.NotNil(t, settings, "the README shows a tovrel.yaml")
	write(t, mine, "tovrel.yaml", []byte(settings[1]))
	write(t, mine, "data/orders.csv", []byte("order_id,customer_id,price_eur\n1,1,2.50\n2,1,3.75\n3,2,1.25\n"))
	write(t, mine, "data/customers.csv", []byte("customer_id,town\n1,Ferry\n2,Stone\n"))
	write(t, mine, "golden/orders.md",
		[]byte("---\ngolden-set: orders\ndataset: shop\n---\n\n## How many orders? {#count}\n\n| n |\n| -: |\n| 3 |\n"))
	write(t, mine, "translate.sh", []byte("#!/bin/sh\nread request\necho '{\"query\": \"SELECT count(*) AS n FROM orders\"}'\n"))
	require.NoError(t, os.Chmod(filepath.Join(mine, "translate.sh"), 0o700))

	ran := 0
	for dir, text := range map[string]string{demo: tour, mine: own} {
		for _, m := range commandLine.FindAllStringSubmatch(text, -1) {
			line := strings.TrimSpace(m[1])
			if line == "tovrel set strength" {
				continue // of all sets: TestScripts/demo does that
			}
			cmd := exec.Command("sh", "-c", line+" </dev/null")
			cmd.Dir = dir
			cmd.Env = append(os.Environ(), "PATH="+filepath.Dir(program(t))+string(os.PathListSeparator)+os.Getenv("PATH"))
			out, err := cmd.CombinedOutput()
			if err != nil {
				require.Equal(t, 1, cmd.ProcessState.ExitCode(), "%s: %s", line, out)
			}
			require.NotEmpty(t, out, line)
			ran++
		}
	}
	require.Greater(t, ran, 25)
	verdict := tovrel(t, mine, "show", "latest", "--output", "csv")
	require.Contains(t, verdict.out, "right,orders/count,")
}
