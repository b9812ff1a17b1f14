// Package translator is how a question reaches a translator and its reply comes back: the protocol tovrel-translator, in its versions 1 and
// 2. The transports are in packages of their own (command, recorded).
package translator

import (
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"maps"
	"slices"
	"strings"
	"time"

	"tovrel/core/briefing"
	"tovrel/core/chart"
	"tovrel/core/fault"
	"tovrel/core/near"
	"tovrel/core/table"
)

// The protocol by its versions. 2 has charts, query languages and users, and its replies repeat the request's id.
const (
	Protocol  = "tovrel-translator/1"
	Protocol2 = "tovrel-translator/2"
)

// ProtocolOf is the protocol of a version, 1 or 2.
func ProtocolOf(version int) string {
	if version == 2 {
		return Protocol2
	}
	return Protocol
}

// MaxReply is the largest reply that is read, in bytes.
const MaxReply = 8 << 20

// Request is one question, as it goes to a translator.
type Request struct {
	Protocol string `json:"protocol"`
	ID       string `json:"id"`
	Turn     int    `json:"turn"`
	Repeat   int    `json:"repeat"`
	Question string `json:"question"`
	// who asks, by parameter, such as {"role": "north"}; under 2, where the question says it
	User     map[string]string `json:"user,omitempty"`
	Thread   []Turn            `json:"thread"`
	Dialect  string            `json:"dialect"`
	AsOf     string            `json:"as_of,omitempty"`
	Dataset  briefing.Dataset  `json:"dataset"`
	Briefing *briefing.Beyond  `json:"briefing,omitempty"`
}

// Turn is an earlier exchange of a thread.
type Turn struct {
	Question string          `json:"question"`
	Reply    json.RawMessage `json:"reply"`
}

// Reply is what a translator returned.
type Reply struct {
	ID          json.RawMessage `json:"id,omitempty"` // of the request, where the translator repeats it
	Query       string          `json:"query"`
	Language    string          `json:"language,omitempty"` // of the query, under 2; "" for SQL
	Table       json.RawMessage `json:"table,omitempty"`
	Chart       json.RawMessage `json:"chart,omitempty"` // under 2
	Text        string          `json:"text"`
	Clarify     string          `json:"clarify"`
	Decline     string          `json:"decline"`
	Explanation string          `json:"explanation"`
	Model       string          `json:"model"`
	Usage       Usage           `json:"usage"`
}

// Answered is one ask with what came of it.
type Answered struct {
	Reply   Reply
	Raw     []byte // the reply verbatim, up to MaxReply
	Latency time.Duration
	Tries   []Try // all of them, where the asker tries more than once
}

// Try is one try of an ask.
type Try struct {
	Latency time.Duration
	Problem string // "" for the one that brought a reply
}

// Asker asks one translator. Ask may be called by several goroutines. An error is *Failure, or the context's.
type Asker interface {
	Ask(ctx context.Context, r Request) (Answered, error)
	Close() error
}

// Failure is an ask that brought nothing usable. Its code is of the delivery family.
type Failure struct {
	Code    fault.Code
	Message string
	Again   bool          // another try may do better
	Wait    time.Duration // how long the service wants to be left alone; 0 where it does not say
}

func (f *Failure) Error() string { return f.Message }

// Fail makes a failure.
func Fail(code fault.Code, format string, args ...any) *Failure {
	return &Failure{Code: code, Message: fmt.Sprintf(format, args...), Again: code == fault.Transport}
}

// replyKeys are the keys of a reply that say something.
var replyKeys = []string{"query", "table", "text", "clarify", "decline", "chart"}

// otherNames are what others call what replies say, by the protocol's name for it.
var otherNames = map[string]string{"sql": "query", "statement": "query", "select": "query", "rows": "table", "result": "table",
	"results": "table", "data": "table", "answer": "text",
	"message": "text", "content": "text", "response": "text", "question": "clarify", "clarification": "clarify",
	"refusal": "decline", "error": "decline"}

// meantKey says which key of an object was meant for one of the protocol; "" where none was.
func meantKey(object []byte) string {
	var given map[string]json.RawMessage
	if json.Unmarshal(object, &given) != nil {
		return ""
	}
	for _, key := range slices.Sorted(maps.Keys(given)) {
		meant := otherNames[strings.ToLower(key)]
		if meant == "" {
			meant = near.Name(key, replyKeys)
		}
		if meant != "" {
			return fmt.Sprintf(" (did you mean %q where it has %q?)", meant, key)
		}
	}
	return ""
}

