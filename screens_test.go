package main_test

import (
	"bytes"
	"encoding/csv"
	"encoding/json"
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"strings"
	"sync"
	"testing"

	"github.com/jedib0t/go-pretty/v6/text"
	"github.com/stretchr/testify/require"
)

// screens are the commands whose outputs are held, by the name of their file; they run in the demo's workspace, in this order.
var screens = []struct{ name, args string }{
	{"data-list", "data list"},
	{"data-profile", "data profile dairy"},
	{"data-inspect", "data inspect toolshed"},
	{"data-query", `data query dairy "SELECT farm_id, sum(litres) AS litres, max(loaded_at) AS latest FROM loads GROUP BY 1 ` +
		`ORDER BY 1 LIMIT 5"`},
	{"data-tidy", "data tidy --dry-run"},
	{"set-list", "set list golden/milk-basics.md"},
	{"set-check", "set check"},
	{"set-coverage", "set coverage"},
	{"set-refresh", "set refresh --dry-run"},
	{"set-strength", "set strength toolshed/never-lent"},
	{"run-dry", "run --dry-run"},
	{"show", "show 2"},
	{"show-wrong", "show 2 milk-basics/top-district-may"},
	{"show-right", "show 2 milk-basics/loads-in-may"},
	{"show-lucky", "show 3 toolshed/fees-of-members"},
	{"why-wrong", "why 2 payments/unpaid-farms"},
	{"why-run", "why 2"},
	{"compare", "compare 1 2"},
	{"compare-more", "compare 1 2 3"},
	{"gate", "gate scribe@3 --against scribe@2"},
	{"gate-not-met", "gate 1 --against scribe@2"},
	{"mark", "mark 2 good"},
	{"history", "history"},
	{"match-differs", "match data/dairy/farms.csv data/dairy/codes.csv"},
	{"match-equal", "match data/dairy/farms.csv data/dairy/farms.csv"},
	{"rescore", "rescore 2"},
	{"review", "review"},
	{"show-chart", "show 2 desk/draw-districts"},
	{"show-facts", "show 2 desk/net-payment"},
	{"show-several", "show 1 2 3 milk-basics/top-district-may"},
	{"compare-briefing", "compare 5 6"},
	{"history-drift", "history --drift scribe"},
	{"try", "try --briefing briefings/next.yaml -t pocket@3 --each"},
}

// wholeDemo is a workspace of the demo that has gone through its whole job, made once; what the demo said is in the files out.txt and
// err.txt beside it.
var wholeDemo = sync.OnceValues(func() (string, error) {
	if made := os.Getenv("TOVREL_TEST_DEMO"); made != "" { // one that was made before, for those who work on a single test
		return made, nil
	}
	dir, err := os.MkdirTemp("", "tovrel-screens-")
	if err != nil {
		return "", err
	}
	program, err := filepath.Abs("tovrel")
	if err != nil {
		return "", err
	}
	dir = filepath.Join(dir, "demo")
	var out, errs bytes.Buffer
	demo := exec.Command(program, "demo", dir)
	demo.Stdout, demo.Stderr = &out, &errs
	if err := demo.Run(); err != nil {
		return "", fmt.Errorf("demo: %w: %s", err, errs.String())
	}
	for name, said := range map[string][]byte{"out.txt": out.Bytes(), "err.txt": errs.Bytes()} {
		if err := os.WriteFile(filepath.Join(filepath.Dir(dir), name), said, 0o644); err != nil {
			return "", err
		}
	}
	if out, err := exec.Command(program, "mark", "2", "good", "--workspace", dir).CombinedOutput(); err != nil {
		return "", fmt.Errorf("mark: %w: %s", err, out)
	}
	return dir, nil
})

func demoFolder(t *testing.T) string {
	t.Helper()
	dir, err := wholeDemo()
	require.NoError(t, err)
	return dir
}

