package attempt

import (
	"context"
	"encoding/json"
	"fmt"
	"strings"
	"sync"
	"testing"

	"github.com/stretchr/testify/require"

	"tovrel/core/briefing"
	"tovrel/core/fault"
	"tovrel/core/golden"
	"tovrel/core/record"
	"tovrel/core/score"
	"tovrel/core/table"
	"tovrel/engine"
	"tovrel/history"
	"tovrel/translator"
	"tovrel/workspace"
)

// replying is a translator that is a function of the request.
type replying func(r translator.Request) (translator.Reply, error)

func (replying) Close() error { return nil }

func (f replying) Ask(_ context.Context, r translator.Request) (translator.Answered, error) {
	reply, err := f(r)
	raw, _ := json.Marshal(reply)
	return translator.Answered{Reply: reply, Raw: raw}, err
}

// numbered is an engine whose answer to a query is the query.
var numbered = queries(func(_ context.Context, sql string) (*table.Table, error) { return one(sql), nil })

// chosenOf reads a golden set from its text behind the front matter.
func chosenOf(t *testing.T, text string) []workspace.Chosen {
	t.Helper()
	set, problems := golden.Parse("s.md", []byte("---\ngolden-set: s\ndataset: d\n---\n"+text))
	require.Empty(t, problems)
	var out []workspace.Chosen
	for _, q := range set.All() {
		out = append(out, workspace.Chosen{Set: set, Question: q})
	}
	return out
}

const oneExpected = "\n| n |\n|--:|\n| 1 |\n"

// TestStances: what a reply does, for each of what is expected, decides the verdict and the fault.
func TestStances(t *testing.T) {
	replies := map[string]translator.Reply{
		"right": {Query: "1"}, "wrong": {Query: "2"}, "back": {Clarify: "By volume or by quality?"},
		"vague":    {Clarify: "What do you mean?"},
		"declines": {Decline: "I only read"}, "both": {Query: "1", Clarify: "By volume?"},
	}
	for expect, want := range map[golden.Expect]map[string]string{
		golden.ExpectAnswer: {"right": "right", "wrong": "wrong", "back": "wrong asked-needlessly", "vague": "wrong asked-needlessly",
			"declines": "wrong declined-needlessly", "both": "right"},
		golden.ExpectClarify: {"right": "wrong guessed", "wrong": "wrong guessed", "back": "right", "vague": "wrong missed-ambiguity",
			"declines": "wrong declined-needlessly", "both": "wrong guessed"},
		golden.ExpectEither: {"right": "right", "wrong": "wrong", "back": "right", "vague": "wrong missed-ambiguity",
			"declines": "wrong declined-needlessly", "both": "right"},
		golden.ExpectDecline: {"right": "wrong overreached", "wrong": "wrong overreached", "back": "wrong asked-needlessly",
			"vague": "wrong asked-needlessly", "declines": "right", "both": "wrong overreached"},
	} {
		for name, reply := range replies {
			questions := setOf(t, "q")
			questions[0].Question.Expect = expect
			if expect != golden.ExpectAnswer {
				questions[0].Question.Mentions = []string{"volume", "litres"}
			}
			_, attempts, err := Run(context.Background(), planOf(questions, replying(func(translator.Request) (translator.Reply, error) {
				return reply, nil
			}), numbered), newMemory(), silent)
			require.NoError(t, err)
			a := attempts[0]
			got := string(a.Verdict)
			if a.Verdict != score.Right && len(a.Faults) > 0 && fault.FamilyOf(a.Faults[0].Code) == "stance" {
				got += " " + string(a.Faults[0].Code)
				require.Equal(t, fault.Proved, a.Faults[0].Certainty)
			}
			require.Equal(t, want[name], got, "%s expected, it is %s: %s", expect, name, a.Why)
			require.Equal(t, reply.Query == "", a.Stance)
			require.NotEmpty(t, a.Why)
		}
	}
}

// TestMentions: a question back may use the briefing's other names of what is ambiguous, as whole words.
func TestMentions(t *testing.T) {
	b := &briefing.Briefing{Tables: []briefing.Table{{Name: "loads", Columns: []briefing.Column{{Name: "litres",
		Synonyms: []string{"Volume", "amount of milk"}}}}}}
	questions := setOf(t, "q")
	questions[0].Question.Expect, questions[0].Question.Mentions = golden.ExpectClarify, []string{"Litres"}
	for asked, verdict := range map[string]score.Verdict{"By litres?": score.Right, "By VOLUME?": score.Right,
		"By the amount of milk?": score.Right,
		"By volumes?":            score.Right, "By amount?": score.Wrong, "By what?": score.Wrong} {
		p := planOf(questions, replying(func(translator.Request) (translator.Reply, error) {
			return translator.Reply{Clarify: asked},
				nil
		}), numbered)
		p.Places["d"].Briefing = b
		_, attempts, err := Run(context.Background(), p, newMemory(), silent)
		require.NoError(t, err)
		require.Equal(t, verdict, attempts[0].Verdict, asked)
	}
}

