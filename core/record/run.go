// Package record holds the record of a run: what was asked, what came back, and how it was judged. It sums a run up; it stores
// nothing and judges nothing.
package record

import (
	"encoding/json"
	"time"

	"tovrel/core/fault"
	"tovrel/core/match"
	"tovrel/core/score"
	"tovrel/core/sql"
)

// State of a run.
type State string

// The states. A run that is still going, or was killed, is Running in the history.
const (
	Running  State = "running"
	Complete State = "complete"
	Partial  State = "partial" // narrowed to some questions
	Stopped  State = "stopped"
)

// Run is all attempts of one translator over chosen golden sets.
type Run struct {
	ID         int                `json:"run"`
	Translator string             `json:"translator"`
	State      State              `json:"state"`
	Started    time.Time          `json:"started"`
	Duration   time.Duration      `json:"duration"`
	Tool       string             `json:"tool"`
	Datasets   map[string]string  `json:"datasets"` // fingerprint of each dataset
	Planned    int                `json:"planned"`  // attempts
	Weights    map[string]float64 `json:"weights"`  // of each question
	UID        string             `json:"uid"`      // the same wherever the run is copied to
	Options    Options            `json:"options"`  // what a resumed run asks
	Settings   string             `json:"settings"` // digest of the translator's settings

	Grounds map[string]Ground `json:"grounds"` // by question
	// planned, by question: digests of their folded texts; nil in runs of earlier versions
	Wordings    map[string][]string    `json:"wordings,omitempty"`
	About       map[string]About       `json:"about"`           // by question
	Twins       map[string][]string    `json:"twins,omitempty"` // fingerprints of the twins, by dataset
	Consistency map[string]Consistency `json:"consistency"`     // by question, of those that were asked more than once
}

// Options narrow and multiply what a run asks.
type Options struct {
	Names    []string `json:"names,omitempty"` // of sets and questions; none for all
	Tags     []string `json:"tags,omitempty"`
	Wordings int      `json:"wordings"` // of each question at most; 0 for all
	Repeats  int      `json:"repeats"`
	Brief    string   `json:"brief"`
	Twins    int      `json:"twins,omitempty"` // of each dataset, on which right answers are tried again
	Shard    [2]int   `json:"shard"`           // number and count; zero for the whole
	Only     []string `json:"only,omitempty"`  // questions, where they were taken from another run's verdicts
}

// Narrowed tells whether the options leave questions out.
func (o Options) Narrowed() bool {
	return len(o.Names)+len(o.Tags)+len(o.Only) > 0 || o.Shard[1] > 0
}

// Attempt is one wording asked once. It is stored, and exported, under the names of its tags: they stay as they are.
type Attempt struct {
	Question  string         `json:"Question"` // set/id
	Wording   string         `json:"Wording"`
	Repeat    int            `json:"Repeat"`
	Turn      int            `json:"Turn"`
	Verdict   score.Verdict  `json:"Verdict"`
	Closeness *float64       `json:"Closeness"`
	Remarks   []match.Remark `json:"Remarks"`
	Faults    []fault.Fault  `json:"Faults"`
	Query     string         `json:"Query"` // "" where the reply had none
	// the text that ran in the query's place, because it sees the dataset's today; "" for the query itself
	Instead string          `json:"Instead"`
	Stance  bool            `json:"Stance"`  // the reply was a question back or a refusal
	Reading string          `json:"Reading"` // title of the reading that was matched; "" for the question's own
	Reason  fault.Reason    `json:"Reason"`
	Why     string          `json:"Why"`           // the rule that decided, in words
	Raw     json.RawMessage `json:"Raw,omitempty"` // the reply; invalid JSON is kept as a JSON string
	Latency time.Duration   `json:"Latency"`       // of asking
	Ran     time.Duration   `json:"Ran"`           // of executing
	Cost    float64         `json:"Cost"`
	Tokens  int64           `json:"Tokens"`
	Tries   []Try           `json:"Tries"`   // every try of every ask, where there was more than one
	Earlier []Exchange      `json:"Earlier"` // before the last exchange: questions back and what was answered
	Before  score.Verdict   `json:"Before"`  // of the turn that a follow-up follows; "" for none

	Reference string `json:"Reference"`       // the reference query that was held against it
	Expected  string `json:"Expected"`        // digest of the expected table; "" for none
	Answer    string `json:"Answer"`          // digest of the answer table; "" for none
	Whole     string `json:"Whole,omitempty"` // match.Digest of the answer, where it has more rows than are stored
	Match     *Match `json:"Match"`           // how the two were aligned; nil where they never met
	// both queries as people write them; nil for a right answer, and where one has no syntax tree
	Shown    *Shown   `json:"Shown,omitempty"`
	Notes    []string `json:"Notes"`
	Searched bool     `json:"Searched,omitempty"` // the cause of a wrong answer was searched for
	Tried    int      `json:"Tried,omitempty"`    // on how many twins a right answer was tried again
	MissedOn []string `json:"MissedOn,omitempty"` // fingerprints of the twins on which it was not right; the tables are those of the first
	OnSample string   `json:"OnSample,omitempty"` // digest of the answer on the sample, where the tables are a twin's
}

