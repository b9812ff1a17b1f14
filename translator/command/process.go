package command

import (
	"errors"
	"io"
	"os"
	"os/exec"
	"time"

	"tovrel/children"
	"tovrel/core/fault"
	"tovrel/translator"
)

// running is a program with its streams. They are files, so that its end is seen at once, whatever else holds them open.
type running struct {
	child   *children.Child
	in      io.WriteCloser
	copied  chan struct{} // closed when a stream was read to its end, one for each
	streams []*os.File
}

// start starts the program; what it prints goes to two writers.
func (a *asker) start(out, complaint io.Writer) (*running, error) {
	cmd := exec.Command(a.program, a.Run[1:]...)
	cmd.Dir, cmd.Env = a.Dir, Environment(a.Env)
	var inner []*os.File // the program's ends, closed here when it has them
	p := &running{copied: make(chan struct{}, 2)}
	pipe := func() (r, w *os.File) {
		r, w, err := os.Pipe()
		if err != nil {
			return nil, nil
		}
		return r, w
	}
	stdin, in := pipe()
	outRead, stdout := pipe()
	errRead, stderr := pipe()
	inner = append(inner, stdin, stdout, stderr)
	p.streams = []*os.File{in, outRead, errRead}
	for _, f := range append(inner, p.streams...) {
		if f == nil {
			p.close(inner)
			return nil, translator.Fail(fault.Transport, "the program cannot be run: no pipe can be opened (too many open files?)")
		}
	}
	cmd.Stdin, cmd.Stdout, cmd.Stderr = stdin, stdout, stderr
	child, err := children.Start(cmd)
	if err != nil {
		p.close(inner)
		return nil, translator.Fail(fault.Transport, "the program cannot be run: %v", err)
	}
	p.child, p.in = child, in
	for _, f := range inner {
		_ = f.Close()
	}
	for from, to := range map[*os.File]io.Writer{outRead: out, errRead: complaint} {
		go func() {
			_, _ = io.Copy(to, from)
			p.copied <- struct{}{}
		}()
	}
	return p, nil
}

// close closes what was opened for a program that was not started.
func (p *running) close(inner []*os.File) {
	for _, f := range append(inner, p.streams...) {
		if f != nil {
			_ = f.Close()
		}
	}
}

var errHeldOpen = errors.New("something it started holds its output open")

// drained waits until what the program printed is read, and closes its streams.
func (p *running) drained() error {
	defer p.close(nil)
	late := time.After(grace)
	for range 2 {
		select {
		case <-p.copied:
		case <-late:
			return errHeldOpen
		}
	}
	return nil
}
