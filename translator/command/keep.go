package command

import (
	"bufio"
	"context"
	"encoding/json"
	"errors"
	"io"
	"os/exec"
	"sync"
	"syscall"
	"time"

	"tovrel/core/fault"
	"tovrel/translator"
)

// keeper asks long-lived processes, each one question at a time. As many run as there are asks at once; one that dies is
// replaced at the next ask.
type keeper struct {
	asker
	mu   sync.Mutex
	idle []*process
}

// process is a program that waits for a line.
type process struct {
	cmd       *exec.Cmd
	in        io.WriteCloser
	out       *bufio.Reader
	complaint *bounded
}

// Close ends all processes that wait.
func (k *keeper) Close() error {
	k.mu.Lock()
	defer k.mu.Unlock()
	for _, p := range k.idle {
		p.stop()
	}
	k.idle = nil
	return nil
}

// take gives a process that waits, or a new one. One that died while it waited shows that at the first write, and its ask is tried
// again with another.
func (k *keeper) take() (*process, error) {
	k.mu.Lock()
	if n := len(k.idle); n > 0 {
		p := k.idle[n-1]
		k.idle = k.idle[:n-1]
		k.mu.Unlock()
		return p, nil
	}
	k.mu.Unlock()
	return k.start()
}

func (k *keeper) giveBack(p *process) {
	k.mu.Lock()
	defer k.mu.Unlock()
	k.idle = append(k.idle, p)
}

func (k *keeper) start() (*process, error) {
	cmd := exec.Command(k.program, k.Run[1:]...)
	cmd.Dir, cmd.Env = k.Dir, Environment(k.Env)
	cmd.SysProcAttr = &syscall.SysProcAttr{Setpgid: true, Pdeathsig: syscall.SIGKILL}
	p := &process{cmd: cmd, complaint: &bounded{most: 4 << 10}}
	cmd.Stderr = p.complaint
	in, err := cmd.StdinPipe()
	if err != nil {
		return nil, err
	}
	out, err := cmd.StdoutPipe()
	if err != nil {
		return nil, err
	}
	if err := cmd.Start(); err != nil {
		return nil, translator.Fail(fault.Transport, "the program cannot be run: %v", err)
	}
	p.in, p.out = in, bufio.NewReaderSize(out, 1<<16)
	return p, nil
}

// stop ends the process and what it started.
func (p *process) stop() {
	_ = p.in.Close()
	_ = syscall.Kill(-p.cmd.Process.Pid, syscall.SIGKILL)
	_ = p.cmd.Wait()
}

// Ask writes a line and waits for one.
func (k *keeper) Ask(ctx context.Context, r translator.Request) (translator.Answered, error) {
	body, err := json.Marshal(r)
	if err != nil {
		return translator.Answered{}, err
	}
	start := time.Now()
	p, err := k.take()
	if err != nil {
		return translator.Answered{}, err
	}
	lines := make(chan lineRead, 1)
	go func() { lines <- p.exchange(append(body, '\n')) }()
	timer := time.NewTimer(k.Timeout)
	defer timer.Stop()
	select {
	case <-ctx.Done():
		p.stop()
		return translator.Answered{}, ctx.Err()
	case <-timer.C:
		p.stop()
		return translator.Answered{Latency: time.Since(start)}, translator.Fail(fault.NoReply, "no reply within %s; the program was stopped", k.Timeout)
	case got := <-lines:
		answered := translator.Answered{Raw: got.line, Latency: time.Since(start)}
		if got.err != nil {
			p.stop()
			return answered, k.broke(p, got.err)
		}
		k.giveBack(p)
		answered.Reply, err = translator.ParseReply(got.line)
		return answered, err
	}
}

type lineRead struct {
	line []byte
	err  error
}

var errTooLong = errors.New("the line is too long")

func (p *process) exchange(line []byte) lineRead {
	if _, err := p.in.Write(line); err != nil {
		return lineRead{err: err}
	}
	var out []byte
	for {
		part, err := p.out.ReadSlice('\n')
		if len(out)+len(part) > translator.MaxReply {
			return lineRead{err: errTooLong}
		}
		out = append(out, part...)
		if !errors.Is(err, bufio.ErrBufferFull) {
			return lineRead{out, err}
		}
	}
}

// broke tells why a process gave no line.
func (k *keeper) broke(p *process, err error) error {
	if errors.Is(err, errTooLong) {
		return translator.Fail(fault.MalformedReply, "the program printed a line of more than %d MB; it was stopped", translator.MaxReply>>20)
	}
	return translator.Fail(fault.Transport, "the program ended without a reply%s", said(p.complaint.Bytes()))
}