// TestAnsweringBack: a question back that fits is answered, once, in the same conversation; what then comes is judged.
func TestAnsweringBack(t *testing.T) {
	text := "\n## Which is best? {#q}\n\n```yaml\nexpect: clarify\nmentions: [volume]\nthen: By volume.\n```\n" + oneExpected
	for name, c := range map[string]struct {
		second  translator.Reply
		verdict score.Verdict
	}{
		"answers":        {translator.Reply{Query: "1"}, score.Right},
		"answers wrong":  {translator.Reply{Query: "2"}, score.Wrong},
		"asks once more": {translator.Reply{Clarify: "By volume in litres?"}, score.Wrong},
	} {
		var asked []translator.Request
		p := planOf(chosenOf(t, text), replying(func(r translator.Request) (translator.Reply, error) {
			asked = append(asked, r)
			if r.Turn == 0 {
				return translator.Reply{Clarify: "By volume or by quality?"}, nil
			}
			return c.second, nil
		}), numbered)
		_, attempts, err := Run(context.Background(), p, newMemory(), silent)
		require.NoError(t, err)
		require.Len(t, asked, 2, name)
		require.Equal(t, c.verdict, attempts[0].Verdict, name)
		require.Equal(t, "By volume.", asked[1].Question)
		require.Len(t, asked[1].Thread, 1)
		require.Equal(t, "Which is best?", asked[1].Thread[0].Question)
		require.Contains(t, string(asked[1].Thread[0].Reply), "By volume or by quality?")
		require.Len(t, attempts[0].Earlier, 1)
	}
}

const conversation = "\n## First? {#a}\n\n```sql\nSELECT 11\n```\n" + oneExpected + "\n### Follow-up: Second? {#b}\n" + oneExpected +
	"\n### Follow-up: Third? {#c}\n" + oneExpected

// TestThreads: a follow-up is asked behind the turns before it, with the translator's own replies, or with the reference queries.
func TestThreads(t *testing.T) {
	for whose, want := range map[Thread]map[string]string{
		OwnThread:    {"First?": "", "Second?": `First? "query":"7"`, "Third?": `First? "query":"7"; Second? "query":"1"`},
		GoldenThread: {"First?": "", "Second?": `First? "query":"SELECT 11"`, "Third?": `First? "query":"SELECT 11"; Second? null`},
	} {
		var mu sync.Mutex
		got := map[string]string{}
		p := planOf(chosenOf(t, conversation), replying(func(r translator.Request) (translator.Reply, error) {
			mu.Lock()
			defer mu.Unlock()
			var said []string
			for _, turn := range r.Thread {
				text := string(turn.Reply)
				if at := strings.Index(text, `"query":"`); at >= 0 {
					text, _, _ = strings.Cut(text[at+len(`"query":"`):], `"`)
					text = `"query":"` + text + `"`
				}
				said = append(said, turn.Question+" "+text)
			}
			got[r.Question] = strings.Join(said, "; ")
			require.Equal(t, len(r.Thread), r.Turn)
			if r.Question == "First?" {
				return translator.Reply{Query: "7"}, nil
			}
			return translator.Reply{Query: "1"}, nil
		}), queries(func(_ context.Context, sql string) (*table.Table, error) {
			return one(strings.TrimPrefix(sql, "SELECT 1")), nil
		}))
		p.Thread = whose
		_, attempts, err := Run(context.Background(), p, newMemory(), silent)
		require.NoError(t, err)
		require.Equal(t, want, got, whose)
		require.Equal(t, []score.Verdict{score.Wrong, score.Right, score.Right}, verdicts(attempts))
		require.Equal(t, []score.Verdict{"", score.Wrong, score.Right}, []score.Verdict{attempts[0].Before, attempts[1].Before,
			attempts[2].Before})
		require.Contains(t, strings.Join(attempts[1].Notes, " "), "the turn before, s/a, is wrong, and this one may rest on it")
		require.Empty(t, attempts[2].Notes)
	}
}

func verdicts(attempts []record.Attempt) []score.Verdict {
	var out []score.Verdict
	for _, a := range attempts {
		out = append(out, a.Verdict)
	}
	return out
}