// shell runs a command line as it is written, in a folder, with a width; the exit code does not count.
func shell(t *testing.T, dir, line, columns string) string {
	t.Helper()
	cmd := exec.Command("sh", "-c", line)
	cmd.Dir = dir
	cmd.Env = append(os.Environ(), "PATH="+filepath.Dir(program(t))+":"+os.Getenv("PATH"), "COLUMNS="+columns, "LANG=C.UTF-8",
		"LC_ALL=C.UTF-8")
	var out, errs bytes.Buffer
	cmd.Stdout, cmd.Stderr = &out, &errs
	if err := cmd.Run(); out.Len() == 0 {
		require.NoError(t, err, "%s: %s", line, errs.String())
	}
	return out.String()
}

// moving is what differs from run to run: times and days, each put in place of words of the same width.
var moving = []struct {
	found *regexp.Regexp
	put   string
}{
	{regexp.MustCompile(`20[0-9]{2}-[0-9]{2}-[0-9]{2} [0-9]{2}:[0-9]{2}:[0-9]{2}`), "2031-06-30 12:00:00"},
	{regexp.MustCompile(`[0-9]+(\.[0-9])? m?s\b|<1 ms\b|[0-9]+ min [0-9]+ s\b`), "TIME"},
	{regexp.MustCompile(` +TIME`), " TIME"},
	{regexp.MustCompile(`TIME +`), "TIME "},
	{regexp.MustCompile(` +took\b`), " took"}, // the column is as wide as its times, and so is the line below the names
	{regexp.MustCompile(`─{9,}`), "─────────"},
	{regexp.MustCompile(`TIME (yes|no)\b`), "TIME by-time"}, // whether a run is undominated goes by its time too
}

func held(screen string) string {
	for _, m := range moving {
		screen = m.found.ReplaceAllString(screen, m.put)
	}
	return screen
}

// machineMoving is what differs from run to run in machine outputs.
var machineMoving = []struct {
	found *regexp.Regexp
	put   string
}{
	{regexp.MustCompile(`20[0-9]{2}-[0-9]{2}-[0-9]{2}[T ][0-9]{2}:[0-9]{2}:[0-9]{2}(\.[0-9]+)?(Z|[+-][0-9:]+)?`), "MOMENT"},
	{regexp.MustCompile(`("(uid|[a-z_0-9]*(ms|seconds|latency|took|elapsed|p50|p95)[a-z_0-9]*)": )("[^"]*"|[0-9.e-]+)`), "${1}MOVING"},
	{regexp.MustCompile(`"undominated": (true|false)`), `"undominated": BY-TIME`},
	{regexp.MustCompile(`(&lt;|<)?[0-9]+(\.[0-9])? m?s\b|[0-9]+ min [0-9]+ s\b`), "TIME"},
}

// machineHeld is a machine output without what moves: in CSV, also the cells of columns of times.
func machineHeld(out, format string) string {
	if rows, err := csv.NewReader(strings.NewReader(out)).ReadAll(); format == "csv" && err == nil {
		for i, name := range rows[0] {
			for _, row := range rows[1:] {
				if timed.MatchString(name) || timed.MatchString(row[0]) && i > 0 {
					row[i] = "MOVING"
				}
			}
		}
		var b strings.Builder
		w := csv.NewWriter(&b)
		_ = w.WriteAll(rows) // a builder takes everything
		out = b.String()
	}
	for _, m := range machineMoving {
		out = m.found.ReplaceAllString(out, m.put)
	}
	return out
}

var timed = regexp.MustCompile(`(?i)took|median|95|latency|started|undominated| ms$|asking`)

// holds compares an output with the one that somebody has read and approved.
func holds(t *testing.T, name, out string) {
	t.Helper()
	path := filepath.Join("testdata", "screens", name)
	if *update {
		require.NoError(t, os.WriteFile(path, []byte(out), 0o644))
	}
	want, err := os.ReadFile(path)
	require.NoError(t, err)
	require.Equal(t, string(want), out, "%s; if the change is meant, read it and write it with: go test -run '%s' -update .", name,
		t.Name())
}

