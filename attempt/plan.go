package attempt

import (
	"fmt"
	"hash/fnv"
	"time"

	"tovrel/core/decision"
	"tovrel/core/diagnose"
	"tovrel/core/golden"
	"tovrel/core/match"
	"tovrel/core/record"
	"tovrel/core/wording"
	"tovrel/translator"
	"tovrel/workspace"
)

// Plan is what a run asks.
type Plan struct {
	UID        string // of a new run
	Translator string
	Tool       string
	By         string // who makes the run, where the history is shared
	Settings   string // digest of the translator's settings
	Options    record.Options
	Asker      translator.Asker
	Parallel   int // asks at once
	Judges     int // answers judged at once
	Questions  []workspace.Chosen
	Places     map[string]*Place // by dataset
	Decisions  *decision.Kept    // what people decided about replies; nil for nothing
	Rules      match.Rules       // the workspace's
	TellAtMost int               // tables, to each question; 0 for all
	Dialect    string            // in which the translator is asked to write; "" for the dataset's
	Thread     Thread
	Protocol   int    // its version; 0 as 1
	Score      string // the part of a reply that is judged: query, table, chart, text; "" for the first that is there
	Budget     Budget
	Known      map[string]Known // answers that are not asked for again, by Key
	KeepReply  bool             // store replies before they are judged: asking again would cost something
	Diagnose   diagnose.Budget  // of one wrong answer; no runs for none
	Patience   time.Duration    // how long judging one attempt may take, its queries included; 0 for no bound
	Stop       <-chan struct{}  // closed when nothing new is to be asked; what is in flight is finished
	Purse      Purse            // of the machines that make a run together; nil for Budget's own
	ended      bool             // nothing is asked any more
}

// Thread says whose replies follow-ups are asked with.
type Thread string

// The threads.
const (
	OwnThread    Thread = "own"    // the translator's own earlier replies
	GoldenThread Thread = "golden" // the reference queries
)

// task is one attempt to make.
type task struct {
	place    *Place
	order    int // its place in the store
	name     string
	wording  string
	repeat   int
	turn     int
	chosen   workspace.Chosen
	rules    match.Rules
	parent   *task
	children []*task        // asked when this one is judged
	made     record.Attempt // when it is judged
}

// Key tells attempts of a run apart: the question, the digest of its folded wording, the repeat.
func Key(a record.Attempt) string { return key(a.Question, a.Wording, a.Repeat) }

func key(question, text string, repeat int) string {
	h := fnv.New64a()
	_, _ = h.Write([]byte(wording.Fold(text))) // a hash takes everything
	return fmt.Sprintf("%s %x %d", question, h.Sum64(), repeat)
}

// tasks lists the attempts of a plan: every question in its wordings, as often as it is repeated. A follow-up is asked in the
// conversation of its question's main wording.
func tasks(p Plan) []*task {
	var all []*task
	main := map[*golden.Question][]*task{} // by repeat
	for _, c := range p.Questions {
		rules := c.Question.Rules.Over(c.Set.Rules.Over(p.Rules))
		for repeat := range max(1, p.Options.Repeats) {
			for i, wording := range wordings(c.Question, p.Options.Wordings) {
				t := &task{place: p.Places[c.Set.Dataset], order: len(all), name: c.Name(), wording: wording, repeat: repeat,
					chosen: c, rules: rules}
				if before := main[c.Question.After]; repeat < len(before) {
					t.parent = before[repeat]
					t.turn = t.parent.turn + 1
					t.parent.children = append(t.parent.children, t)
				}
				if i == 0 {
					main[c.Question] = append(main[c.Question], t)
				}
				all = append(all, t)
			}
		}
	}
	return all
}

// Count is how many attempts a plan has.
func Count(p Plan) int { return len(tasks(p)) }

func wordings(q *golden.Question, most int) []string {
	all := q.Wordings()
	if most > 0 && len(all) > most {
		return all[:most]
	}
	return all
}

// InShard tells whether a question belongs to a shard (number from 1, count). Follow-ups go with their question, and the choice
// is the same on every machine.
func InShard(c workspace.Chosen, shard [2]int) bool {
	if shard[1] < 2 {
		return true
	}
	root := c.Question
	for root.After != nil {
		root = root.After
	}
	h := fnv.New32a()
	_, _ = h.Write([]byte(c.Set.QuestionName(root))) // a hash takes everything
	return int(h.Sum32()%uint32(shard[1])) == shard[0]-1
}
