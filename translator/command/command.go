// Package command asks a translator that is a program: one process for each question, the request as JSON on its standard
// input, the reply as JSON on its standard output; or long-lived processes that answer a line with a line.
package command

import (
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"os"
	"os/exec"
	"strings"
	"sync"
	"syscall"
	"time"

	"tovrel/children"
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

// Close ends what programs left behind.
func (a *asker) Close() error {
	children.Sweep()
	return nil
}

// Ask runs the program once. When it has ended, everything that it started is ended too.
func (a *asker) Ask(ctx context.Context, r translator.Request) (translator.Answered, error) {
	body, err := json.Marshal(r)
	if err != nil {
		return translator.Answered{}, err
	}
	timed, cancel := context.WithTimeout(ctx, a.Timeout)
	defer cancel()
	out := &bounded{most: translator.MaxReply, full: cancel}
	complaint := &bounded{most: 4 << 10}
	start := time.Now()
	err = a.run(timed, append(body, '\n'), out, complaint)
	answered := translator.Answered{Raw: out.Bytes(), Latency: time.Since(start)}
	switch {
	case ctx.Err() != nil:
		return answered, ctx.Err()
	case out.Overflowed():
		return answered, translator.Fail(fault.MalformedReply, "the program printed more than %d MB; it was stopped",
			translator.MaxReply>>20)
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

// run runs the program to its end, or until the context ends: then it is interrupted, and killed if it does not stop.
func (a *asker) run(ctx context.Context, input []byte, out, complaint io.Writer) (err error) {
	p, err := a.start(out, complaint)
	if err != nil {
		return err
	}
	go func() {
		_, _ = p.in.Write(input) // a program may answer without having read its question
		_ = p.in.Close()
	}()
	ended := make(chan error, 1)
	go func() { ended <- p.child.Wait() }()
	select {
	case err = <-ended:
	case <-ctx.Done():
		p.child.Interrupt()
		select {
		case err = <-ended:
		case <-time.After(grace):
			p.child.Kill()
			err = <-ended
		}
	}
	p.child.End() // its output ends with the last of what holds it
	return errors.Join(err, p.drained())
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
	var failure *translator.Failure
	switch {
	case errors.As(err, &failure):
		return failure
	case errors.Is(err, errHeldOpen):
		return translator.Fail(fault.Transport, "the program ended, but %v", errHeldOpen)
	case !errors.As(err, &exit):
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