// Shown is what a wrong answer's query and its reference are as people write them, and how they differ.
type Shown struct {
	Query     string       `json:"Query"`     // formatted
	Reference string       `json:"Reference"` // formatted
	Clauses   []sql.Clause `json:"Clauses"`   // that differ
}

// The bounds of what one attempt can have used: a thousand times what the dearest was ever seen to, and far below where sums overflow.
const (
	MostTokens = 1_000_000_000
	MostCost   = 1_000_000
)

// Believable drops a cost or a number of tokens that cannot be, as earlier versions stored them: it counts as unknown.
func (a *Attempt) Believable() {
	if !(a.Cost >= 0 && a.Cost <= MostCost) { // also what is no number
		a.Cost = 0
	}
	if a.Tokens < 0 || a.Tokens > 2*MostTokens {
		a.Tokens = 0
	}
}

// Result is the digest of the answer on the sample; "" for none.
func (a Attempt) Result() string {
	if a.OnSample != "" {
		return a.OnSample
	}
	return a.Answer
}

// Try is one try of an ask; a retry is not a repeat.
type Try struct {
	Ask     int           `json:"ask"` // which exchange of the attempt, from 0
	Latency time.Duration `json:"latency"`
	Problem string        `json:"problem,omitempty"`
}

// Alteration is a change of the data under which a diagnosis ran both queries.
type Alteration struct {
	Change string     `json:"change"`
	Shows  fault.Code `json:"shows,omitempty"`
}

// Edit is an edited query that a diagnosis ran.
type Edit struct {
	Edit     string     `json:"edit"`
	Code     fault.Code `json:"code"`
	Repair   bool       `json:"repair"` // of the wrong query, rather than of the reference
	Distance int        `json:"distance"`
	Hit      bool       `json:"hit"`
	Query    string     `json:"query"`
}

// Exchange is a question with its reply.
type Exchange struct {
	Question string          `json:"question"`
	Reply    json.RawMessage `json:"reply"`
}

// Match is what a side-by-side view needs of a match.Result. Rows and columns count from 0.
type Match struct {
	Columns   []match.ColumnPair `json:"Columns"`
	Extra     []int              `json:"Extra"`
	AnswerOf  []int              `json:"AnswerOf"`
	Cells     []CellPlace        `json:"Cells"`
	Missing   []int              `json:"Missing"`
	ExtraRows []int              `json:"ExtraRows"`
}

// CellPlace is where a pair of rows differs.
type CellPlace struct {
	ExpectedRow int `json:"ExpectedRow"`
	AnswerRow   int `json:"AnswerRow"`
	Column      int `json:"Column"`
}

// maxPlaces bounds what is kept of a large difference.
const maxPlaces = 10_000

// Compact keeps of a match what a view needs, bounded.
func Compact(r match.Result) *Match {
	m := &Match{Columns: r.Columns, Extra: r.Extra, AnswerOf: head(r.AnswerOf), Missing: head(r.Missing), ExtraRows: head(r.ExtraRows)}
	for _, c := range r.Cells[:min(len(r.Cells), maxPlaces)] {
		m.Cells = append(m.Cells, CellPlace{c.ExpectedRow, c.AnswerRow, c.Column})
	}
	return m
}

func head(rows []int) []int { return rows[:min(len(rows), maxPlaces)] }

// Summary sums a run up, in the form of the JSON output.
type Summary struct {
	Run             int                    `json:"run"`
	Translator      string                 `json:"translator"`
	State           State                  `json:"state"`
	Questions       int                    `json:"questions"`
	AttemptsTotal   int                    `json:"attempts_total"`
	Right           int                    `json:"right"`
	Wrong           int                    `json:"wrong"`
	Failed          int                    `json:"failed"`
	Lucky           int                    `json:"lucky"`
	Unscored        int                    `json:"unscored"`
	UnscoredReasons map[fault.Reason]int   `json:"unscored_reasons"`
	Answered        int                    `json:"answered"`
	WrongOfAnswered *float64               `json:"wrong_of_answered"`
	Accuracy        *float64               `json:"accuracy"`
	Interval        *[2]float64            `json:"interval"`
	Agreement       *float64               `json:"agreement"`          // share of pairs of attempts of a question whose results match
	AgreeRepeats    *float64               `json:"agreement_repeats"`  // of the same wording
	AgreeWordings   *float64               `json:"agreement_wordings"` // of different wordings
	Standing        map[score.Standing]int `json:"standing"`
	Faults          map[fault.Code]int     `json:"faults"` // main faults
	Families        map[fault.Family]int   `json:"families"`
	Examples        map[fault.Code]string  `json:"fault_examples"` // a question that shows each
	Cost            float64                `json:"cost"`
	LatencyMS       Latency                `json:"latency_ms"`
	DurationMS      int64                  `json:"duration_ms"`

	wrongAnswers int // of the answered
}

