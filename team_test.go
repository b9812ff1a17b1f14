package main_test

import (
	"database/sql"
	"encoding/json"
	"fmt"
	"math/rand/v2"
	"net/http/httptest"
	"os"
	"os/exec"
	"sync"
	"syscall"
	"testing"
	"time"

	_ "github.com/jackc/pgx/v5/stdlib" // the driver
	"github.com/stretchr/testify/require"

	"tovrel/servertest"
)

// crew is a workspace on a shared history, with a translator that counts what it is asked.
type crew struct {
	t       *testing.T
	dir     string
	schema  string
	admin   *sql.DB
	service *service
}

// newCrew makes the workspace: n questions, and more keys for the translator. It skips the test where there is no PostgreSQL.
func newCrew(t *testing.T, n int, delay time.Duration, keys string) *crew {
	t.Helper()
	has, err := hasServer("postgres")
	require.NoError(t, err)
	if !has {
		t.Skip("PostgreSQL does not run: see .ci/servers")
	}
	dsn := os.Getenv(servertest.Variables["postgres"])
	c := &crew{t: t, dir: t.TempDir(), schema: fmt.Sprintf("tovrel_crew_%d_%d", os.Getpid(), time.Now().UnixNano()),
		service: &service{asked: map[string]int{}, delay: delay}}
	if c.admin, err = sql.Open("pgx", dsn); err != nil {
		t.Fatal(err)
	}
	server := httptest.NewServer(c.service)
	t.Cleanup(func() {
		server.Close()
		_, err := c.admin.Exec("DROP SCHEMA IF EXISTS " + c.schema + " CASCADE")
		require.NoError(t, err)
		require.NoError(t, c.admin.Close())
	})
	t.Setenv("TOVREL_HISTORY", dsn+"&search_path="+c.schema+"&application_name="+c.schema)
	write(t, c.dir, "t.csv", []byte("a\n1\n"))
	write(t, c.dir, "golden/many.md", manyQuestions(n))
	write(t, c.dir, "tovrel.yaml", fmt.Appendf(nil, "tovrel: 1\nhistory: ${TOVREL_HISTORY}\ndatasets: {one: {tables: {t: t.csv}}}\n"+
		"translators:\n  web@1: {kind: http, url: %q, parallel: 4, retries: 0%s}\n", server.URL, keys))
	require.Zero(t, tovrel(t, c.dir, "data", "freeze", "--quiet").code)
	return c
}

// worker starts a worker.
func (c *crew) worker(args ...string) *exec.Cmd {
	cmd := exec.Command(program(c.t), append([]string{"work", "--quiet"}, args...)...)
	cmd.Dir = c.dir
	require.NoError(c.t, cmd.Start())
	return cmd
}

// run makes a run of the team, in the background.
func (c *crew) run(args ...string) <-chan ran {
	out := make(chan ran, 1)
	go func() {
		out <- tovrel(c.t, c.dir, append([]string{"run", "--team", "--quiet", "--output", "json"}, args...)...)
	}()
	return out
}

// whole makes sure that run 1 has n attempts, each once and right, and gives how many asks were more than one each.
func (c *crew) whole(n int) (again int) {
	c.t.Helper()
	var shown struct {
		State    string `json:"state"`
		Total    int    `json:"attempts_total"`
		Attempts []struct{ Question, Verdict string }
	}
	require.NoError(c.t, json.Unmarshal([]byte(tovrel(c.t, c.dir, "show", "1", "--output", "json").out), &shown))
	require.Equal(c.t, "complete", shown.State)
	seen := map[string]bool{}
	for _, a := range shown.Attempts {
		require.Equal(c.t, "right", a.Verdict)
		require.False(c.t, seen[a.Question], "%s stands twice", a.Question)
		seen[a.Question] = true
	}
	require.Len(c.t, seen, n)
	require.Len(c.t, c.service.asked, n)
	for _, asks := range c.service.asked {
		again += asks - 1
	}
	return again
}

