package attempt

import (
	"context"
	"strings"

	"tovrel/core/decision"
	"tovrel/core/golden"
	"tovrel/core/record"
	"tovrel/expect"
	"tovrel/history"
	"tovrel/translator"
	"tovrel/workspace"
)

// looksAt tells whether a person may have decided about a reply: it is words or a chart, not a query alone.
func looksAt(r translator.Reply) bool { return r.Text != "" || r.Chart != nil }

// look is what a person decides on.
func (t *task) look(ctx context.Context, r translator.Reply) (*record.Look, error) {
	digest, err := t.place.ExpectedDigest(ctx, t.chosen)
	if err != nil {
		return nil, err
	}
	said := r.Text
	if r.Chart != nil || said == "" {
		said = strings.TrimSpace(strings.Join([]string{said, string(r.Chart), r.Query, string(r.Table)}, "\n"))
	}
	return &record.Look{Reply: said, ReplyDigest: decision.Digest(said), ExpectedDigest: digest}, nil
}

// ExpectedDigest is that of what a question expects on this data: its tables, its facts, what it should do. A reference that does not run
// counts by its text. The error is of a worker or the context.
func (p *Place) ExpectedDigest(ctx context.Context, c workspace.Chosen) (string, error) {
	parts := []any{acceptedOf(p, c)}
	all, err := p.Expectations(ctx, c)
	if _, failed := expect.Failure(err); err != nil && !failed && ctx.Err() != nil {
		return "", err
	}
	for _, e := range all {
		parts = append(parts, e.Reading, history.Keep(e.Table).Digest)
	}
	return digest(parts), nil
}

// fitsStance tells whether a question back, or a refusal, is right where something is expected.
func fitsStance(e golden.Expect, decided string) bool {
	switch decided {
	case decision.AsksBack:
		return e == golden.ExpectClarify || e == golden.ExpectEither
	case decision.Declines:
		return e == golden.ExpectDecline
	}
	return false
}

// FitsStance tells it for a decision about a question of some that are at hand.
func FitsStance(questions []workspace.Chosen) func(question, decided string) bool {
	byName := questionsByName(questions)
	return func(question, decided string) bool {
		c, known := byName[question]
		return known && fitsStance(c.Question.Expect, decided)
	}
}