// TestTasks: every question is asked in its wordings, as often as it is repeated; follow-ups in the conversation of the main wording of
// their repeat.
func TestTasks(t *testing.T) {
	questions := setOf(t, "a b, c", "d")
	for _, c := range []struct{ repeats, wordings, want int }{{1, 0, 4}, {3, 0, 12}, {2, 1, 4}, {2, 2, 6}, {0, 9, 4}} {
		p := Plan{Questions: questions, Options: record.Options{Repeats: c.repeats, Wordings: c.wordings}, Places: map[string]*Place{}}
		require.Equal(t, c.want, Count(p), "%+v", c)
		keys := map[string]bool{}
		for i, task := range tasks(p) {
			require.Equal(t, i, task.order)
			keys[key(task.name, task.wording, task.repeat)] = true
		}
		require.Len(t, keys, c.want, "no two attempts have one key")
	}
	all := tasks(Plan{Questions: chosenOf(t, conversation), Options: record.Options{Repeats: 2}, Places: map[string]*Place{}})
	for _, task := range all {
		if task.parent != nil {
			require.Equal(t, task.parent.repeat, task.repeat)
			require.Equal(t, task.parent.turn+1, task.turn)
			require.Contains(t, task.parent.children, task)
		}
	}
	a := record.Attempt{Question: "q", Wording: "How  many farms?", Repeat: 1}
	b := record.Attempt{Question: "q", Wording: "how many FARMS", Repeat: 1}
	require.Equal(t, Key(a), Key(b), "a wording is one however it is written")
	b.Repeat = 2
	require.NotEqual(t, Key(a), Key(b))
}

// TestShards: each question is in exactly one shard of any number of them, and its follow-ups with it.
func TestShards(t *testing.T) {
	var text strings.Builder
	for i := range 40 {
		fmt.Fprintf(&text, "\n## Question %d? {#q%d}\n%s\n### Follow-up: And then? {#f%d}\n%s", i, i, oneExpected, i, oneExpected)
	}
	all := chosenOf(t, text.String())
	for count := 1; count <= 7; count++ {
		sizes := map[int]int{}
		of := map[*golden.Question]int{}
		for _, c := range all {
			in := 0
			for shard := 1; shard <= count; shard++ {
				if InShard(c, [2]int{shard, count}) {
					in++
					of[c.Question] = shard
					sizes[shard]++
				}
			}
			require.Equal(t, 1, in, "%s of %d", c.Name(), count)
			if c.Question.After != nil {
				require.Equal(t, of[c.Question.After], of[c.Question])
			}
		}
		require.Len(t, sizes, count, "no shard is empty")
	}
	require.True(t, InShard(all[0], [2]int{}), "no shards: all of it")
}

// TestDelivery: what did not come is told by its code; what could not be reached is no verdict on the translator.
func TestDelivery(t *testing.T) {
	for code, want := range map[fault.Code]score.Verdict{fault.NoReply: score.Failed, fault.MalformedReply: score.Failed,
		fault.Transport: score.Unscored} {
		p := planOf(setOf(t, "a"), replying(func(translator.Request) (translator.Reply, error) {
			return translator.Reply{}, translator.Fail(code, "it was so")
		}), numbered)
		r, attempts, err := Run(context.Background(), p, newMemory(), silent)
		require.NoError(t, err)
		require.Equal(t, want, attempts[0].Verdict)
		require.Equal(t, "it was so", attempts[0].Why)
		require.Equal(t, code, attempts[0].Faults[0].Code)
		require.Equal(t, code != fault.Transport, Reached(attempts))
		require.Equal(t, record.Complete, r.State)
	}
	require.True(t, Reached(nil))
}

// TestParts: of several parts of a reply the first is judged, or the one that is asked for; one that says something else is remarked.
func TestParts(t *testing.T) {
	tableOf := func(n int) json.RawMessage {
		return json.RawMessage(fmt.Sprintf(`{"columns": ["n"], "rows": [[%d]]}`, n))
	}
	for name, c := range map[string]struct {
		reply   translator.Reply
		part    string
		verdict score.Verdict
		remark  bool
	}{
		"query":                        {translator.Reply{Query: "1"}, "", score.Right, false},
		"table":                        {translator.Reply{Table: tableOf(1)}, "", score.Right, false},
		"query before table":           {translator.Reply{Query: "2", Table: tableOf(1)}, "", score.Wrong, false},
		"the table is asked for":       {translator.Reply{Query: "2", Table: tableOf(1)}, "table", score.Right, true},
		"the query is asked for":       {translator.Reply{Query: "1", Table: tableOf(2)}, "query", score.Right, true},
		"both say the same":            {translator.Reply{Query: "1", Table: tableOf(1)}, "", score.Right, false},
		"no part that is asked for":    {translator.Reply{Query: "1"}, "table", score.Failed, false},
		"the text says the same":       {translator.Reply{Query: "1", Text: "It is 1."}, "", score.Right, false},
		"the text says something else": {translator.Reply{Query: "1", Text: "It is 17."}, "", score.Right, true},
		"a text alone":                 {translator.Reply{Text: "It is 1."}, "", score.Right, false},
		"a wrong text alone":           {translator.Reply{Text: "It is 2."}, "", score.Wrong, false},
	} {
		p := planOf(setOf(t, "a"), replying(func(translator.Request) (translator.Reply, error) { return c.reply, nil }), numbered)
		p.Score = c.part
		_, attempts, err := Run(context.Background(), p, newMemory(), silent)
		require.NoError(t, err)
		require.Equal(t, c.verdict, attempts[0].Verdict, "%s: %s", name, attempts[0].Why)
		require.Equal(t, c.remark, strings.Contains(fmt.Sprint(attempts[0].Remarks), "parts-disagree"), name)
	}
}