// TestScreens: the screens of all commands are as somebody has read and approved them, at three widths and through a pipe, and no line of
// them is wider than the terminal.
func TestScreens(t *testing.T) {
	t.Parallel()
	for _, s := range screens {
		narrower := ""
		for _, width := range widths {
			form := fmt.Sprintf("%03d.txt", width)
			out := formOf(t, s.name, form)
			for line := range strings.SplitSeq(out, "\n") {
				if width > 0 && text.StringWidth(line) > width {
					t.Errorf("tovrel %s at %d columns has a line of %d:\n%s", s.args, width, text.StringWidth(line), line)
				}
			}
			out = held(out)
			holds(t, s.name+"."+form, folded(narrower, out))
			narrower = out
		}
	}
}

// TestNamesAreNeverCut: what a person must copy to go on is whole on the narrowest screen.
func TestNamesAreNeverCut(t *testing.T) {
	t.Parallel()
	dir := demoFolder(t)
	names := regexp.MustCompile(`(?m)^(?:milk-basics|payments|toolshed)/[a-z0-9-]+`).FindAllString(strings.ReplaceAll(shell(t,
		dir, "tovrel set list --output csv", ""), "question,", ""), -1)
	require.Greater(t, len(names), 30)
	shown := shell(t, dir, "tovrel set list", "80") + shell(t, dir, "tovrel show 1", "80") + shell(t, dir, "tovrel compare 1 2", "80")
	for _, name := range names {
		require.Contains(t, shown, name)
	}
	require.NotRegexp(t, `(milk-basics|payments|toolshed)/[a-z0-9-]*…`, shown)
}

// drawing are characters for the eyes, which no machine output has.
const drawing = "▁▂▃▄▅▆▇█●◐✕─│├┤░▒▓‹›\u2009"

// TestCSVOfEveryCommand: each command's CSV is one table, or some, with columns of their own names and rows of so many cells.
func TestCSVOfEveryCommand(t *testing.T) {
	t.Parallel()
	dir := demoFolder(t)
	for _, s := range screens {
		out := formOf(t, s.name, "csv")
		rows, err := csv.NewReader(strings.NewReader(out)).ReadAll()
		require.NoError(t, err, "%s:\n%s", s.args, out)
		require.NotEmpty(t, rows, s.args)
		holds(t, s.name+".csv", machineHeld(out, "csv"))
		seen := map[string]bool{}
		for _, name := range rows[0] {
			require.NotEmpty(t, strings.TrimSpace(name), "%s: %v", s.args, rows[0])
			require.False(t, seen[name], "%s has two columns %s", s.args, name)
			seen[name] = true
		}
		if i := strings.IndexAny(out, drawing); i >= 0 {
			t.Errorf("tovrel %s --output csv draws: %s", s.args, out[i:min(len(out), i+40)])
		}
	}
	list, err := csv.NewReader(strings.NewReader(shell(t, dir, "tovrel data list --output csv", ""))).ReadAll()
	require.NoError(t, err)
	for _, row := range list {
		require.NotContains(t, row, "", "each table's row names its dataset, its state and its day")
	}
	ranking := shell(t, dir, "tovrel compare 1 2 3 --output csv", "")
	require.Regexp(t, `(?m)^1,scribe@3,3,0\.9524,0\.8370 to 0\.9873,`, ranking)
	require.Regexp(t, `(?m)^accuracy,0\.8,0\.952380\d*,met,`, shell(t, dir, "tovrel gate scribe@3 --against scribe@2 --output csv", ""))
	require.Regexp(t, `(?m)^row,expected district,expected litres,answer district,answer litres\ndiffers,Old Lock,`,
		shell(t, dir, "tovrel show 2 milk-basics/top-district-may --output csv", ""))
}

// TestJSONOfEveryCommand: each command's JSON is one document, the same whatever the terminal, and as it was approved.
func TestJSONOfEveryCommand(t *testing.T) {
	t.Parallel()
	for _, s := range screens {
		out := formOf(t, s.name, "json")
		require.True(t, json.Valid([]byte(out)), "%s: %s", s.args, out)
		holds(t, s.name+".json", joined(machineHeld(out, "json")))
	}
}

