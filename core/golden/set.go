package golden

import (
	"tovrel/core/chart"
	"tovrel/core/match"
	"tovrel/core/source"
	"tovrel/core/value"
)

// Set is a golden set as a document. Its source stays as it was written.
type Set struct {
	File      string
	Name      string
	Dataset   string
	Owner     string
	Tags      []string
	Rules     match.Rules
	Questions []*Question
	Sound     bool // it was parsed without a defect

	text     []byte
	bodyFrom int // offset behind the front matter
}

// Expect says what a translator should do with a question.
type Expect string

// What may be expected.
const (
	ExpectAnswer  Expect = "answer"
	ExpectClarify Expect = "clarify"
	ExpectEither  Expect = "either"
	ExpectDecline Expect = "decline"
)

// Question is a business question, or a follow-up to one.
type Question struct {
	ID   string // within the set
	Text string // without Markdown marks
	At   source.Position
	Settings
	Answer    Answer
	Readings  []*Reading
	FollowUps []*Question // in the order of the conversation
	After     *Question   // the question that this one follows up; nil for a question of its own
	Roles     []*RoleAnswer

	// of a question as it is asked for some values of its parameters:
	Base *Question         // as it is written; nil for one without parameters
	User map[string]string // the values, by parameter
}

// Settings are what a question's YAML block says.
type Settings struct {
	AlsoAsked  []string
	Tags       []string
	Difficulty string
	Weight     float64
	Rules      match.Rules
	Types      map[string]value.Kind
	Dialect    string
	Queries    map[string]string // the reference query in other dialects
	Expect     Expect
	Mentions   []string
	Then       string
	Draft      bool
	KnownWrong string // why translators get it wrong; "" for a question that counts
	Second     string // another way to compute the answer, as another person would; "" for none
	SecondAt   source.Position
	Rejected   []string // queries, or tables in Markdown, that users rated down
	Formerly   []string // earlier ids
	States     []Fact   // what a reply must state, in place of a table
	Enough     int      // how many of them; 0 for all
	Avoids     []string // what a reply must not state
	About      string   // AboutCatalogue where the question is about the tables themselves
	Chart      *chart.Form
	For        []Parameter // in the order in which they are written
}

// Reading is one accepted interpretation beside the question's own.
type Reading struct {
	Title  string
	At     source.Position
	Answer Answer
}

// Answer is what is expected: a query's result, a written table, or a file's.
type Answer struct {
	Query   string            // "" for none
	Forms   map[string]string // the query in dialects in which somebody wrote it
	QueryAt source.Position
	Table   *Written // nil for none
	File    string   // as written; "" for none
	FileAt  source.Position
	Types   map[string]value.Kind

	settingsAt int // line of the settings block's opening fence; 0 for none
}

// Empty tells whether nothing is expected.
func (a Answer) Empty() bool { return a.Query == "" && a.Table == nil && a.File == "" }

// QuestionName is a question's name in the workspace, such as "milk-basics/top-district-may".
func (s *Set) QuestionName(q *Question) string { return s.Name + "/" + q.ID }

// All lists the questions with their follow-ups in document order.
func (s *Set) All() []*Question {
	var all []*Question
	for _, q := range s.Questions {
		all = append(append(all, q), q.FollowUps...)
	}
	return all
}

// Wordings lists the ways to ask a question, the main text first.
func (q *Question) Wordings() []string { return append([]string{q.Text}, q.AlsoAsked...) }

// Text is the document as it was read, or as it was after the last edit.
func (s *Set) Text() []byte { return s.text }
