package engine

import (
	"bufio"
	"bytes"
	"encoding/binary"
	"encoding/json"
	"fmt"
	"io"

	"tovrel/core/table"
	"tovrel/core/value"
)

// The wire between the program and a worker: messages of one byte of kind, four of length, and a body. Bodies are JSON but
// for batches of rows, which are binary. A worker sends ready (or failed), then for each request either failed, or
// columns, any number of batches, and done (or failed).
const (
	messageSetup   = 'S'
	messageReady   = 'R'
	messageQuery   = 'Q'
	messageColumns = 'C'
	messageBatch   = 'B'
	messageDone    = 'D'
	messageFailed  = 'F'
)

// maxMessage bounds a message; a batch has at most a few thousand rows, but their texts may be long.
const maxMessage = 1 << 30

// firstRoom is how much memory is taken for a message before it comes.
const firstRoom = 64 << 10

// Setup is what a worker is told first.
type Setup struct {
	Engine  string `json:"engine"`
	File    string `json:"file"` // the frozen dataset
	Limits  Limits `json:"limits"`
	AsOf    string `json:"as_of,omitempty"` // what stands for the clock; "" for the clock itself
	Server  Server `json:"server,omitzero"` // where the dataset lives on one
	Careful bool   `json:"careful"`         // without the optimiser that is known to break on some queries
}

// Server says where on a server a dataset lives. It goes to a worker through its pipe alone: an environment or a command line can be seen.
type Server struct {
	DSN    string `json:"dsn,omitempty"`
	Schema string `json:"schema,omitempty"` // "" for the connection's own
}

// Request asks a worker for one query.
type Request struct {
	Dialect    string            `json:"dialect,omitempty"` // of SQL; "" for the embedded engine's, and on an SQLite file for its own
	There      bool              `json:"-"`                 // runs on the dataset's server, where it has one and a copy beside it
	Forms      map[string]string `json:"-"`                 // the same query in other dialects, where somebody wrote it
	SQL        string            `json:"sql"`
	Serialised string            `json:"serialised,omitempty"` // a syntax tree to write and run in place of SQL
	Tree       bool              `json:"tree"`                 // send the syntax tree back
	// run nothing: only the syntax tree is wanted; an engine without trees runs the query
	ParseOnly bool `json:"parse_only,omitempty"`
}

// done ends a result.
type done struct {
	Microseconds int64    `json:"us"`
	Tree         string   `json:"tree,omitempty"`
	Instead      string   `json:"instead,omitempty"`
	Rules        []string `json:"rules,omitempty"`
}

// refused is a failure on the wire; replace says that the worker's database can no longer be used.
type refused struct {
	Failure
	Replace bool `json:"replace,omitempty"`
}

type columnHead struct {
	Name  string     `json:"name"`
	Kind  value.Kind `json:"kind"`
	Scale int        `json:"scale,omitempty"`
}

func sendMessage(w *bufio.Writer, kind byte, body []byte) error {
	var head [5]byte
	head[0] = kind
	binary.LittleEndian.PutUint32(head[1:], uint32(len(body)))
	if _, err := w.Write(head[:]); err != nil {
		return err
	}
	if _, err := w.Write(body); err != nil {
		return err
	}
	return w.Flush()
}

func sendJSON(w *bufio.Writer, kind byte, v any) error {
	body, err := json.Marshal(v)
	if err != nil {
		return err
	}
	return sendMessage(w, kind, body)
}

func readMessage(r io.Reader) (kind byte, body []byte, err error) {
	var head [5]byte
	if _, err := io.ReadFull(r, head[:]); err != nil {
		return 0, nil, err
	}
	size := binary.LittleEndian.Uint32(head[1:])
	if size > maxMessage {
		return 0, nil, fmt.Errorf("a message of %d bytes is too large", size)
	}
	var read bytes.Buffer // it grows with what comes: a worker's word is no reason to take memory
	read.Grow(int(min(size, firstRoom)))
	if _, err = io.CopyN(&read, r, int64(size)); err == io.EOF {
		err = io.ErrUnexpectedEOF
	}
	return head[0], read.Bytes(), err
}

func headsOf(t *table.Table) []columnHead {
	heads := make([]columnHead, len(t.Columns))
	for i, c := range t.Columns {
		heads[i] = columnHead{c.Name, c.Type.Kind, c.Type.Scale}
	}
	return heads
}

// emptyTable has the columns that a worker announced. The error is of a kind that there is not.
func emptyTable(heads []columnHead) (*table.Table, error) {
	t := &table.Table{}
	for _, h := range heads {
		if h.Kind > value.JSON || h.Scale < 0 {
			return nil, fmt.Errorf("a query worker sent a column of kind %d", h.Kind)
		}
		t.Columns = append(t.Columns, table.NewColumn(h.Name, value.Type{Kind: h.Kind, Scale: h.Scale}, 0))
	}
	return t, nil
}