// joined writes what lies deeper than two levels of a JSON text on the line of what holds it: one line for an attempt or a row, which is
// what changes together.
func joined(text string) string {
	var b strings.Builder
	for i, line := range strings.Split(text, "\n") {
		inner := strings.TrimLeft(line, " ")
		deep := len(line) - len(inner)
		const level = 2
		if deep > 2*level || deep == 2*level && (strings.HasPrefix(inner, "}") || strings.HasPrefix(inner, "]")) {
			b.WriteString(" " + inner)
			continue
		}
		if i > 0 {
			b.WriteByte('\n')
		}
		b.WriteString(line)
	}
	return b.String()
}

// TestMarkdownOfEveryCommand: tables have as many cells in each row, and nothing is drawn that the words do not say.
func TestMarkdownOfEveryCommand(t *testing.T) {
	t.Parallel()
	dir := demoFolder(t)
	for _, s := range screens {
		out := formOf(t, s.name, "md")
		holds(t, s.name+".md", machineHeld(out, "md"))
		bars, fenced := 0, false
		for line := range strings.SplitSeq(out, "\n") {
			fenced = fenced != strings.HasPrefix(line, "```")
			if fenced || !strings.HasPrefix(line, "|") {
				bars = 0
				continue
			}
			count := strings.Count(strings.ReplaceAll(line, `\|`, ""), "|")
			require.True(t, bars == 0 || bars == count, "%s: a row of %d cells in a table of %d: %s", s.args, count, bars, line)
			bars = count
		}
	}
	require.Contains(t, shell(t, dir, "tovrel show 2 milk-basics/top-district-may --output markdown", ""),
		"| expected district | expected litres | answer district | answer litres |")
}

// hinted finds the commands that an output proposes.
var hinted = regexp.MustCompile("`(tovrel [^`]+)`")

// TestHints: each command that an output proposes is run as it is written, and is taken. Only what stands for words of one's own is
// filled in.
func TestHints(t *testing.T) {
	t.Parallel()
	from := demoFolder(t)
	dir := filepath.Join(t.TempDir(), "demo")
	require.NoError(t, os.CopyFS(dir, os.DirFS(from)))
	commands := []string{"rescore 1 2", "set check --advice", "set draft dairy --count 3", "data twin toolshed --count 1",
		"data profile toolshed", "data profile dairy --write", "history", "show 5",
		"show 1 milk-basics/best-farm", "ask --help"}
	outs := map[string]string{}
	for _, s := range screens {
		commands = append(commands, s.args)
		outs[s.args] = formOf(t, s.name, "000.txt")
	}
	tried := map[string]bool{}
	for _, c := range commands {
		out, has := outs[c]
		if !has {
			out = shell(t, dir, "tovrel "+c+" 2>&1", "")
		}
		for _, m := range hinted.FindAllStringSubmatch(out, -1) {
			hint := m[1]
			if tried[hint] {
				continue
			}
			tried[hint] = true
			line := strings.NewReplacer("SELECT …", "SELECT 1 AS one").Replace(hint)
			if line == "tovrel run" {
				line += " --dry-run" // seven translators, one of which is a service that is not there
			}
			if strings.HasPrefix(line, "tovrel run --twins") {
				line += " -t scribe@3"
			}
			cmd := exec.Command("sh", "-c", line+" </dev/null")
			cmd.Dir = dir
			cmd.Env = append(os.Environ(), "PATH="+filepath.Dir(program(t))+":"+os.Getenv("PATH"))
			got, err := cmd.CombinedOutput()
			if err != nil {
				require.Equal(t, 1, cmd.ProcessState.ExitCode(), "%s, proposed by tovrel %s: %s", hint, c, got)
			}
		}
	}
	require.Greater(t, len(tried), 12)
	outside := tovrel(t, t.TempDir(), "show", "1")
	require.Equal(t, 3, outside.code)
	require.Contains(t, outside.err, "begin one here with `tovrel init`")
	require.NotContains(t, shell(t, dir, "tovrel data profile dairy --write", ""), "--write", "what was just done is not proposed")
	require.NotContains(t, shell(t, dir, "tovrel rescore 2", ""), "--rescored", "no verdict changed: there is nothing to see")
}
