package engine

import (
	"bufio"
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"os"
	"os/exec"
	"strconv"
	"strings"
	"sync"
	"syscall"
	"time"

	"tovrel/core/fault"
	"tovrel/core/pattern"
	"tovrel/core/table"
	"tovrel/trouble"
)

const (
	// watchEvery is how often a running worker's memory is looked at.
	watchEvery = 15 * time.Millisecond
	// watchRemote is how often one whose queries run on a server is: what it holds is bounded by its result.
	watchRemote = 200 * time.Millisecond
	// grace is how long past its deadline a worker may take to stop by itself; some queries do not honour interrupts.
	grace = 300 * time.Millisecond
	// startTime bounds a worker's start.
	startTime = 20 * time.Second
)

// WorkerCommand is the hidden command under which the program starts itself as a worker.
const WorkerCommand = "worker"

// worker is one process with an open dataset.
type worker struct {
	cmd    *exec.Cmd
	in     *bufio.Writer
	closer io.Closer
	out    *bufio.Reader
	stderr *complaint
	gone   bool // dead, or no longer to be used
	served int  // queries that it was asked before
	remote bool // its queries run on a server, where they are to be stopped too
}

// startWorker starts a process and waits until its database is open. It gets no environment and dies with this process.
func startWorker(program string, setup Setup) (*worker, error) {
	cmd := exec.Command(program, WorkerCommand)
	cmd.Env = []string{"HOME=/nonexistent", "TZ=UTC"}
	cmd.SysProcAttr = &syscall.SysProcAttr{Pdeathsig: syscall.SIGKILL, Setpgid: true}
	w := &worker{cmd: cmd, stderr: &complaint{}, remote: setup.Server.DSN != ""}
	cmd.Stderr = w.stderr
	in, err := cmd.StdinPipe()
	if err != nil {
		return nil, unstartable(err)
	}
	out, err := cmd.StdoutPipe()
	if err != nil {
		return nil, unstartable(err)
	}
	w.in, w.closer, w.out = bufio.NewWriter(in), in, bufio.NewReaderSize(out, 1<<16)
	if err := cmd.Start(); err != nil {
		return nil, unstartable(err)
	}
	if err := w.handshake(setup); err != nil {
		w.stop()
		return nil, err
	}
	return w, nil
}

// unstartable says that the machine starts no worker, and what that is for want of.
func unstartable(err error) error {
	hint := ""
	if errors.Is(err, syscall.EMFILE) || errors.Is(err, syscall.ENFILE) {
		hint = "; allow this program more open files (ulimit -n 1024)"
	}
	return trouble.New(trouble.Unreadable, "the data cannot be read, since a query worker cannot be started: %w%s", err, hint)
}

func (w *worker) handshake(setup Setup) error {
	timer := time.AfterFunc(startTime, w.kill)
	defer timer.Stop()
	if err := sendJSON(w.in, messageSetup, setup); err != nil {
		return trouble.New(trouble.Unreadable, "a query worker cannot be reached: %w", err)
	}
	kind, body, err := readMessage(w.out)
	if err != nil {
		return trouble.New(trouble.Unreadable, "a query worker died when it was started: %w %s", err, w.stderr.said())
	}
	if kind != messageReady {
		var failure refused
		_ = json.Unmarshal(body, &failure)
		if w.remote {
			return trouble.New(trouble.Unreadable, "the server of the dataset cannot be used: %s", failure.Message)
		}
		return trouble.New(trouble.Unreadable, "the frozen dataset %s cannot be opened: %s; remove it, and it is made again "+
			"from its files", setup.File, failure.Message)
	}
	return nil
}

// reply is a worker's whole answer, or the error of the pipe.
type reply struct {
	result Result
	err    error
}

// ask sends a request and waits for the answer, the deadline, the memory limit or the context, whichever is first.
func (w *worker) ask(ctx context.Context, request Request, limits Limits) (Result, error) {
	w.served++
	answers := make(chan reply, 1)
	go func() {
		var a reply
		defer func() {
			if value := recover(); value != nil {
				a.err = fmt.Errorf("a query worker sent what cannot be read: %v", value)
			}
			answers <- a
		}()
		a.result, a.err = w.exchange(request, limits)
	}()
	deadline := time.NewTimer(limits.Time + grace)
	defer deadline.Stop()
	every := watchEvery
	if w.remote {
		every = watchRemote
	}
	watch := time.NewTicker(every)
	defer watch.Stop()
	var stopped error
	for {
		select {
		case a := <-answers:
			return w.judge(a, stopped, limits)
		case <-deadline.C:
			stopped = tooSlow(limits)
			w.kill()
		case <-watch.C:
			if stopped == nil && w.resident() > limits.Memory {
				stopped = tooBig(limits)
				w.kill()
			}
		case <-ctx.Done():
			stopped = ctx.Err()
			w.kill()
			<-answers
			w.gone = true
			return Result{}, stopped
		}
	}
}

