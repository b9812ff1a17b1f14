package main_test

import (
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// subcommand is a line of help that lists a command.
var subcommand = regexp.MustCompile(`^  ([a-z-]+)  +\S`)

// TestHelp: the help of every command is as it was approved, fits, has examples that are so, and speaks no Go.
func TestHelp(t *testing.T) {
	t.Parallel()
	var paths []string
	var all strings.Builder
	var walk func(path ...string)
	walk = func(path ...string) {
		paths = append(paths, strings.Join(path, " "))
		help := tovrel(t, t.TempDir(), append(path, "--help")...).out
		all.WriteString("$ tovrel " + strings.Join(append(path, "--help"), " ") + "\n" + help + "\n")
		listing, examples := false, 0
		for line := range strings.SplitSeq(help, "\n") {
			assert.LessOrEqual(t, len([]rune(line)), 100, "%v: %s", path, line)
			assert.NotRegexp(t, `stringArray|strings |\(default -1\)|\(default \[\]\)`, line, "%v", path)
			if !strings.HasPrefix(line, " ") && line != "" {
				listing = strings.HasSuffix(line, ":") && line != "Usage:" && line != "Flags:" && line != "Global Flags:"
			}
			if strings.HasPrefix(line, "  tovrel ") && listing || strings.HasPrefix(line, "  echo ") {
				examples++
				exampleParses(t, strings.TrimSpace(line))
			}
			if m := subcommand.FindStringSubmatch(line); m != nil && listing && m[1] != "tovrel" && len(path) < 2 {
				walk(append(append([]string(nil), path...), m[1])...)
			}
		}
		if len(path) > 0 && path[0] != "help" && path[0] != "completion" {
			assert.Positive(t, examples, "%v has no example", path)
		}
	}
	walk()
	assert.NotContains(t, all.String(), "Additional Commands:", "every command is in a group")
	assert.NotRegexp(t, `--[a-z]+ tovrel `, all.String(), "a backquoted word in an option's text became its value's name")
	holds(t, "help.txt", all.String())
	require.Greater(t, len(paths), 40, "%v", paths)
}

// exampleParses runs an example as a shell would, as far as its options are read.
func exampleParses(t *testing.T, line string) {
	t.Helper()
	cmd := exec.Command("sh", "-c", line+" --help")
	cmd.Env = append(os.Environ(), "PATH="+filepath.Dir(program(t))+string(os.PathListSeparator)+os.Getenv("PATH"))
	out, err := cmd.CombinedOutput()
	assert.NoError(t, err, "%s: %s", line, out)
}

// TestOptionErrors: what is wrong with an option is told in words, with what was probably meant.
func TestOptionErrors(t *testing.T) {
	for line, want := range map[string]string{
		"run --repeat 3":                     "tovrel run has no option --repeat; did you mean --repeats?",
		"show --verbos latest":               "did you mean --verbose?",
		"show --colour-of-night":             "tovrel show has no option --colour-of-night; see `tovrel show --help`",
		"run --repeats x":                    `--repeats takes a whole number, not "x"`,
		"run --repeats 99999999999999999999": `--repeats takes a whole number`,
		"run --budget much":                  `--budget takes a number, not "much"`,
		"compare 1 2 --seed -1":              `--seed takes a whole number from 0 on, not "-1"`,
		"why --limit 3x":                     `--limit takes a time such as 30s or 5m, not "3x"`,
		"run --dry-run=perhaps":              `--dry-run takes true or false, not "perhaps"`,
		"show 1 --output foo":                "the formats are table, json, csv, markdown",
		"completion tcsh":                    `unknown command "tcsh"`,
	} {
		got := tovrel(t, t.TempDir(), strings.Fields(line)...)
		assert.Equal(t, 2, got.code, line)
		assert.Contains(t, got.err, want, line)
		assert.NotContains(t, got.err, "strconv", line)
	}
}

// TestErrorsInWords: an error says what is wrong and what to do in words of the trade, and names what was meant.
func TestErrorsInWords(t *testing.T) {
	t.Parallel()
	dir := demoFolder(t)
	for line, want := range map[string]string{
		"mark 2":                          "tovrel mark: one word was given; usage: tovrel mark RUN NAME",
		"data profile":                    "tovrel data profile: nothing was given; usage: tovrel data profile NAME",
		"show a b c":                      `unknown run "a"`,
		"gate 2 --against":                "--against needs a value; see `tovrel gate --help`",
		"run --from 2 --verdict wrng":     `there is no verdict "wrng"; did you mean "wrong"?`,
		"run --from 2 --verdict zzzzzzzz": "known: right, wrong, failed, lucky, unscored",
		"ask hi --dataset dairy":          "name the translator with -t; known: scribe@1, ",
		"show 2 unpaid":                   `did you mean "payments/unpaid-farms"?`,
		"show 2 top-distrct-may":          `did you mean "milk-basics/top-district-may"?`,
		"show 2 nothing-like-any":         " and 29 more",
		"run --tag nonesuch": "known: average, board-deck, codes, count, distinct, join, lending, money, " +
			"negation, nulls, period, ratio and 4 more",
		"set list nofile.md":                    "golden set nofile.md cannot be read: no such file or directory",
		"set import nofile.xlsx":                "nofile.xlsx cannot be read: no such file or directory",
		"harvest ratings":                       "ratings: rated questions are read from files that end in .jsonl or .csv",
		"match data/dairy/farms.csv nofile.csv": "nofile.csv cannot be read: no such file or directory",
		"history --since yesterday":             `--since "yesterday" is no day; write it as 2031-06-30`,
	} {
		got := tovrel(t, dir, strings.Fields(line)...)
		require.NotZero(t, got.code, line)
		require.Contains(t, got.err, want, line)
		require.NotRegexp(t, `arg\(s\)|strconv|\[[a-z]+ [a-z]+ |not ""|open /|stat `, got.err, line)
	}
}

// TestCompletion: what is known is completed: runs with their marks, tags, verdicts, rules, quirks and faults.
func TestCompletion(t *testing.T) {
	t.Parallel()
	dir := demoFolder(t)
	for line, want := range map[string]string{
		"compare 1 ":              "scribe@2",
		"gate ":                   "latest",
		"show 2 ":                 "payments/unpaid-farms",
		"run --tag ":              "board-deck",
		"run --verdict ":          "unscored",
		"run --from ":             "latest",
		"run --translator ":       "pocket@1",
		"match a b --rules ":      "numbers=",
		"stand-in --fault ":       "busy=",
		"set draft ":              "toolshed",
		"data profile ":           "dairy",
		"history --state ":        "partial",
		"set coverage milk-basic": "milk-basics",
	} {
		words := strings.Split(line, " ")
		got := tovrel(t, dir, append([]string{"__complete"}, words...)...)
		require.Contains(t, strings.Split(got.out, "\n"), want, line)
	}
}