// TestFailingQueries: an error of the query is the translator's; any other ends the run.
func TestFailingQueries(t *testing.T) {
	failing := queries(func(context.Context, string) (*table.Table, error) {
		return nil, &engine.Failure{Code: fault.UnknownColumn, Message: `there is no column "x"`}
	})
	asker := replying(func(translator.Request) (translator.Reply, error) { return translator.Reply{Query: "SELECT x"}, nil })
	_, attempts, err := Run(context.Background(), planOf(setOf(t, "a"), asker, failing), newMemory(), silent)
	require.NoError(t, err)
	require.Equal(t, score.Failed, attempts[0].Verdict)
	require.Equal(t, fault.UnknownColumn, attempts[0].Faults[0].Code)
	require.Equal(t, "SELECT x", attempts[0].Query)

	broken := queries(func(context.Context, string) (*table.Table, error) { return nil, fmt.Errorf("the worker is gone") })
	r, _, err := Run(context.Background(), planOf(setOf(t, "a"), asker, broken), newMemory(), silent)
	require.ErrorContains(t, err, "the worker is gone")
	require.Equal(t, record.Stopped, r.State)
}

// TestAgreement: attempts of a question agree where their results are the same, repeats and wordings apart; what never came counts for
// nothing.
func TestAgreement(t *testing.T) {
	for name, c := range map[string]struct {
		answers  []string // of the repeats of the first wording, then of the second; "-" cannot be reached, "!" fails
		repeats  [2]int   // agreeing, of
		wordings [2]int
	}{
		"all the same":      {[]string{"1", "1", "1", "1"}, [2]int{2, 2}, [2]int{4, 4}},
		"a repeat differs":  {[]string{"1", "2", "1", "1"}, [2]int{1, 2}, [2]int{2, 4}},
		"a wording differs": {[]string{"1", "1", "5", "5"}, [2]int{2, 2}, [2]int{0, 4}},
		"one not reached":   {[]string{"1", "-", "1", "1"}, [2]int{1, 1}, [2]int{2, 2}},
		"one fails":         {[]string{"1", "!", "1", "1"}, [2]int{1, 2}, [2]int{2, 4}},
		"all fail":          {[]string{"!", "!", "!", "!"}, [2]int{0, 0}, [2]int{0, 0}},
	} {
		var mu sync.Mutex
		asked := map[string]int{}
		p := planOf(setOf(t, "a other"), replying(func(r translator.Request) (translator.Reply, error) {
			mu.Lock()
			defer mu.Unlock()
			at := r.Repeat
			if r.Question == "other" {
				at += 2
			}
			asked[r.Question]++
			switch c.answers[at] {
			case "-":
				return translator.Reply{}, translator.Fail(fault.Transport, "not there")
			case "!":
				return translator.Reply{}, translator.Fail(fault.NoReply, "nothing")
			}
			return translator.Reply{Query: c.answers[at]}, nil
		}), numbered)
		p.Options.Repeats = 2
		store := newMemory()
		r, _, err := Run(context.Background(), p, kept{store, map[string]*table.Table{}}, silent)
		require.NoError(t, err)
		require.Equal(t, map[string]int{"Question a?": 2, "other": 2}, asked)
		got := r.Consistency["s/a"]
		require.Equal(t, record.Consistency{Repeats: record.Pairs{Agree: c.repeats[0], Of: c.repeats[1]},
			Wordings: record.Pairs{Agree: c.wordings[0], Of: c.wordings[1]}}, got, name)
	}
}

// kept is a Store that keeps tables too.
type kept struct {
	*memory
	tables map[string]*table.Table
}

func (k kept) Save(run, place int, a record.Attempt, tables ...history.Stored) error {
	k.mu.Lock()
	for _, s := range tables {
		k.tables[s.Digest] = s.Table
	}
	k.mu.Unlock()
	return k.memory.Save(run, place, a, tables...)
}

func (k kept) Table(digest string) (history.Stored, error) {
	return history.Stored{Table: k.tables[digest]}, nil
}
