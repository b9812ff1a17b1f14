// Package translatortest is the suite that every transport must pass: a reply arrives as it was given, what goes wrong has its
// code, what could not get through is tried again, and asks at once do not disturb each other.
package translatortest

import (
	"context"
	"fmt"
	"sync"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"tovrel/core/briefing"
	"tovrel/core/fault"
	"tovrel/translator"
)

// Behaviour is how the service behind a transport behaves.
type Behaviour string

// The behaviours.
const (
	Answers   Behaviour = "answers"    // with the query SELECT 'QUESTION' AS q
	AsksBack  Behaviour = "asks back"  // with clarify: "which one?"
	Draws     Behaviour = "draws"      // with Drawing, under protocol 2
	Others    Behaviour = "others"     // with the id of another question, under protocol 2
	Malformed Behaviour = "malformed"  // with something outside the protocol
	Silent    Behaviour = "silent"     // with nothing at all
	Slow      Behaviour = "slow"       // not within the time limit
	Down      Behaviour = "down"       // it is not there, or breaks off
	FailsOnce Behaviour = "fails once" // breaks off the first time, then answers
	Leaks     Behaviour = "leaks"      // answers with the secret in its query
)

// Secret is the one that Leaks gives away.
const Secret = "canary-4f1d2c"

// Drawing is a reply with what only protocol 2 has.
const Drawing = `{"id": "set/question", "query": "measures: litres", "language": "layer", "text": "so much", ` +
	`"chart": {"mark": "bar", "encoding": {"x": {"field": "a"}}, "data": {"values": [{"a": 1}]}}}`

// short is the time limit of an ask that runs into it; the others have one that no busy machine reaches.
const short = 700 * time.Millisecond

// Timeout is the time limit of an ask of a service that behaves so.
func (b Behaviour) Timeout() time.Duration {
	if b == Slow || b == Silent {
		return short
	}
	return 40 * short
}

// Transport is one to test. Make gives an asker of a service that behaves so, with its Timeout; Lacks says which behaviours the transport
// cannot have, and why.
type Transport struct {
	Make  func(t *testing.T, b Behaviour) translator.Asker
	Lacks map[Behaviour]string
}

// Run runs the suite on a transport.
func Run(t *testing.T, transport Transport) {
	for _, c := range []struct {
		behaviour Behaviour
		check     func(t *testing.T, asker translator.Asker)
	}{
		{Answers, answers}, {Answers, together}, {AsksBack, asksBack}, {Draws, draws}, {Draws, undrawn},
		{Others, others}, {Malformed, failsWith(fault.MalformedReply)},
		{Silent, failsWith(fault.NoReply, fault.MalformedReply)},
		{Slow, slow}, {Down, failsWith(fault.Transport)}, {FailsOnce, failsOnce}, {Leaks, leaks}, {Slow, cancelled},
	} {
		if why := transport.Lacks[c.behaviour]; why != "" {
			t.Logf("%s: %s", c.behaviour, why)
			continue
		}
		t.Run(string(c.behaviour), func(t *testing.T) {
			asker := transport.Make(t, c.behaviour)
			t.Cleanup(func() { require.NoError(t, asker.Close()) })
			c.check(t, asker)
		})
	}
}

// Request is a question in the form of the protocol.
func Request(question string) translator.Request {
	return translator.Request{Protocol: translator.Protocol, ID: "set/question", Question: question,
		Thread: []translator.Turn{}, Dialect: "duckdb", AsOf: "2031-06-30",
		Dataset: briefing.Dataset{Name: "farm", Tables: []briefing.ToldTable{{Name: "loads", Rows: 3,
			Columns: []briefing.ToldColumn{{Name: "litres", Type: "DOUBLE"}}}}}}
}

func queryFor(question string) string { return "SELECT '" + question + "' AS q" }

