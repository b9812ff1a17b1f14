// Package recorded is a translator whose replies are read from a JSON Lines file.
package recorded

import (
	"bufio"
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"time"

	"tovrel/answers"
	"tovrel/core/fault"
	"tovrel/core/near"
	"tovrel/core/source"
	"tovrel/core/wording"
	"tovrel/files"
	"tovrel/translator"
)

// line is one recorded reply. What is left out serves every wording, turn or repeat.
type line struct {
	ID       string          `json:"id"`
	Question string          `json:"question"`
	Turn     *int            `json:"turn"`
	Repeat   *int            `json:"repeat"`
	Reply    json.RawMessage `json:"reply"`

	latency time.Duration // 0 where it is not known
}

var keys = []string{"id", "question", "turn", "repeat", "reply"}

type asker struct {
	lines    map[string][]line // by question id
	wordings map[string]line   // by folded wording or id alone: copied answers name their questions as people do
}

// New reads a file; name is how messages call it: JSON Lines, or copied answers in a CSV file or a spreadsheet. Defects are
// source.Problems. A file that is not there is an error of its own.
func New(name, path string) (translator.Asker, error) {
	if answers.Readable(path) {
		return newCopied(name, path)
	}
	f, err := files.Open(path)
	if err != nil {
		return nil, fmt.Errorf("the recorded replies %s cannot be read: %w", name, err)
	}
	defer f.Close() //nolint:errcheck // opened for reading only
	a := &asker{lines: map[string][]line{}}
	var problems source.Problems
	r := bufio.NewReader(f)
	for number := 1; ; number++ {
		text, err := r.ReadBytes('\n')
		if trimmed := bytes.TrimSpace(text); len(trimmed) > 0 {
			l, problem := readLine(trimmed)
			if problem != "" {
				problems = append(problems, source.Problem{Position: source.Position{File: name, Line: number, Column: 1},
					Code:     "recorded-line",
					Severity: source.Error, Message: problem,
					Remedy: `write {"id": "set/question", "reply": {"query": "SELECT …"}} on one line`})
			}
			a.lines[l.ID] = append(a.lines[l.ID], l)
		}
		if errors.Is(err, io.EOF) {
			break
		}
		if err != nil {
			return nil, fmt.Errorf("the recorded replies %s cannot be read: %w", name, err)
		}
	}
	if len(problems) > 0 {
		return nil, problems
	}
	return a, nil
}

func readLine(text []byte) (line, string) {
	var l line
	var fields map[string]json.RawMessage
	if err := json.Unmarshal(text, &fields); err != nil {
		return l, "this line is not a JSON object: " + err.Error()
	}
	for key := range fields {
		if near.Name(key, keys) != key {
			return l, fmt.Sprintf("a recorded reply has no key %q; %s", key, near.Hint(key, keys))
		}
	}
	if err := json.Unmarshal(text, &l); err != nil {
		return l, "this line is not a recorded reply: " + err.Error()
	}
	switch {
	case l.ID == "":
		return l, "this line has no id"
	case len(l.Reply) == 0:
		return l, "this line has no reply"
	}
	return l, ""
}

func (a *asker) Close() error { return nil }

// Ask finds the line that says the most about the request.
func (a *asker) Ask(ctx context.Context, r translator.Request) (translator.Answered, error) {
	if err := ctx.Err(); err != nil {
		return translator.Answered{}, err
	}
	start := time.Now()
	best, most := -1, -1
	for i, l := range a.lines[r.ID] {
		if n := fits(l, r); n > most {
			best, most = i, n
		}
	}
	var found line
	if best >= 0 {
		found = a.lines[r.ID][best]
	} else if found = a.copied(r); found.Reply == nil {
		return translator.Answered{}, translator.Fail(fault.NoReply, "the recorded file has no line for %s", r.ID)
	}
	latency := found.latency
	if latency == 0 {
		latency = time.Since(start)
	}
	reply, err := translator.ParseReply(found.Reply)
	return translator.Answered{Reply: reply.Named(r), Raw: found.Reply, Latency: latency}, err
}

// fits counts what a line and a request agree on; -1 where they disagree.
func fits(l line, r translator.Request) int {
	n := 0
	if l.Question != "" {
		if wording.Fold(l.Question) != wording.Fold(r.Question) {
			return -1
		}
		n++
	}
	for _, pair := range []struct {
		has  *int
		want int
	}{{l.Turn, r.Turn}, {l.Repeat, r.Repeat}} {
		if pair.has == nil {
			continue
		}
		if *pair.has != pair.want {
			return -1
		}
		n++
	}
	return n
}
