// Package record holds the record of a run: what was asked, what came back, and how it was judged. It sums a run up; it stores
// nothing and judges nothing.
package record

import (
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"strings"
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
	Datasets   map[string]string  `json:"datasets"`           // fingerprint of each dataset
	Under      map[string]Under   `json:"under,omitempty"`    // by dataset; nil in runs of earlier versions
	Planned    int                `json:"planned"`            // attempts
	Weights    map[string]float64 `json:"weights"`            // of each question
	UID        string             `json:"uid"`                // the same wherever the run is copied to
	Options    Options            `json:"options"`            // what a resumed run asks
	Settings   string             `json:"settings"`           // digest of the translator's settings
	Protocol   int                `json:"protocol,omitempty"` // its version; 0 for 1

	Grounds map[string]Ground `json:"grounds"` // by question
	// planned, by question: digests of their folded texts; nil in runs of earlier versions
	Wordings map[string][]string `json:"wordings,omitempty"`
	About    map[string]About    `json:"about"`           // by question
	Twins    map[string][]string `json:"twins,omitempty"` // fingerprints of the twins, by dataset
	// by fingerprint, what a twin is made by: from the same copy of the dataset it is the same twin
	Recipes     map[string]json.RawMessage `json:"recipes,omitempty"`
	Consistency map[string]Consistency     `json:"consistency"` // by question, of those that were asked more than once
	// what the replies say of themselves
	Models       []string `json:"models,omitempty"`
	InputTokens  int64    `json:"input_tokens,omitempty"`
	OutputTokens int64    `json:"output_tokens,omitempty"`
	By           string   `json:"by,omitempty"` // who made it, where a history is shared; "" elsewhere
	// when its replies and values were removed from the history; nil where they are there
	Purged *time.Time `json:"purged,omitempty"`
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
	Trial    string   `json:"trial,omitempty"` // the change of the briefing that was tried; "" where none was
}

// Narrowed tells whether the options leave questions out, or try a change: such a run does not stand for its translator.
func (o Options) Narrowed() bool {
	return len(o.Names)+len(o.Tags)+len(o.Only) > 0 || o.Shard[1] > 0 || o.Trial != ""
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
	Facts     *Facts `json:"Facts,omitempty"` // of a question that lists facts
	Look      *Look  `json:"Look,omitempty"`  // what a person decides on, of a reply that is no query
	Chart     *Chart `json:"Chart,omitempty"` // of a reply that is one
	// what the reply says of itself
	Explanation  string `json:"Explanation,omitempty"`
	Model        string `json:"Model,omitempty"`
	InputTokens  int64  `json:"InputTokens,omitempty"`
	OutputTokens int64  `json:"OutputTokens,omitempty"`
	Reused       int    `json:"Reused,omitempty"`  // the run that the answer was taken from; 0 where it was asked for
	Decided      string `json:"Decided,omitempty"` // what a person decided; "" where the rules did
	// both queries as people write them; nil for a right answer, and where one has no syntax tree
	Shown    *Shown   `json:"Shown,omitempty"`
	Notes    []string `json:"Notes"`
	Searched bool     `json:"Searched,omitempty"` // the cause of a wrong answer was searched for
	Tried    int      `json:"Tried,omitempty"`    // on how many twins a right answer was tried again
	// fingerprints of the twins on which it was not right; the tables are those of the first
	MissedOn []string `json:"MissedOn,omitempty"`
	OnSample string   `json:"OnSample,omitempty"` // digest of the answer on the sample, where the tables are a twin's
}

// Said is a digest of what a reply says: its query, or its words; "" where that is not known.
func (a *Attempt) Said() string {
	switch {
	case a.Query != "":
		sum := sha256.Sum256([]byte(strings.TrimSpace(a.Query)))
		const short = 6 // bytes
		return hex.EncodeToString(sum[:short])
	case a.Look != nil:
		return a.Look.ReplyDigest
	}
	return ""
}

// MadeRows stands for a twin's fingerprint where rows were made for the question.
const MadeRows = "made"

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

// Look is a reply as a person is shown it, with what a decision about it rests on.
type Look struct {
	Reply          string `json:"reply"`
	ReplyDigest    string `json:"reply_digest"`
	ExpectedDigest string `json:"expected_digest"`
}

// Chart is what is shown of a reply's chart: its form in words, and which columns of the answer its marks stand for.
type Chart struct {
	Form    string   `json:"form"`
	Mark    string   `json:"mark"`
	Label   int      `json:"label"` // column; -1 for none
	Value   int      `json:"value"`
	Dropped []string `json:"dropped,omitempty"` // keys that are not known
}

// Facts are what a reply states of the facts that a question lists.
type Facts struct {
	Stated       []string `json:"stated"`
	Missing      []string `json:"missing"`
	Partly       []string `json:"partly"`
	Contradicted string   `json:"contradicted,omitempty"`
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