// Latency of asking, in milliseconds.
type Latency struct {
	P50 float64 `json:"p50"`
	P95 float64 `json:"p95"`
}

// Summarise sums up a run's attempts.
func Summarise(r Run, attempts []Attempt) Summary {
	s := Summary{Run: r.ID, Translator: r.Translator, State: r.State, AttemptsTotal: len(attempts), DurationMS: r.Duration.Milliseconds(),
		UnscoredReasons: map[fault.Reason]int{}, Standing: map[score.Standing]int{}, Faults: map[fault.Code]int{},
		Families: map[fault.Family]int{}, Examples: map[fault.Code]string{}}
	for _, standing := range score.Standings() {
		s.Standing[standing] = 0
	}
	var latencies []float64
	for _, a := range attempts {
		s.count(a)
		latencies = append(latencies, a.latencies()...)
	}
	questions := byQuestion(r, attempts)
	s.Questions = len(questions)
	s.consistency(r)
	for _, q := range questions {
		s.Standing[score.StandingOf(q.Attempts)]++
	}
	if rate := score.Accuracy(questions); rate != nil {
		s.Accuracy, s.Interval = &rate.Value, &[2]float64{rate.Low, rate.High}
	}
	if s.Answered > 0 {
		share := float64(s.wrongAnswers) / float64(s.Answered)
		s.WrongOfAnswered = &share
	}
	s.LatencyMS = Latency{score.Percentile(latencies, 0.5), score.Percentile(latencies, 0.95)}
	return s
}

// consistency adds up how far attempts of a question agree.
func (s *Summary) consistency(r Run) {
	var repeats, wordings Pairs
	for _, c := range r.Consistency {
		repeats, wordings = repeats.Plus(c.Repeats), wordings.Plus(c.Wordings)
	}
	s.AgreeRepeats, s.AgreeWordings, s.Agreement = repeats.Share(), wordings.Share(), repeats.Plus(wordings).Share()
}

// latencies are those of the first tries of an attempt's asks, in milliseconds.
func (a Attempt) latencies() []float64 {
	if len(a.Tries) == 0 {
		if a.Raw == nil && a.Latency == 0 {
			return nil
		}
		return []float64{float64(a.Latency.Microseconds()) / 1000}
	}
	var out []float64
	for i, t := range a.Tries {
		if i == 0 || t.Ask != a.Tries[i-1].Ask {
			out = append(out, float64(t.Latency.Microseconds())/1000)
		}
	}
	return out
}

func (s *Summary) count(a Attempt) {
	switch a.Verdict {
	case score.Right:
		s.Right++
	case score.Wrong:
		s.Wrong++
	case score.Failed:
		s.Failed++
	case score.Lucky:
		s.Lucky++
	case score.Unscored:
		s.Unscored++
		s.UnscoredReasons[a.Reason]++
	}
	if (a.Verdict == score.Right || a.Verdict == score.Wrong || a.Verdict == score.Lucky) && !a.Stance {
		s.Answered++
		if a.Verdict == score.Wrong {
			s.wrongAnswers++
		}
	}
	if a.Verdict != score.Unscored && len(a.Faults) > 0 {
		s.Faults[a.Faults[0].Code]++
		s.Families[fault.FamilyOf(a.Faults[0].Code)]++
		if s.Examples[a.Faults[0].Code] == "" {
			s.Examples[a.Faults[0].Code] = a.Question
		}
	}
	s.Cost += a.Cost
}

// Standings judges each question over its attempts.
func Standings(attempts []Attempt) map[string]score.Standing {
	verdicts := map[string][]score.Verdict{}
	for _, a := range attempts {
		verdicts[a.Question] = append(verdicts[a.Question], a.Verdict)
	}
	out := map[string]score.Standing{}
	for name, all := range verdicts {
		out[name] = score.StandingOf(all)
	}
	return out
}

// byQuestion gathers verdicts by question, in the order in which questions first occur.
func byQuestion(r Run, attempts []Attempt) []score.Question {
	index := map[string]int{}
	var questions []score.Question
	for _, a := range attempts {
		i, ok := index[a.Question]
		if !ok {
			i = len(questions)
			index[a.Question] = i
			weight, given := r.Weights[a.Question]
			if !given {
				weight = 1
			}
			questions = append(questions, score.Question{Weight: weight})
		}
		questions[i].Attempts = append(questions[i].Attempts, a.Verdict)
	}
	return questions
}
