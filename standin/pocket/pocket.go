// Package pocket is a small translator of our own that reads a business question by rules: it knows no question by heart. It
// finds the names of tables and columns, synonyms, codes and terms that the request tells it of, and writes one query over one
// table or along the told joins. What is beyond its rules it does not answer. Quirks switch on the mistakes that translators make. It
// is for demos, tests and a first look; it is no measure of what a translator can do.
package pocket

import (
	"context"
	"encoding/json"
	"fmt"
	"strings"
	"time"

	"tovrel/core/fault"
	"tovrel/core/near"
	"tovrel/translator"
)

// The quirks.
const (
	LiteralCase   = "literal-case"   // writes codes in upper case
	InnerJoin     = "inner-join"     // drops those without any
	Boundary      = "boundary"       // takes the last day of a period for its end
	NoDistinct    = "no-distinct"    // counts rows for things
	GrossForNet   = "gross-for-net"  // measures the first amount of a table
	ForgetsThread = "forgets-thread" // reads a follow-up alone
	NeverAsks     = "never-asks"     // guesses where it should ask back or decline
	Wobbly        = "wobbly"         // makes a mistake in some repeats, by the seed
)

// Quirks lists the quirks.
func Quirks() []string {
	return []string{LiteralCase, InnerJoin, Boundary, NoDistinct, GrossForNet, ForgetsThread, NeverAsks, Wobbly}
}

// versions are the quirks that a version has of itself.
var versions = map[string][]string{"": nil, "1": {InnerJoin, Boundary, NoDistinct, GrossForNet, NeverAsks}, "2": {Wobbly}, "3": nil}

// Settings say which version to be.
type Settings struct {
	Version string // 1 (many mistakes), 2 (one that comes and goes), 3 or "" (none of these)
	Quirks  []string
	Seed    int
}

// New makes the translator. The error names the quirks and versions there are.
func New(s Settings) (translator.Asker, error) {
	own, known := versions[s.Version]
	if !known {
		return nil, fmt.Errorf("the pocket translator has no version %q; its versions are 1, 2 and 3", s.Version)
	}
	a := &asker{quirks: map[string]bool{}, seed: s.Seed, version: s.Version}
	for _, q := range append(append([]string(nil), own...), s.Quirks...) {
		if near.Name(q, Quirks()) != q {
			return nil, fmt.Errorf("the pocket translator has no quirk %q; %s", q, near.Hint(q, Quirks()))
		}
		a.quirks[q] = true
	}
	return a, nil
}

type asker struct {
	quirks  map[string]bool
	seed    int
	version string
}

func (a *asker) Close() error { return nil }

// Ask reads the question and writes a query, asks back, or declines.
func (a *asker) Ask(ctx context.Context, r translator.Request) (translator.Answered, error) {
	start := time.Now()
	if err := ctx.Err(); err != nil {
		return translator.Answered{}, err
	}
	reply := a.reply(r)
	asked, err := json.Marshal(r)
	if err != nil {
		return translator.Answered{}, err
	}
	reply.Model = "pocket-" + a.version
	reply.Usage = translator.Usage{InputTokens: int64(len(asked) / 4),
		OutputTokens: int64(len(reply.Query+reply.Clarify+reply.Decline)/4 + 1)}
	if r.Protocol == translator.Protocol2 {
		reply = reply.Named(r)
	}
	raw, err := json.Marshal(wire{reply.ID, reply.Query, reply.Clarify, reply.Decline, reply.Model, reply.Usage})
	if err != nil {
		return translator.Answered{}, err
	}
	answered := translator.Answered{Reply: reply, Raw: raw, Latency: time.Since(start)}
	if reply.Query+reply.Clarify+reply.Decline == "" {
		return answered, translator.Fail(fault.NoReply, "the pocket translator does not understand the question")
	}
	return answered, nil
}

// wire is the reply as it is sent.
type wire struct {
	ID      json.RawMessage  `json:"id,omitempty"`
	Query   string           `json:"query,omitempty"`
	Clarify string           `json:"clarify,omitempty"`
	Decline string           `json:"decline,omitempty"`
	Model   string           `json:"model"`
	Usage   translator.Usage `json:"usage"`
}

func (a *asker) reply(r translator.Request) translator.Reply {
	quirks := a.now(r)
	question := r.Question
	if len(r.Thread) > 0 && !quirks[ForgetsThread] {
		question = inContext(r.Thread, question)
	}
	p := newReader(r, question)
	if !quirks[NeverAsks] {
		if verb := p.changes(); verb != "" {
			return translator.Reply{Decline: "I only read data; I do not " + verb + " it."}
		}
		if measures := p.ambiguous(); len(measures) > 0 {
			return translator.Reply{Clarify: "By which measure: " + strings.Join(measures, ", ") + "?"}
		}
	}
	p.read()
	return translator.Reply{Query: p.write(quirks)}
}

// now are the quirks for one ask: a wobbly translator makes a mistake in about every fourth repeat, the same ones for the same seed.
func (a *asker) now(r translator.Request) map[string]bool {
	quirks := map[string]bool{}
	for q := range a.quirks {
		quirks[q] = true
	}
	if quirks[Wobbly] {
		h := uint32(2166136261)
		for _, b := range fmt.Append(nil, r.ID, r.Question, r.Repeat, a.seed) {
			h = (h ^ uint32(b)) * 16777619
		}
		if (h>>8)%4 == 0 {
			quirks[[]string{Boundary, LiteralCase, InnerJoin, GrossForNet}[(h>>16)%4]] = true
		}
	}
	return quirks
}
