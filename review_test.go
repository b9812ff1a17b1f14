package main_test

import (
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// screenful is a program in a real terminal.
type screenful struct {
	t      *testing.T
	socket string
}

// inTerminal runs a command in a terminal of some size.
func inTerminal(t *testing.T, width, height int, dir, env, line string) *screenful {
	t.Helper()
	needs(t, "tmux")
	s := &screenful{t, filepath.Join(t.TempDir(), "tmux")}
	t.Cleanup(func() { _ = exec.Command("tmux", "-S", s.socket, "kill-server").Run() })
	s.tmux("-f", "/dev/null", "new-session", "-d", "-x", fmt.Sprint(width), "-y", fmt.Sprint(height),
		fmt.Sprintf("cd %s; export LANG=C.UTF-8 %s; %s; echo ended with $?; sleep 60", dir, env, line))
	return s
}

func (s *screenful) tmux(args ...string) string {
	s.t.Helper()
	out, err := exec.Command("tmux", append([]string{"-S", s.socket}, args...)...).CombinedOutput()
	require.NoError(s.t, err, string(out))
	return string(out)
}

// keys presses keys, by the names that the terminal has for them; others are typed as they are.
func (s *screenful) keys(all ...string) {
	s.t.Helper()
	for _, k := range all {
		s.tmux("send-keys", "-t", "0", k)
		time.Sleep(50 * time.Millisecond)
	}
}

// shows waits until the screen has some words, and gives it.
func (s *screenful) shows(words string) string {
	s.t.Helper()
	screen := ""
	for end := time.Now().Add(time.Minute); time.Now().Before(end); time.Sleep(100 * time.Millisecond) {
		if screen = s.tmux("capture-pane", "-p", "-t", "0"); strings.Contains(screen, words) {
			return screen
		}
	}
	s.t.Fatalf("the screen does not show %q:\n%s", words, screen)
	return ""
}

// reviewWorkspace is a workspace with a run of one right answer, two wrong ones, one doubtful reply.
func reviewWorkspace(t *testing.T) string {
	t.Helper()
	return ranIn(t, map[string]string{
		"tovrel.yaml": "tovrel: 1\ndatasets: {one: {tables: {t: t.csv}}}\ntranslators: {odd@1: {kind: recorded, file: r.jsonl}}\n",
		"t.csv":       "town,rain\nKiel,3\nUlm,5\nKiel,4\n",
		"golden/rain.md": "---\ngolden-set: rain\ndataset: one\n---\n\n" +
			"## How much rain fell? {#all}\n\n```sql\nSELECT sum(rain) AS rain FROM t\n```\n\n" +
			"## In how many towns? {#towns}\n\n```sql\nSELECT count(DISTINCT town) AS n FROM t\n```\n\n" +
			"## How much rain fell by town? {#by-town}\n\n```sql\nSELECT town, sum(rain) AS rain FROM t GROUP BY 1\n```\n\n" +
			"## What is rain? {#what}\n\n```yaml\nstates: [\"water that falls from clouds\"]\n```\n",
		"r.jsonl": `{"id": "rain/all", "reply": {"id": "rain/all", "query": "SELECT sum(rain) AS rain FROM t"}}
{"id": "rain/towns", "reply": {"id": "rain/towns", "query": "SELECT count(town) AS n FROM t"}}
{"id": "rain/by-town", "reply": {"id": "rain/by-town", "query": "SELECT town, avg(rain) AS rain FROM t GROUP BY 1"}}
{"id": "rain/what", "reply": {"id": "rain/what", "text": "It falls from clouds, I think."}}
`,
	})
}

// ranIn is a workspace of some files, in which the translator odd@1 was run.
func ranIn(t *testing.T, files map[string]string) string {
	t.Helper()
	dir := t.TempDir()
	for name, body := range files {
		path := filepath.Join(dir, name)
		require.NoError(t, os.MkdirAll(filepath.Dir(path), 0o755))
		require.NoError(t, os.WriteFile(path, []byte(body), 0o644))
	}
	cmd := exec.Command(program(t), "run", "-t", "odd@1", "--quiet")
	cmd.Dir = dir
	out, err := cmd.CombinedOutput()
	require.Contains(t, []int{0, 1}, cmd.ProcessState.ExitCode(), "%s %v", out, err)
	return dir
}

func goldenText(t *testing.T, dir string) string {
	t.Helper()
	body, err := os.ReadFile(filepath.Join(dir, "golden", "rain.md"))
	require.NoError(t, err)
	return string(body)
}

// A person goes through a run: looks, filters, decides, sees the diff, writes, takes back, at several sizes of the terminal.
func TestReviewInATerminal(t *testing.T) {
	dir := reviewWorkspace(t)
	before := goldenText(t, dir)
	s := inTerminal(t, 80, 24, dir, "", program(t)+" review")
	screen := s.shows("0 of 3 decided")
	for _, line := range strings.Split(strings.TrimRight(screen, "\n"), "\n") {
		assert.LessOrEqual(t, len([]rune(line)), 80)
	}
	assert.Contains(t, screen, "q quit", "the keys are all there at 80 columns")
	s.keys("/", "towns")
	s.shows("filter: towns")
	s.keys("Enter")
	s.shows("rain/towns is wrong")
	s.keys("k", "Enter")
	s.shows("It needs the reason.")
	s.keys("the towns are counted twice", "Enter")
	screen = s.shows("This would be written")
	assert.Contains(t, screen, `+known-wrong: "the towns are counted twice"`)
	assert.Equal(t, before, goldenText(t, dir), "nothing is written before it is agreed to")
	s.keys("Escape")
	s.shows("Nothing was written.")
	assert.Equal(t, before, goldenText(t, dir))
	s.keys("k", "the towns are counted twice", "Enter")
	s.shows("This would be written")
	s.keys("Enter")
	s.shows("1 of 3 decided")
	assert.Contains(t, goldenText(t, dir), `known-wrong: "the towns are counted twice"`)

	s.tmux("resize-window", "-x", "120", "-y", "40")
	s.keys("u")
	s.shows("Taken back: rain/towns")
	assert.Equal(t, before, goldenText(t, dir))

	s.keys("/", "Escape")
	s.shows("rain/what")
	s.keys("End", "Home", "Enter", "Down", "Up", "Escape", "/", "by-town", "Enter", "r", "as a mean", "Enter")
	s.shows("### Reading: as a mean")
	s.keys("Enter")
	s.shows("Written; u undoes it.")
	assert.Contains(t, goldenText(t, dir), "avg(rain)")
	s.keys("q")
	s.shows("Score the run again with `tovrel rescore 1`")
	s.shows("ended with 0")
}

// A reply that no rule could decide is decided on, also without colours and with marks of ASCII.
func TestReviewOfADoubtfulReply(t *testing.T) {
	dir := reviewWorkspace(t)
	s := inTerminal(t, 100, 30, dir, "NO_COLOR=1", "LANG=C "+program(t)+" review")
	s.shows("0 of 3 decided")
	assert.NotContains(t, s.tmux("capture-pane", "-e", "-p", "-t", "0"), "\x1b[38")
	s.keys("/", "what", "Enter", "y", "near enough", "Enter")
	s.shows(`"decision":"right"`)
	s.keys("Enter")
	s.shows("1 of 3 decided")
	kept, err := os.ReadFile(filepath.Join(dir, "golden", "decisions", "rain.jsonl"))
	require.NoError(t, err)
	assert.Contains(t, string(kept), `"why":"near enough"`)
	s.keys("u")
	s.shows("Taken back")
	_, err = os.Stat(filepath.Join(dir, "golden", "decisions", "rain.jsonl"))
	assert.ErrorIs(t, err, os.ErrNotExist, "it was not there before")
}

// The query is copied, the golden set opened at its question, in a terminal of 16 colours.
func TestReviewLeadsElsewhere(t *testing.T) {
	dir := reviewWorkspace(t)
	opened := filepath.Join(dir, "opened")
	editor := filepath.Join(dir, "editor.sh")
	require.NoError(t, os.WriteFile(editor, []byte("#!/bin/sh\necho \"$@\" > "+opened+"\n"), 0o755))
	s := inTerminal(t, 120, 40, dir, "EDITOR="+editor, "env -u TMUX -u COLORTERM TERM=xterm-16color "+program(t)+" review --sample 5")
	s.tmux("set-option", "-g", "set-clipboard", "on")
	s.shows("0 of 4 decided")
	colours := regexp.MustCompile(`\x1b\[[0-9;]*[34]8;`).FindAllString(s.tmux("capture-pane", "-e", "-p", "-t", "0"), -1)
	assert.Empty(t, colours, "colours beyond the sixteen")
	s.keys("/", "towns", "Enter", "c")
	s.shows("The query is copied")
	require.Eventually(t, func() bool {
		out, err := exec.Command("tmux", "-S", s.socket, "show-buffer").Output()
		return err == nil && strings.TrimSpace(string(out)) == "SELECT count(town) AS n FROM t"
	}, 20*time.Second, 100*time.Millisecond)
	s.keys("o")
	s.shows("Back from the editor.")
	said, err := os.ReadFile(opened)
	require.NoError(t, err)
	assert.Equal(t, "+12 "+filepath.Join(dir, "golden", "rain.md"), strings.TrimSpace(string(said)))
	s.keys("/", "Escape", "/", "rain/all", "Enter", "Enter")
	s.shows("There is nothing to decide about this one.")
	s.keys("u")
	s.shows("There is no decision of this review to take back.")
	s.keys("/", "Escape", "/", "nothing like it", "Enter")
	s.shows("nothing to look at")
	s.keys("c", "o", "Enter", "Down", "q")
	s.shows("No decision was taken.")
}

// A kill at any moment leaves every file whole: as it was, or as it was to be.
func TestReviewIsKilled(t *testing.T) {
	dir := reviewWorkspace(t)
	before := goldenText(t, dir)
	for n := range 6 {
		s := inTerminal(t, 80, 24, dir, "", "exec "+program(t)+" review")
		s.shows("0 of 3 decided")
		pid := strings.TrimSpace(s.tmux("display-message", "-p", "-t", "0", "#{pane_pid}"))
		s.keys("/", "towns", "Enter", "k", fmt.Sprint("reason ", n), "Enter")
		s.shows("This would be written")
		s.tmux("send-keys", "-t", "0", "Enter")
		time.Sleep(time.Duration(n) * 2 * time.Millisecond)
		s.tmux("kill-server")
		require.Eventually(t, func() bool {
			_, err := os.Stat("/proc/" + pid)
			return err != nil
		}, 20*time.Second, 50*time.Millisecond, "it ends with its terminal")
		after := goldenText(t, dir)
		if after != before {
			assert.Contains(t, after, fmt.Sprintf(`known-wrong: "reason %d"`, n))
			check := exec.Command(program(t), "set", "check", "--quiet")
			check.Dir = dir
			out, err := check.CombinedOutput()
			assert.NoError(t, err, string(out))
		}
		left, err := filepath.Glob(filepath.Join(dir, "golden", "*"))
		require.NoError(t, err)
		assert.Equal(t, []string{filepath.Join(dir, "golden", "rain.md")}, left, "no scratch file is left")
		require.NoError(t, os.WriteFile(filepath.Join(dir, "golden", "rain.md"), []byte(before), 0o644))
	}
}
