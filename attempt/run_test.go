package attempt

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"tovrel/core/briefing"
	"tovrel/core/fault"
	"tovrel/core/golden"
	"tovrel/core/record"
	"tovrel/core/score"
	"tovrel/core/table"
	"tovrel/engine"
	"tovrel/expect"
	"tovrel/history"
	"tovrel/translator"
	"tovrel/workspace"
)

// memory is a Store that keeps everything in maps.
type memory struct {
	mu      sync.Mutex
	saved   map[int]record.Attempt
	replies map[int]history.Reply
	run     record.Run
}

func newMemory() *memory {
	return &memory{saved: map[int]record.Attempt{}, replies: map[int]history.Reply{}}
}

func (m *memory) Begin(r record.Run, _ ...history.Stored) (int, error) { m.run = r; return 1, nil }
func (m *memory) KeepReply(_, place int, r history.Reply) error {
	m.mu.Lock()
	defer m.mu.Unlock()
	m.replies[place] = r
	return nil
}
func (m *memory) Save(_, place int, a record.Attempt, _ ...history.Stored) error {
	m.mu.Lock()
	defer m.mu.Unlock()
	m.saved[place] = a
	delete(m.replies, place)
	return nil
}
func (m *memory) Finish(r record.Run) error            { m.run = r; return nil }
func (m *memory) Table(string) (history.Stored, error) { return history.Stored{}, errors.New("none") }

func (m *memory) earlier() Earlier {
	e := Earlier{Run: m.run}
	for place, a := range m.saved {
		e.Attempts = append(e.Attempts, history.Placed{Place: place, Attempt: a})
	}
	for _, r := range m.replies {
		e.Replies = append(e.Replies, r)
	}
	return e
}

// asks is a translator that is a function of the question.
type asks func(ctx context.Context, question string) (string, error)

func (asks) Close() error { return nil }

func (f asks) Ask(ctx context.Context, r translator.Request) (translator.Answered, error) {
	query, err := f(ctx, r.Question)
	return translator.Answered{Reply: translator.Reply{Query: query}, Raw: fmt.Appendf(nil, `{"query": %q}`, query)}, err
}

// queries is an engine that is a function of the query.
type queries func(ctx context.Context, sql string) (*table.Table, error)

func (f queries) Query(ctx context.Context, r engine.Request) (engine.Result, error) {
	t, err := f(ctx, r.SQL)
	return engine.Result{Table: t}, err
}

func one(text string) *table.Table {
	return &table.Table{Columns: []*table.Column{table.FromCells("n", []table.Cell{{Text: text}})}}
}

// setOf makes a golden set of questions whose answer is one number, with further wordings.
func setOf(t *testing.T, questions ...string) []workspace.Chosen {
	t.Helper()
	var text strings.Builder
	text.WriteString("---\ngolden-set: s\ndataset: d\n---\n")
	for _, q := range questions {
		id, more, _ := strings.Cut(q, " ")
		text.WriteString(fmt.Sprintf("\n## Question %s? {#%s}\n", id, id))
		if more != "" {
			text.WriteString(fmt.Sprintf("\n```yaml\nalso-asked: [%s]\n```\n", more))
		}
		text.WriteString("\n| n |\n|--:|\n| 1 |\n")
	}
	set, problems := golden.Parse("s.md", []byte(text.String()))
	require.Empty(t, problems)
	var out []workspace.Chosen
	for _, q := range set.Questions {
		out = append(out, workspace.Chosen{Set: set, Question: q})
	}
	return out
}

// planOf is a plan over questions with a translator and an engine.
func planOf(questions []workspace.Chosen, asker translator.Asker, q expect.Queries) Plan {
	place := NewPlace(Ground{Fingerprint: "f", Briefing: &briefing.Briefing{}}, q, nil)
	return Plan{Translator: "t@1", Options: record.Options{Repeats: 1}, Asker: asker, Parallel: 3, Judges: 2,
		Questions: questions, Places: map[string]*Place{"d": place}, KeepReply: true}
}

func silent(Event) {}

