package main_test

import (
	"encoding/json"
	"fmt"
	"io"
	"math/rand/v2"
	"net/http"
	"net/http/httptest"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/stretchr/testify/require"
)

// service is a translator over HTTP that remembers what it was asked, and answers with a secret in its reply where it was sent one.
type service struct {
	mu    sync.Mutex
	asked map[string]int
	delay time.Duration
	cost  float64 // of each ask
}

// count is how many questions were asked.
func (s *service) count() int {
	s.mu.Lock()
	defer s.mu.Unlock()
	return len(s.asked)
}

func (s *service) ServeHTTP(w http.ResponseWriter, r *http.Request) {
	var request struct {
		ID       string `json:"id"`
		Question string `json:"question"`
	}
	body, _ := io.ReadAll(r.Body)
	_ = json.Unmarshal(body, &request)
	time.Sleep(s.delay)
	s.mu.Lock()
	s.asked[request.ID+" "+request.Question]++
	s.mu.Unlock()
	_, _ = fmt.Fprintf(w, `{"query": "SELECT 1 AS n", "explanation": "asked with %s", "usage": {"cost": %g}}`, r.Header.Get("X-Api-Key"),
		s.cost)
}

// manyQuestions is a golden set of n questions.
func manyQuestions(n int) []byte {
	var b strings.Builder
	b.WriteString("---\ngolden-set: many\ndataset: one\n---\n")
	for i := range n {
		fmt.Fprintf(&b, "\n## Question number %d? {#q%d}\n\n| n |\n|--:|\n| 1 |\n", i, i)
	}
	return []byte(b.String())
}

// TestKilledRuns: a run of 500 attempts, killed at 20 random moments and gone on with each time, has every attempt exactly once, and
// asks nothing again whose reply was stored.
func TestKilledRuns(t *testing.T) {
	s := &service{asked: map[string]int{}, delay: 5 * time.Millisecond}
	server := httptest.NewServer(s)
	defer server.Close()
	dir := t.TempDir()
	write(t, dir, "t.csv", []byte("a\n1\n"))
	write(t, dir, "golden/many.md", manyQuestions(500))
	write(t, dir, "tovrel.yaml", fmt.Appendf(nil,
		"tovrel: 1\ndatasets: {one: {tables: {t: t.csv}}}\ntranslators:\n  web@1: {kind: http, url: %q, parallel: 4, "+
			"retries: 0}\n", server.URL))
	require.Zero(t, tovrel(t, dir, "data", "freeze", "--quiet").code)
	random := rand.New(rand.NewPCG(20310630, 1))
	args := []string{"run", "--quiet"}
	for range 20 {
		cmd := exec.Command(program(t), args...)
		cmd.Dir = dir
		require.NoError(t, cmd.Start())
		// on a busy machine the first start takes its time
		for end := time.Now().Add(20 * time.Second); s.count() == 0 && time.Now().Before(end); {
			time.Sleep(10 * time.Millisecond)
		}
		time.Sleep(time.Duration(60+random.IntN(140)) * time.Millisecond)
		_ = cmd.Process.Kill()
		_ = cmd.Wait()
		if _, err := os.Stat(filepath.Join(dir, ".tovrel", "history.db")); err == nil &&
			tovrel(t, dir, "show", "1", "--output", "csv").code == 0 {
			args = []string{"run", "--resume", "1", "--quiet"}
		}
	}
	done := tovrel(t, dir, "run", "--resume", "1", "--output", "json")
	require.Zero(t, done.code, done.err)
	var shown struct {
		State    string `json:"state"`
		Total    int    `json:"attempts_total"`
		Attempts []struct{ Question, Verdict string }
	}
	require.NoError(t, json.Unmarshal([]byte(tovrel(t, dir, "show", "1", "--output", "json").out), &shown))
	require.Equal(t, "complete", shown.State)
	require.Equal(t, 500, shown.Total)
	seen := map[string]bool{}
	for _, a := range shown.Attempts {
		require.Equal(t, "right", a.Verdict)
		require.False(t, seen[a.Question], "%s stands twice", a.Question)
		seen[a.Question] = true
	}
	require.Len(t, seen, 500)
	require.Len(t, s.asked, 500)
	again := 0
	for _, n := range s.asked {
		again += n - 1
	}
	require.LessOrEqual(t, again, 20*4, "only asks in flight when the run was killed may be asked again")
	asks := func() (all int) {
		for _, n := range s.asked {
			all += n
		}
		return all
	}
	before := asks()
	require.Zero(t, tovrel(t, dir, "run", "--resume", "1", "--quiet").code)
	require.Equal(t, before, asks(), "what is done is not asked again")
}