// TestTeamKilled: workers that are killed at random, and a server that drops everybody in the middle, cost no attempt and make none twice;
// nothing is asked again but what was in flight.
func TestTeamKilled(t *testing.T) {
	const questions, kills = 300, 12
	c := newCrew(t, questions, 20*time.Millisecond, "")
	random := rand.New(rand.NewPCG(24, 1)) //nolint:gosec // a test's
	workers := []*exec.Cmd{c.worker(), c.worker(), c.worker()}
	done := c.run()
	require.Eventually(t, func() bool { return c.service.count() > 0 }, time.Minute, 10*time.Millisecond)
	for i := range kills {
		time.Sleep(time.Duration(100+random.IntN(200)) * time.Millisecond)
		which := random.IntN(len(workers))
		_ = workers[which].Process.Kill()
		_ = workers[which].Wait()
		workers[which] = c.worker()
		if i == kills/2 {
			_, err := c.admin.Exec("SELECT pg_terminate_backend(pid) FROM pg_stat_activity WHERE application_name = $1", c.schema)
			require.NoError(t, err)
		}
	}
	r := <-done
	require.Zero(t, r.code, r.err)
	var all sync.WaitGroup
	for _, w := range workers {
		all.Go(func() {
			_ = w.Process.Signal(syscall.SIGINT)
			_ = w.Wait()
		})
	}
	all.Wait()
	require.LessOrEqual(t, c.whole(questions), (kills+len(workers))*4, "only asks in flight are asked again")
	left := 0
	require.NoError(t, c.admin.QueryRow(fmt.Sprintf("SELECT (SELECT count(*) FROM %[1]s.offer) + (SELECT count(*) FROM %[1]s.river_job)",
		c.schema)).Scan(&left))
	require.Zero(t, left, "nothing is left on the desk")
}

// TestTeamCutOff: a worker that stands still past its lease loses its parts to another; when it goes on, what it has is not stored twice.
func TestTeamCutOff(t *testing.T) {
	const questions = 8
	c := newCrew(t, questions, 600*time.Millisecond, "")
	cutOff := c.worker()
	done := c.run()
	require.Eventually(t, func() bool { // it has parts, and asks
		var taken int
		err := c.admin.QueryRow("SELECT count(*) FROM " + c.schema + ".river_job WHERE state = 'running'").Scan(&taken)
		return err == nil && taken >= 4
	}, time.Minute, 20*time.Millisecond)
	require.NoError(t, cutOff.Process.Signal(syscall.SIGSTOP))
	other := c.worker()
	r := <-done
	require.Zero(t, r.code, r.err)
	require.NoError(t, cutOff.Process.Signal(syscall.SIGCONT))
	time.Sleep(2 * time.Second) // it goes on with what it had
	for _, w := range []*exec.Cmd{cutOff, other} {
		_ = w.Process.Signal(syscall.SIGINT)
		_ = w.Wait()
	}
	require.LessOrEqual(t, c.whole(questions), 4)
}

// TestTeamBounds: the rate of a translator and the budget of a run hold over all workers together.
func TestTeamBounds(t *testing.T) {
	const questions = 60
	c := newCrew(t, questions, time.Millisecond, ", rate: 20")
	for range 3 {
		w := c.worker()
		t.Cleanup(func() {
			_ = w.Process.Signal(syscall.SIGINT)
			_ = w.Wait()
		})
	}
	began := time.Now()
	r := <-c.run()
	require.Zero(t, r.code, r.err)
	require.GreaterOrEqual(t, time.Since(began), time.Duration(questions-1)*time.Second/20)
	require.Zero(t, c.whole(questions))

	c.service.cost = 1
	r = <-c.run("--budget", "20")
	require.Zero(t, r.code, r.err)
	var runs []struct {
		Cost  float64 `json:"cost"`
		State string  `json:"state"`
	}
	require.NoError(t, json.Unmarshal([]byte(r.out), &runs))
	require.Equal(t, "stopped", runs[0].State)
	require.GreaterOrEqual(t, runs[0].Cost, 20.0-12)
	require.LessOrEqual(t, runs[0].Cost, 20.0+12, "no more than was in flight before any cost was known")
}
