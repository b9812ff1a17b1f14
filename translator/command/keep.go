package command

import (
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"sync"
	"time"

	"tovrel/children"
	"tovrel/core/fault"
	"tovrel/translator"
)

// settled is how long a process is left alone after a reply before it gets another question: what it prints unasked shows by then.
const settled = 5 * time.Millisecond

// keeper asks long-lived processes, each one question at a time. As many run as there are asks at once. A line is taken for a reply
// only where nothing was waiting before the question was sent and nothing follows it: one stray line would shift all later replies by
// one. A process that said too much, or something that is no reply, is replaced, and its question asked once more.
type keeper struct {
	asker
	mu   sync.Mutex
	idle []*process // those longest idle first
}

// process is a program that waits for a line.
type process struct {
	*running
	said      *lines
	complaint *bounded
	ended     chan struct{} // closed when the program has ended and all that it printed is read
	since     time.Time     // when it gave its last reply
}

// Close ends all processes that wait.
func (k *keeper) Close() error {
	k.mu.Lock()
	defer k.mu.Unlock()
	for _, p := range k.idle {
		p.stop()
	}
	k.idle = nil
	children.Sweep()
	return nil
}

// take gives a process that waits and has said nothing unasked, or a new one.
func (k *keeper) take() (*process, error) {
	for {
		p := k.longestIdle()
		if p == nil {
			return k.start()
		}
		time.Sleep(settled - time.Since(p.since))
		if !p.said.anything() && !p.hasEnded() {
			return p, nil
		}
		p.stop()
	}
}

func (k *keeper) longestIdle() *process {
	k.mu.Lock()
	defer k.mu.Unlock()
	if len(k.idle) == 0 {
		return nil
	}
	p := k.idle[0]
	k.idle = k.idle[1:]
	return p
}

func (k *keeper) giveBack(p *process) {
	p.since = time.Now()
	k.mu.Lock()
	defer k.mu.Unlock()
	k.idle = append(k.idle, p)
}

func (k *keeper) start() (*process, error) {
	p := &process{said: newLines(translator.MaxReply), complaint: &bounded{most: 4 << 10}, ended: make(chan struct{})}
	var err error
	if p.running, err = k.asker.start(p.said, p.complaint); err != nil {
		return nil, err
	}
	go func() {
		defer close(p.ended)
		_ = p.child.Wait() // how it ended says less than what it said
		p.child.End()
		_ = p.drained()
	}()
	return p, nil
}

func (p *process) hasEnded() bool {
	select {
	case <-p.ended:
		return true
	default:
		return false
	}
}

// stop ends the process and what it started.
func (p *process) stop() {
	p.child.Kill()
	<-p.ended
}

// errUnclear says that a process's line is not to be taken for the reply.
type errUnclear struct{ failure error }

func (e *errUnclear) Error() string { return e.failure.Error() }

// Ask writes a line and waits for one.
func (k *keeper) Ask(ctx context.Context, r translator.Request) (translator.Answered, error) {
	body, err := json.Marshal(r)
	if err != nil {
		return translator.Answered{}, err
	}
	start := time.Now()
	answered, err := k.once(ctx, r, append(body, '\n'))
	var unclear *errUnclear
	if errors.As(err, &unclear) {
		answered, err = k.once(ctx, r, append(body, '\n'))
	}
	if errors.As(err, &unclear) {
		err = unclear.failure
	}
	answered.Latency = time.Since(start)
	return answered, err
}

// once asks one process. The error is *errUnclear where another should be asked.
func (k *keeper) once(ctx context.Context, r translator.Request, body []byte) (translator.Answered, error) {
	p, err := k.take()
	if err != nil {
		return translator.Answered{}, err
	}
	line, err := p.exchange(ctx, body, k.Timeout)
	answered := translator.Answered{Raw: line}
	if err == nil {
		answered.Reply, err = translator.ParseReply(line)
		if err == nil {
			err = translator.CheckID(answered.Reply, r)
		}
		if err == nil && p.said.anything() {
			err = translator.Fail(fault.MalformedReply,
				"the program printed more than one line for a question, so that its replies cannot be told apart: %.80q", p.said.next())
		}
		if err != nil {
			err = &errUnclear{err}
		}
	}
	if err != nil {
		p.stop()
		return answered, err
	}
	k.giveBack(p)
	return answered, nil
}

// exchange sends a line and waits for one.
func (p *process) exchange(ctx context.Context, line []byte, timeout time.Duration) ([]byte, error) {
	go func() { _, _ = p.in.Write(line) }() // a program that does not read is seen by the time
	timer := time.NewTimer(timeout)
	defer timer.Stop()
	for {
		ended := p.hasEnded() // looked at first: what it said last is there by then
		switch got := p.said.next(); {
		case got != nil:
			return got, nil
		case p.said.overflowed():
			return nil, translator.Fail(fault.MalformedReply, "the program printed a line of more than %d MB; it was stopped",
				translator.MaxReply>>20)
		case ended:
			return nil, translator.Fail(fault.Transport, "the program ended without a reply%s", said(p.complaint.Bytes()))
		}
		select {
		case <-ctx.Done():
			return nil, ctx.Err()
		case <-timer.C:
			return nil, translator.Fail(fault.NoReply, "no reply within %s; the program was stopped", timeout)
		case <-p.said.news:
		case <-p.ended:
		}
	}
}

// lines takes what a process prints apart into lines. A line without its end counts when something asks for anything at all.
type lines struct {
	mu      sync.Mutex
	whole   [][]byte
	partial []byte
	most    int // bytes kept in all
	over    bool
	news    chan struct{}
}

func newLines(most int) *lines { return &lines{most: most, news: make(chan struct{}, 1)} }

func (l *lines) Write(p []byte) (int, error) {
	l.mu.Lock()
	defer l.mu.Unlock()
	kept := len(l.partial)
	for _, line := range l.whole {
		kept += len(line)
	}
	if l.over = l.over || kept+len(p) > l.most; l.over {
		l.tell()
		return len(p), nil
	}
	l.partial = append(l.partial, p...)
	for {
		line, rest, ended := bytes.Cut(l.partial, []byte("\n"))
		if !ended {
			break
		}
		l.whole = append(l.whole, append([]byte{}, line...)) // an empty line is one too
		l.partial = rest
	}
	l.tell()
	return len(p), nil
}

func (l *lines) tell() {
	select {
	case l.news <- struct{}{}:
	default:
	}
}

// next is the first line that waits; nil for none.
func (l *lines) next() []byte {
	l.mu.Lock()
	defer l.mu.Unlock()
	if len(l.whole) == 0 {
		return nil
	}
	line := l.whole[0]
	l.whole = l.whole[1:]
	return line
}

// anything tells whether anything waits, be it the beginning of a line.
func (l *lines) anything() bool {
	l.mu.Lock()
	defer l.mu.Unlock()
	return len(l.whole) > 0 || len(l.partial) > 0 || l.over
}

func (l *lines) overflowed() bool {
	l.mu.Lock()
	defer l.mu.Unlock()
	return l.over && len(l.whole) == 0
}