// TestDefectsCostTheirAttempt: what panics or does not end, in asking or in judging, costs its attempt; the run completes, and the reply is
// kept.
func TestDefectsCostTheirAttempt(t *testing.T) {
	questions := setOf(t, "good", "ask-panics", "judge-panics", "judge-hangs", "also-good")
	asker := asks(func(_ context.Context, q string) (string, error) {
		if strings.Contains(q, "ask-panics") {
			panic("a defect of asking")
		}
		return q, nil
	})
	engineOf := queries(func(_ context.Context, sql string) (*table.Table, error) {
		switch {
		case strings.Contains(sql, "judge-panics"):
			panic("a defect of judging")
		case strings.Contains(sql, "judge-hangs"):
			select {}
		}
		return one("1"), nil
	})
	p := planOf(questions, asker, engineOf)
	p.Patience = 200 * time.Millisecond
	store := newMemory()
	r, attempts, err := Run(context.Background(), p, store, silent)
	require.NoError(t, err)
	require.Equal(t, record.Complete, r.State)
	require.Len(t, attempts, 5)
	for _, a := range attempts {
		if strings.Contains(a.Question, "good") {
			require.Equal(t, score.Right, a.Verdict, a.Why)
			continue
		}
		require.Equal(t, score.Unscored, a.Verdict)
		require.Equal(t, fault.ReasonInternalError, a.Reason)
		require.Contains(t, a.Why, "internal error")
		if strings.Contains(a.Question, "panics") {
			require.Contains(t, a.Why, "run_test.go:", "the place is told")
		}
		require.Equal(t, strings.Contains(a.Question, "judge"), len(a.Raw) > 0, "the reply is kept where there was one")
	}
	require.Len(t, Defects(attempts), 3)
	require.Empty(t, store.replies)

	mended := planOf(questions, asks(func(_ context.Context, _ string) (string, error) { return "fine", nil }), engineOf)
	r, attempts, err = Resume(context.Background(), mended, store, silent, store.earlier())
	require.NoError(t, err)
	require.Equal(t, record.Complete, r.State)
	require.Len(t, Defects(attempts), 2, "what was never answered is asked again; what was answered is not")
}

// TestStagesListen: a stage that does not listen to the context does not keep a run from ending.
func TestStagesListen(t *testing.T) {
	for name, p := range map[string]Plan{
		"asking": planOf(setOf(t, "a", "b"), asks(func(context.Context, string) (string, error) { select {} }),
			queries(func(context.Context, string) (*table.Table, error) { return one("1"), nil })),
		"judging": planOf(setOf(t, "a", "b"), asks(func(_ context.Context, q string) (string, error) { return q, nil }),
			queries(func(context.Context, string) (*table.Table, error) { select {} })),
	} {
		ctx, cancel := context.WithTimeout(context.Background(), 50*time.Millisecond)
		start := time.Now()
		r, _, err := Run(ctx, p, newMemory(), silent)
		cancel()
		require.ErrorIs(t, err, context.DeadlineExceeded, name)
		require.Equal(t, record.Stopped, r.State, name)
		require.Less(t, time.Since(start), 2*time.Second, name)
	}
}

// TestResumeWhatWasPlanned: a resumed run asks what it planned and nothing else, and tells what has moved.
func TestResumeWhatWasPlanned(t *testing.T) {
	var mu sync.Mutex
	asked := map[string]int{}
	stop := true
	asker := asks(func(_ context.Context, q string) (string, error) {
		mu.Lock()
		defer mu.Unlock()
		if stop && strings.Contains(q, "later") {
			return "", translator.Fail(fault.Transport, "not there")
		}
		asked[q]++
		return q, nil
	})
	answers := queries(func(context.Context, string) (*table.Table, error) { return one("1"), nil })
	store := newMemory()
	_, _, err := Run(context.Background(), planOf(setOf(t, "kept other", "later", "gone"), asker, answers), store, silent)
	require.NoError(t, err)
	stop = false

	now := planOf(setOf(t, "kept other, new", "later", "added"), asker, answers)
	now.Questions[1].Question.Readings = append(now.Questions[1].Question.Readings,
		&golden.Reading{Title: "another", Answer: golden.Answer{Query: "SELECT 2"}})
	now.Questions[0].Question.Expect = golden.ExpectEither
	require.Equal(t, Since{Added: []string{"s/added", "s/kept"}, Gone: []string{"s/gone"},
		Changed: map[string][]string{"s/kept": {"expected"}, "s/later": {"expected"}}}, SinceOf(store.run, now))
	e := store.earlier()
	body, err := json.Marshal(e.Run) // as it comes out of a history
	require.NoError(t, err)
	e.Run = record.Run{}
	require.NoError(t, json.Unmarshal(body, &e.Run))
	r, attempts, err := Resume(context.Background(), now, store, silent, e)
	require.NoError(t, err)
	require.Equal(t, map[string]int{"Question kept?": 1, "other": 1, "Question later?": 1, "Question gone?": 1}, asked)
	require.Len(t, attempts, 3)
	require.Equal(t, record.Partial, r.State, "a planned question is no longer there")
	require.NotEqual(t, store.run.Grounds["s/kept"], GroundOf(now, now.Questions[0]), "what was judged before stays on its ground")
	require.Equal(t, r.Grounds["s/later"], GroundOf(now, now.Questions[1]), "what was not judged yet is on today's")
}
