package engine

import (
	"bufio"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"time"

	"tovrel/core/fault"
	"tovrel/core/table"
)

// Database is what a worker holds: an open dataset that answers one query at a time.
type Database interface {
	// Run checks and runs a query and gives its rows to emit in batches of a few thousand; every batch has all columns.
	// Errors are *Failure or *Broken.
	Run(ctx context.Context, r Request, emit func(*table.Table) error) (Ran, error)
}

// Ran is what is known of a query besides its rows.
type Ran struct {
	Tree    []byte   // the serialised syntax tree of the query as written; nil where the engine has none
	Instead string   // the text that ran, where it is not the request's: of a syntax tree, or because it sees the dataset's today
	Rules   []string // by which a query of another dialect was rewritten; nil where it was not
	Elapsed time.Duration
}

// Broken says that the database can no longer be used after a failure.
type Broken struct{ Failure *Failure }

func (e *Broken) Error() string { return e.Failure.Error() }

// Serve is a worker's whole life: it reads a setup, opens the database and answers requests until its input ends. It errs where the
// pipe breaks or a message is none. What runs is stopped when the context ends.
func Serve(ctx context.Context, in io.Reader, out io.Writer, open func(Setup) (Database, error)) error {
	r, w := bufio.NewReader(in), bufio.NewWriterSize(out, 1<<16)
	var setup Setup
	if _, err := receive(r, messageSetup, &setup); err != nil {
		return err
	}
	db, err := open(setup)
	if err != nil {
		return sendJSON(w, messageFailed, refused{Failure: Failure{Code: fault.EngineError, Message: err.Error(), Position: -1}})
	}
	if err := sendJSON(w, messageReady, struct{}{}); err != nil {
		return err
	}
	for {
		var request Request
		ended, err := receive(r, messageQuery, &request)
		if ended || err != nil {
			return err
		}
		if err := answer(ctx, w, db, request, setup.Limits); err != nil {
			return err
		}
	}
}

// receive reads a message of one kind; ended is set when the input closed between messages.
func receive(r io.Reader, want byte, into any) (ended bool, err error) {
	kind, body, err := readMessage(r)
	if errors.Is(err, io.EOF) {
		return true, nil
	}
	if err != nil {
		return false, err
	}
	if kind != want {
		return false, fmt.Errorf("a message of kind %q came where %q was due", kind, want)
	}
	return false, json.Unmarshal(body, into)
}

// answer runs one request. Only an error of the wire is returned; the query's own failure is sent.
func answer(ctx context.Context, w *bufio.Writer, db Database, request Request, limits Limits) error {
	ctx, cancel := context.WithTimeout(ctx, limits.Time)
	defer cancel()
	s := &sender{w: w, limits: limits}
	ran, err := guarded(ctx, db, request, s.batch)
	if s.wire != nil {
		return s.wire
	}
	if err != nil {
		return sendJSON(w, messageFailed, asRefused(err, limits))
	}
	end := done{Microseconds: ran.Elapsed.Microseconds(), Instead: ran.Instead, Rules: ran.Rules}
	if request.Tree {
		end.Tree = string(ran.Tree)
	}
	return sendJSON(w, messageDone, end)
}

// guarded runs a request; a panic of the database, or of a function of ours in it, breaks the database and not the process.
func guarded(ctx context.Context, db Database, request Request, emit func(*table.Table) error) (ran Ran, err error) {
	defer func() {
		if value := recover(); value != nil {
			err = &Broken{&Failure{Code: fault.EngineError, Message: fmt.Sprintf("the engine broke on this query: %v", value),
				Position: -1}}
		}
	}()
	return db.Run(ctx, request, emit)
}

// asRefused puts an error into the form of the wire. What ran into the limits of time or memory says which.
func asRefused(err error, limits Limits) refused {
	var broken *Broken
	if errors.As(err, &broken) {
		return refused{*broken.Failure, true}
	}
	var failure *Failure
	switch {
	case !errors.As(err, &failure):
		failure = &Failure{Code: fault.EngineError, Message: err.Error(), Position: -1}
	case failure.Code == fault.TooSlow:
		failure = tooSlow(limits)
	case errors.Is(failure, ErrMemory):
		failure = tooBig(limits)
	}
	return refused{*failure, false}
}

// sender sends batches and stops a result that grows too large.
type sender struct {
	w       *bufio.Writer
	limits  Limits
	started bool
	rows    int
	bytes   int64
	wire    error
}

func (s *sender) batch(t *table.Table) error {
	if !s.started {
		s.started = true
		if s.wire = sendJSON(s.w, messageColumns, headsOf(t)); s.wire != nil {
			return s.wire
		}
	}
	s.rows += t.Rows()
	if s.rows > s.limits.Rows {
		return &Failure{Code: fault.TooBig, Message: fmt.Sprintf("the result has more than %d rows (limits: rows)",
			s.limits.Rows), Position: -1}
	}
	body := encodeBatch(t)
	s.bytes += int64(len(body))
	if s.bytes > s.limits.Result {
		return &Failure{Code: fault.TooBig, Message: fmt.Sprintf("the result is larger than %d MB (limits: result)",
			s.limits.Result>>20), Position: -1}
	}
	s.wire = sendMessage(s.w, messageBatch, body)
	return s.wire
}