// ParseReply reads a reply. The error is a *Failure that says what is wrong with it.
func ParseReply(raw []byte) (Reply, error) {
	var r Reply
	trimmed := bytes.TrimSpace(raw)
	if len(trimmed) == 0 {
		return r, Fail(fault.NoReply, "the reply is empty")
	}
	decoder := json.NewDecoder(bytes.NewReader(trimmed))
	if err := decoder.Decode(&r); err != nil {
		return r, Fail(fault.MalformedReply, "the reply is not a JSON object of the protocol: %s; it begins %s", jsonError(err),
			excerpt(trimmed))
	}
	if _, err := decoder.Token(); !errors.Is(err, io.EOF) {
		return r, Fail(fault.MalformedReply, "something follows the reply's JSON object: %s", excerpt(trimmed[decoder.InputOffset():]))
	}
	if len(r.Table) > 0 && string(r.Table) != "null" {
		if _, err := table.FromJSON(r.Table); err != nil {
			return r, Fail(fault.MalformedReply, "the reply's table cannot be read: %v", err)
		}
	} else {
		r.Table = nil
	}
	if string(r.Chart) == "null" {
		r.Chart = nil
	}
	if r.silent() && r.Chart == nil {
		return r, Fail(fault.MalformedReply, "the reply has none of %s%s: %s", strings.Join(replyKeys, ", "), meantKey(trimmed),
			excerpt(trimmed))
	}
	return r, nil
}

// RunsSQL tells whether the reply has a query that is run: one in another language is kept and shown.
func (r Reply) RunsSQL() bool {
	return r.Query != "" && (r.Language == "" || strings.EqualFold(r.Language, "sql"))
}

// silent tells a reply that says nothing under version 1.
func (r Reply) silent() bool {
	return r.Query == "" && r.Table == nil && r.Text == "" && r.Clarify == "" && r.Decline == ""
}

// Under is a reply as its protocol has it: under 1 without a chart and a language, under 2 with a chart that can be read. The error is a
// *Failure.
func (r Reply) Under(protocol string) (Reply, error) {
	if protocol != Protocol2 {
		if r.Chart, r.Language = nil, ""; r.silent() {
			return r, Fail(fault.MalformedReply, "the reply has only a chart, which this protocol does not know: set protocol: 2")
		}
		return r, nil
	}
	if r.Chart != nil {
		if _, err := chart.Parse(r.Chart); err != nil {
			return r, Fail(fault.MalformedReply, "the reply's chart cannot be read: %v", err)
		}
	}
	return r, nil
}

// Accept is a reply as it counts for a request: under 2 it repeats the request's id.
func Accept(r Reply, asked Request) (Reply, error) {
	if asked.Protocol == Protocol2 && len(r.ID) == 0 {
		return r, Fail(fault.MalformedReply, "the reply has no id; under %s it repeats that of the request, %q", Protocol2, asked.ID)
	}
	if err := CheckID(r, asked); err != nil {
		return r, err
	}
	return r.Under(asked.Protocol)
}

// Named is a reply with the id of its request, of a transport whose replies cannot be mixed up.
func (r Reply) Named(asked Request) Reply {
	if len(r.ID) == 0 {
		r.ID, _ = json.Marshal(asked.ID) // a text always encodes
	}
	return r
}

// CheckID refuses a reply that names another question than the one that was asked: replies have been mixed up. Only what has the form of a
// question's id counts; other services have ids of their own.
func CheckID(r Reply, asked Request) error {
	var id string
	notOurs := json.Unmarshal(r.ID, &id) != nil || !strings.Contains(id, "/")
	if id == asked.ID || notOurs && asked.Protocol != Protocol2 || len(r.ID) == 0 {
		return nil
	}
	return Fail(fault.MalformedReply, "the reply is to the question %q, which is not the one that was asked (%s)", id, asked.ID)
}

// jsonError says what is wrong with a reply's JSON.
func jsonError(err error) string {
	var wrong *json.UnmarshalTypeError
	if errors.As(err, &wrong) {
		return fmt.Sprintf("%s must not be a %s", wrong.Field, wrong.Value)
	}
	if errors.Is(err, io.ErrUnexpectedEOF) {
		return "it breaks off"
	}
	return err.Error()
}

// excerpt is the beginning of a text, on one line.
func excerpt(b []byte) string {
	const most = 80
	s := []rune(string(bytes.ToValidUTF8(b, []byte("�"))))
	if len(s) > most {
		return fmt.Sprintf("%q…", string(s[:most]))
	}
	return fmt.Sprintf("%q", string(s))
}
