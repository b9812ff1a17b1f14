// Package command asks a translator that is a program: one process for each question, the request as JSON on its standard
// input, the reply as JSON on its standard output; or long-lived processes that answer a line with a line.
package command

import (
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"os"
	"os/exec"
	"strings"
	"sync"
	"syscall"
	"time"

	"tovrel/core/fault"
	"tovrel/translator"
)

// grace is how long a program may take to stop after it was interrupted, before it is killed.
const grace = 2 * time.Second

// passed are the environment variables that every program gets: what it needs to find itself, and nothing secret.
var passed = []string{"PATH", "HOME", "LANG", "LC_ALL", "TZ", "TMPDIR"}

// Settings say what to run.
type Settings struct {
	Run     []string // the program and its arguments
	Dir     string   // where it runs
	Env     []string // names of further environment variables that pass
	Keep    bool     // one process for all asks, a line for a line
	Timeout time.Duration
}

// New makes an asker. The error names a program that cannot be found.
func New(s Settings) (translator.Asker, error) {
	program := s.Run[0]
	if !strings.ContainsRune(program, '/') {
		found, err := exec.LookPath(program)
		if err != nil {
			return nil, fmt.Errorf("the program %s is not found; name it by its path, or put it on the PATH", program)
		}
		program = found
	}
	if s.Keep {
		return &keeper{asker: asker{s, program}}, nil
	}
	return &asker{s, program}, nil
}

type asker struct {
	Settings
	program string
}

func (a *asker) Close() error { return nil }

// Ask runs the program once.
func (a *asker) Ask(ctx context.Context, r translator.Request) (translator.Answered, error) {
	body, err := json.Marshal(r)
	if err != nil {
		return translator.Answered{}, err
	}
	timed, cancel := context.WithTimeout(ctx, a.Timeout)
	defer cancel()
	out := &bounded{most: translator.MaxReply, full: cancel}
	complaint := &bounded{most: 4 << 10}
	cmd := a.process(timed, append(body, '\n'), out, complaint)
	start := time.Now()
	err = cmd.Run()
	answered := translator.Answered{Raw: out.Bytes(), Latency: time.Since(start)}
	switch {
	case ctx.Err() != nil:
		return answered, ctx.Err()
	case out.Overflowed():
		return answered, translator.Fail(fault.MalformedReply, "the program printed more than %d MB; it was stopped", translator.MaxReply>>20)
	case timed.Err() != nil:
		return answered, translator.Fail(fault.NoReply, "no reply within %s; the program was stopped", a.Timeout)
	case err != nil:
		return answered, broken(err, complaint.Bytes())
	case len(bytes.TrimSpace(answered.Raw)) == 0:
		return answered, translator.Fail(fault.NoReply, "the program printed nothing%s", said(complaint.Bytes()))
	}
	answered.Reply, err = translator.ParseReply(answered.Raw)
	return answered, err
}

// process is in a group of its own, so that what it starts is stopped with it.
func (a *asker) process(ctx context.Context, input []byte, out, complaint *bounded) *exec.Cmd {
	cmd := exec.CommandContext(ctx, a.program, a.Run[1:]...)
	cmd.Dir = a.Dir
	cmd.Env = Environment(a.Env)
	cmd.Stdin = bytes.NewReader(input)
	cmd.Stdout, cmd.Stderr = out, complaint
	cmd.SysProcAttr = &syscall.SysProcAttr{Setpgid: true, Pdeathsig: syscall.SIGKILL}
	cmd.WaitDelay = grace
	cmd.Cancel = func() error {
		group := -cmd.Process.Pid
		time.AfterFunc(grace, func() { _ = syscall.Kill(group, syscall.SIGKILL) })
		return syscall.Kill(group, syscall.SIGINT)
	}
	return cmd
}

// Environment is what a program gets of this one's environment: what every program needs, and the named variables.
func Environment(names []string) []string {
	var env []string
	for _, name := range append(append([]string(nil), passed...), names...) {
		if v, ok := os.LookupEnv(name); ok {
			env = append(env, name+"="+v)
		}
	}
	return env
}

// broken tells a program that failed or could not start.
func broken(err error, complaint []byte) error {
	var exit *exec.ExitError
	if !errors.As(err, &exit) {
		if errors.Is(err, exec.ErrWaitDelay) {
			return translator.Fail(fault.Transport, "the program ended, but something it started held its output open")
		}
		return translator.Fail(fault.Transport, "the program cannot be run: %v", err)
	}
	if status, ok := exit.Sys().(syscall.WaitStatus); ok && status.Signaled() {
		return translator.Fail(fault.Transport, "the program was stopped by the signal %s%s", status.Signal(), said(complaint))
	}
	return translator.Fail(fault.Transport, "the program exited with code %d%s", exit.ExitCode(), said(complaint))
}

func said(complaint []byte) string {
	line := strings.TrimSpace(string(bytes.ToValidUTF8(complaint, nil)))
	if line == "" {
		return ""
	}
	lines := strings.Split(line, "\n")
	return fmt.Sprintf("; it said: %s", strings.TrimSpace(lines[len(lines)-1]))
}

// bounded keeps the first bytes of a stream and calls full once when there are more.
type bounded struct {
	mu       sync.Mutex
	b        bytes.Buffer
	most     int
	full     func()
	overflow bool
}

func (w *bounded) Write(p []byte) (int, error) {
	w.mu.Lock()
	defer w.mu.Unlock()
	room := w.most - w.b.Len()
	w.b.Write(p[:min(room, len(p))])
	if len(p) > room && !w.overflow {
		w.overflow = true
		if w.full != nil {
			w.full()
		}
	}
	return len(p), nil
}

func (w *bounded) Bytes() []byte {
	w.mu.Lock()
	defer w.mu.Unlock()
	return w.b.Bytes()
}

func (w *bounded) Overflowed() bool {
	w.mu.Lock()
	defer w.mu.Unlock()
	return w.overflow
}