// TestSecrets: a secret that a service gives back is nowhere in the history, an output, a log or an error.
func TestSecrets(t *testing.T) {
	const canary = "canary-9b1f7e0c"
	t.Setenv("TEST_CANARY", canary)
	server := httptest.NewServer(&service{asked: map[string]int{}})
	dir := t.TempDir()
	write(t, dir, "t.csv", []byte("a\n1\n"))
	write(t, dir, "golden/many.md", manyQuestions(3))
	write(t, dir, "tovrel.yaml", fmt.Appendf(nil, `tovrel: 1
datasets: {one: {tables: {t: t.csv}}}
translators:
  web@1: {kind: http, url: %q, headers: {X-Api-Key: "${TEST_CANARY}"}}
  program@1: {kind: command, run: [sh, -c, "echo $TEST_CANARY >&2; exit 3"], env: [TEST_CANARY], retries: 0}
  gone@1: {kind: chat, url: "http://127.0.0.1:1/${TEST_CANARY}", model: m, key: "${TEST_CANARY}", retries: 0}
  unset@1: {kind: chat, url: "http://127.0.0.1:1/", model: m, key: "${TEST_NOT_SET}"}
`, server.URL))
	var said strings.Builder
	for _, name := range []string{"web@1", "program@1", "gone@1"} {
		r := tovrel(t, dir, "run", "-t", name, "--verbose")
		said.WriteString(r.out + r.err)
		for _, output := range []string{"table", "json", "csv", "markdown"} {
			said.WriteString(tovrel(t, dir, "show", "latest", "--output", output).out)
			said.WriteString(tovrel(t, dir, "show", "latest", "many/q0", "--output", output).out)
		}
		said.WriteString(tovrel(t, dir, "history", "export", "latest").out)
		said.WriteString(tovrel(t, dir, "ask", "-t", name, "one?").err)
	}
	require.Contains(t, said.String(), "exited with code 3; it said: ***")
	require.NotContains(t, said.String(), canary)
	server.Close()
	unset := tovrel(t, dir, "run", "-t", "unset@1")
	require.Equal(t, 4, unset.code)
	require.Contains(t, unset.err, "TEST_NOT_SET is not set")
	files, err := filepath.Glob(filepath.Join(dir, ".tovrel", "*"))
	require.NoError(t, err)
	for _, path := range files {
		if body, err := os.ReadFile(path); err == nil {
			require.NotContains(t, string(body), canary, path)
		}
	}
}

// TestTogether: two runs at once in one workspace do not disturb each other, and a run that is under way is not gone on with.
func TestTogether(t *testing.T) {
	s := &service{asked: map[string]int{}, delay: 20 * time.Millisecond}
	server := httptest.NewServer(s)
	defer server.Close()
	dir := t.TempDir()
	write(t, dir, "t.csv", []byte("a\n1\n"))
	write(t, dir, "golden/many.md", manyQuestions(60))
	write(t, dir, "tovrel.yaml", fmt.Appendf(nil,
		"tovrel: 1\ndatasets: {one: {tables: {t: t.csv}}}\ntranslators:\n  web@1: {kind: http, url: %q, parallel: 2}\n", server.URL))
	require.Zero(t, tovrel(t, dir, "data", "freeze", "--quiet").code)
	var both sync.WaitGroup
	for range 2 {
		both.Go(func() {
			if r := tovrel(t, dir, "run", "--output", "json"); r.code != 0 || !strings.Contains(r.out, `"right": 60,`) {
				t.Errorf("%d %s %s", r.code, r.out, r.err)
			}
		})
	}
	require.Eventually(t, func() bool {
		return strings.Contains(tovrel(t, dir, "run", "--resume", "1").err, "another process is at work on this run")
	}, 5*time.Second, 50*time.Millisecond)
	both.Wait()
}

// TestSchemas: every output that has a schema is printed by it, and agrees with it in its keys.
func TestSchemas(t *testing.T) {
	listed := tovrel(t, t.TempDir(), "schema", "--help").out
	for _, name := range []string{"workspace", "briefing", "request", "reply", "recorded", "exported-run", "run", "show",
		"match", "data-query"} {
		require.Contains(t, listed, name)
		got := tovrel(t, t.TempDir(), "schema", name)
		require.Zero(t, got.code, got.err)
		kept, err := os.ReadFile(filepath.Join("docs", "schema", name+".json"))
		require.NoError(t, err, "make schemas writes it")
		require.Equal(t, string(kept), got.out, "make schemas brings docs/schema up to date")
	}
	unknown := tovrel(t, t.TempDir(), "schema", "shw")
	require.Equal(t, 2, unknown.code)
	require.Contains(t, unknown.err, `did you mean "show"`)
}