func answers(t *testing.T, asker translator.Asker) {
	got, err := asker.Ask(context.Background(), Request("one"))
	require.NoError(t, err)
	require.Equal(t, queryFor("one"), got.Reply.Query)
	require.NotEmpty(t, got.Raw)
}

func together(t *testing.T, asker translator.Asker) {
	var all sync.WaitGroup
	for i := range 12 {
		all.Go(func() {
			question := fmt.Sprintf("question %d", i)
			got, err := asker.Ask(context.Background(), Request(question))
			if err != nil || got.Reply.Query != queryFor(question) {
				t.Errorf("asked %q, got %q, %v", question, got.Reply.Query, err)
			}
		})
	}
	all.Wait()
}

func asksBack(t *testing.T, asker translator.Asker) {
	got, err := asker.Ask(context.Background(), Request("one"))
	require.NoError(t, err)
	require.Equal(t, "which one?", got.Reply.Clarify)
}

// second is a question under protocol 2.
func second() translator.Request {
	r := Request("one")
	r.Protocol = translator.Protocol2
	return r
}

// draws: a chart and a language arrive under protocol 2.
func draws(t *testing.T, asker translator.Asker) {
	got, err := translator.Limit(asker, translator.Limits{}).Ask(context.Background(), second())
	require.NoError(t, err)
	require.Equal(t, "layer", got.Reply.Language)
	require.Equal(t, "so much", got.Reply.Text)
	require.Contains(t, string(got.Reply.Chart), `"mark"`)
	require.False(t, got.Reply.RunsSQL())
}

// undrawn: under protocol 1 the same reply has neither.
func undrawn(t *testing.T, asker translator.Asker) {
	got, err := translator.Limit(asker, translator.Limits{}).Ask(context.Background(), Request("one"))
	require.NoError(t, err)
	require.Empty(t, got.Reply.Language)
	require.Empty(t, got.Reply.Chart)
	require.True(t, got.Reply.RunsSQL())
}

// others: a reply to another question is none.
func others(t *testing.T, asker translator.Asker) {
	_, err := translator.Limit(asker, translator.Limits{}).Ask(context.Background(), second())
	var f *translator.Failure
	require.ErrorAs(t, err, &f)
	require.Equal(t, fault.MalformedReply, f.Code)
}

func failsWith(codes ...fault.Code) func(*testing.T, translator.Asker) {
	return func(t *testing.T, asker translator.Asker) {
		_, err := asker.Ask(context.Background(), Request("one"))
		var f *translator.Failure
		require.ErrorAs(t, err, &f)
		require.Contains(t, codes, f.Code, f.Message)
		require.NotEmpty(t, f.Message)
	}
}

func slow(t *testing.T, asker translator.Asker) {
	start := time.Now()
	failsWith(fault.NoReply)(t, asker)
	require.Less(t, time.Since(start), short+3*time.Second)
}

func failsOnce(t *testing.T, asker translator.Asker) {
	limited := translator.Limit(asker, translator.Limits{Retries: 2, First: 10 * time.Millisecond})
	got, err := limited.Ask(context.Background(), Request("one"))
	require.NoError(t, err)
	require.Equal(t, queryFor("one"), got.Reply.Query)
	require.Len(t, got.Tries, 2)
	require.NotEmpty(t, got.Tries[0].Problem)
	require.Empty(t, got.Tries[1].Problem)
}

func leaks(t *testing.T, asker translator.Asker) {
	got, err := translator.Mask(asker, []string{Secret}).Ask(context.Background(), Request("one"))
	require.NoError(t, err)
	require.NotContains(t, got.Reply.Query, Secret)
	require.NotContains(t, string(got.Raw), Secret)
	require.Contains(t, got.Reply.Query, "***")
}

func cancelled(t *testing.T, asker translator.Asker) {
	ctx, cancel := context.WithTimeout(context.Background(), 50*time.Millisecond)
	defer cancel()
	_, err := asker.Ask(ctx, Request("one"))
	require.ErrorIs(t, err, context.DeadlineExceeded)
}
