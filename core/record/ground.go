package record

// Ground are digests of what the judgement of a question rests on. Where one of them differs between two runs, the question's ground
// has moved, and its verdicts say nothing of what was varied.
type Ground struct {
	Question string `json:"question"` // its text and what was said before it
	Expected string `json:"expected"` // what is accepted
	Rules    string `json:"rules"`
	Data     string `json:"data"` // fingerprint of the dataset
	// digest of the fingerprints of the tables that the reference queries read; "" where that is not known, as in runs of earlier versions
	Tables   string `json:"tables,omitempty"`
	Briefing string `json:"briefing"` // what the translator was told, with the level: a circumstance
	Engine   string `json:"engine"`   // with its version
}

// Moved names what of the ground differs, in the order of the fields. What was told is a circumstance, and no ground. What a run of an
// earlier form does not know is taken as the same; where it does not know which tables were read, each moves with its dataset.
func (g Ground) Moved(other Ground) []string {
	data, otherData := g.Data, other.Data
	if g.Tables != "" && other.Tables != "" {
		data, otherData = g.Tables, other.Tables
	}
	var out []string
	for _, part := range []struct{ name, a, b string }{{"question", g.Question, other.Question},
		{"expected", g.Expected, other.Expected}, {"rules", g.Rules, other.Rules},
		{"data", data, otherData}, {"engine", g.Engine, other.Engine}} {
		if part.a != part.b && part.a != "" && part.b != "" {
			out = append(out, part.name)
		}
	}
	return out
}

// About is what comparisons sort questions by.
type About struct {
	Dataset    string   `json:"dataset"`
	Tags       []string `json:"tags,omitempty"`
	Features   []string `json:"features,omitempty"`    // of the reference query: joins, windows, nesting …
	KnownWrong string   `json:"known_wrong,omitempty"` // why; "" for a question that counts
	Formerly   []string `json:"formerly,omitempty"`    // earlier names
	Thread     string   `json:"thread,omitempty"`      // the question that began its thread; "" for a question of its own
}

// Consistency counts pairs of attempts of a question, and those of them whose results agree under the question's rules.
type Consistency struct {
	Repeats  Pairs `json:"repeats"`  // of the same wording
	Wordings Pairs `json:"wordings"` // of different wordings
}

// Pairs are how many of so many pairs agree.
type Pairs struct {
	Agree int `json:"agree"`
	Of    int `json:"of"`
}

// Share is the share of pairs that agree; nil where there is no pair.
func (p Pairs) Share() *float64 {
	if p.Of == 0 {
		return nil
	}
	share := float64(p.Agree) / float64(p.Of)
	return &share
}

// Plus adds pairs up.
func (p Pairs) Plus(q Pairs) Pairs { return Pairs{p.Agree + q.Agree, p.Of + q.Of} }