// judge tells what an answer means: why the worker was stopped, why it died, or what it says.
func (w *worker) judge(a reply, stopped error, limits Limits) (Result, error) {
	if stopped != nil {
		w.gone = true
		return Result{}, stopped
	}
	var failure *Failure
	var broken *Broken
	switch {
	case a.err == nil:
		w.gone = w.resident() > limits.Memory/4*3 // what an earlier query left would be held against the next one
		return a.result, nil
	case errors.As(a.err, &broken):
		w.gone = true
		return Result{}, broken
	case errors.As(a.err, &failure):
		w.gone = wantsMemory(failure, limits)
		return Result{}, failure
	}
	w.gone = true // the pipe broke: the worker died
	w.kill()
	_ = w.cmd.Wait()
	if said := w.stderr.said(); strings.Contains(said, "out of memory") || strings.Contains(said, "cannot allocate memory") ||
		strings.Contains(said, "bad_alloc") {
		return Result{}, tooBig(limits)
	}
	return Result{}, &Failure{Code: fault.EngineError, Message: "the engine crashed on this query", Position: -1}
}

// memoryWords are how engines and their libraries say that there is no memory.
var memoryWords = pattern.Of(`(?i)out of memory|(cannot|could not|can't|failed to|unable to) (allocate|reserve|map|` +
	`create (a )?(new )?(os )?thread)|bad_?\s?alloc|memory (limit|allocation)|not enough memory|allocation fail|ENOMEM`)

// wantsMemory tells a failure for want of memory, however it is worded. A result that is too large is none.
func wantsMemory(f *Failure, limits Limits) bool {
	return errors.Is(f, tooBig(limits)) || memoryWords.MatchString(f.Message)
}

// doubtful tells a failure that may be due to what a worker did before, rather than to the query.
func doubtful(f *Failure, limits Limits) bool {
	return f.Code == fault.EngineError && !f.Foreign || wantsMemory(f, limits)
}

// exchange is one request and its answer over the pipes.
func (w *worker) exchange(request Request, limits Limits) (Result, error) {
	if err := sendJSON(w.in, messageQuery, request); err != nil {
		return Result{}, err
	}
	t := &table.Table{}
	var sent int64
	for {
		kind, body, err := readMessage(w.out)
		if err != nil {
			return Result{}, err
		}
		switch kind {
		case messageColumns:
			var heads []columnHead
			if err := json.Unmarshal(body, &heads); err != nil {
				return Result{}, err
			}
			if t, err = emptyTable(heads); err != nil {
				return Result{}, err
			}
		case messageBatch:
			if sent += int64(len(body)); sent > limits.Result {
				return Result{}, fmt.Errorf("a query worker sent more than the limit")
			}
			if err := decodeBatch(t, body); err != nil {
				return Result{}, err
			}
		case messageDone:
			var end done
			err := json.Unmarshal(body, &end)
			return Result{t, []byte(end.Tree), end.Instead, end.Rules, time.Duration(end.Microseconds) * time.Microsecond}, err
		case messageFailed:
			var failure refused
			if err := json.Unmarshal(body, &failure); err != nil {
				return Result{}, err
			}
			if failure.Replace {
				return Result{}, &Broken{&failure.Failure}
			}
			return Result{}, &failure.Failure
		default:
			return Result{}, fmt.Errorf("a query worker sent a message of kind %q", kind)
		}
	}
}

// resident is the worker's resident memory in bytes; 0 when it cannot be told.
func (w *worker) resident() int64 {
	b, err := os.ReadFile("/proc/" + strconv.Itoa(w.cmd.Process.Pid) + "/statm")
	if err != nil {
		return 0
	}
	fields := bytes.Fields(b)
	if len(fields) < 2 {
		return 0
	}
	pages, _ := strconv.ParseInt(string(fields[1]), 10, 64)
	return pages * int64(os.Getpagesize())
}

// kill ends the process. One with a query on a server is told to stop that first, and ends itself.
func (w *worker) kill() {
	if w.remote {
		_ = w.cmd.Process.Signal(syscall.SIGTERM)
		time.AfterFunc(farewell, func() { _ = w.cmd.Process.Kill() })
		return
	}
	_ = w.cmd.Process.Kill()
}

// farewell is how long a worker may take to have a server stop its query.
const farewell = 700 * time.Millisecond

// stop ends the process and waits for it. It may be called on nil.
func (w *worker) stop() {
	if w == nil {
		return
	}
	_ = w.closer.Close()
	w.kill()
	_ = w.cmd.Wait()
}

// complaint keeps the beginning of what a worker says on standard error: a crash begins with its reason.
type complaint struct {
	mu   sync.Mutex
	text []byte
}

const complaintSize = 8 << 10

func (t *complaint) Write(p []byte) (int, error) {
	t.mu.Lock()
	defer t.mu.Unlock()
	t.text = append(t.text, p...)
	t.text = t.text[:min(len(t.text), complaintSize)]
	return len(p), nil
}

func (t *complaint) said() string {
	t.mu.Lock()
	defer t.mu.Unlock()
	return string(t.text)
}
