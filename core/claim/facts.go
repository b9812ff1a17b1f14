package claim

import (
	"fmt"
	"slices"
	"strings"

	"tovrel/core/value"
)

// Fact is something that a reply must state, in one of several ways.
type Fact struct {
	Ways []Way
	Said string // in words, for people
}

// Way is one way to state a fact.
type Way struct {
	Words string
	Value *value.Value // nil for words
	About []string     // words with which the value must stand; none for any
}

// Facts are what a reply must state, and must not.
type Facts struct {
	States   []Fact
	Enough   int // of them; 0 for all
	Avoids   []string
	Question string
	Synonyms [][]string // words that mean the same
}

// FactFinding is a judgement of a reply by facts.
type FactFinding struct {
	Verdict      Verdict
	Why          string
	Stated       []string // the facts that are stated
	Missing      []string // those that are not
	Partly       []string // those that are stated in part
	Contradicted string   // what it states and must not; "" for nothing
	Closeness    float64
}

// JudgeFacts holds a reply in words against facts.
func JudgeFacts(text string, f Facts) FactFinding {
	clauses := f.clausesOf(text)
	var out FactFinding
	for _, avoided := range f.Avoids {
		if f.words(clauses, avoided) == stated {
			out.Contradicted = avoided
			out.Why = fmt.Sprintf("the reply states what it must not: %s", avoided)
			return out
		}
	}
	for _, fact := range f.States {
		switch f.state(clauses, text, fact) {
		case stated:
			out.Stated = append(out.Stated, fact.Said)
		case partly:
			out.Partly = append(out.Partly, fact.Said)
		default:
			out.Missing = append(out.Missing, fact.Said)
		}
	}
	enough := f.Enough
	if enough == 0 {
		enough = len(f.States)
	}
	if enough > 0 {
		out.Closeness = min(1, float64(len(out.Stated))/float64(enough))
	}
	switch {
	case len(out.Stated) >= enough:
		out.Verdict, out.Why = Right, "the reply states what it must"
	case len(out.Stated)+len(out.Partly) >= enough:
		out.Verdict, out.Why = Unsure, "a fact is stated in part: "+out.Partly[0]
	default:
		out.Why = "the reply does not state: " + out.Missing[0]
	}
	return out
}

// StatedBy tells whether a question's own words state a fact.
func StatedBy(question, fact string) bool {
	f := Facts{}
	content := contentOf(f.clause(fact).words)
	said := f.clause(question).words
	return len(content) > 0 && !slices.ContainsFunc(content, func(w string) bool { return !slices.Contains(said, w) })
}

// how a fact is stated.
type how int

const (
	missing how = iota
	partly
	stated
)

// fillers are words without content of their own.
var fillers = setOf("a an the is are was were be been being am it its this that these those there here of in on at for to by with as " +
	"and or so do does did has have had which who whom whose what when where how our your their his her i we you they " +
	"he she them us me also just only very any each all into out up about than then from per before after more less " +
	"over between without not no never none cannot can could may might must will would shall should means mean meant " +
	"called known defined definition refers stands")

// direction are words around which order counts.
var direction = setOf("less per of before after from to than over between under above below into")

// negating words turn a clause into its opposite.
var negating = setOf("not no never none neither nor without cannot nobody nothing isn wasn aren weren doesn didn don hasn haven hadn " +
	"won can't isn't")

// clause is a sentence by its words.
type clause struct {
	words    []string // stems
	negative bool
}

// clausesOf splits a text into sentences.
func (f Facts) clausesOf(text string) []clause {
	var out []clause
	for _, l := range linesOf(text) {
		out = append(out, f.clause(l.text))
	}
	return out
}

func (f Facts) clause(text string) clause {
	var c clause
	for _, w := range fieldsOf(text) {
		if negating[w.folded] {
			c.negative = !c.negative
			continue
		}
		c.words = append(c.words, f.same(Stem(w.folded)))
	}
	return c
}

// same is one word for all that mean the same.
func (f Facts) same(stem string) string {
	for _, group := range f.Synonyms {
		for _, w := range group {
			if all := stems(w); len(all) == 1 && all[0] == stem {
				return Stem(strings.ToLower(group[0]))
			}
		}
	}
	return stem
}

func (f Facts) state(clauses []clause, text string, fact Fact) how {
	best := missing
	for _, w := range fact.Ways {
		if w.Value != nil {
			if f.value(text, w) {
				best = stated
			}
			continue
		}
		best = max(best, f.words(clauses, w.Words))
	}
	return best
}

// words tells how clauses state a fact: with all its content words, negated as it is, in its order around words of direction.
func (f Facts) words(clauses []clause, fact string) how {
	want := f.clause(fact)
	content := contentOf(want.words)
	if len(content) == 0 {
		return missing
	}
	asked := contentOf(f.clause(f.Question).words)
	own := slices.DeleteFunc(slices.Clone(content), func(w string) bool { return slices.Contains(asked, w) })
	best := missing
	for _, c := range clauses {
		has := func(w string) bool { return slices.Contains(c.words, w) }
		switch {
		case !slices.ContainsFunc(content, func(w string) bool { return !has(w) }):
			if c.negative == want.negative && c.keepsOrder(want) {
				return stated
			}
			best = max(best, contradictsOrPartly(c, want))
		case len(own) > 0 && 2*count(own, has) >= len(own):
			best = max(best, partly)
		}
	}
	return best
}

// contradictsOrPartly: a clause with all words that says the opposite does not state a fact; one with the words in another order may.
func contradictsOrPartly(c, want clause) how {
	if c.negative != want.negative {
		return missing
	}
	return partly
}

func count(all []string, fits func(string) bool) int {
	n := 0
	for _, w := range all {
		if fits(w) {
			n++
		}
	}
	return n
}

func contentOf(words []string) []string {
	var out []string
	for _, w := range words {
		if !fillerStems[w] && !slices.Contains(out, w) {
			out = append(out, w)
		}
	}
	return out
}

var fillerStems = stemmed(fillers)

func stemmed(words map[string]bool) map[string]bool {
	out := map[string]bool{}
	for w := range words {
		out[w], out[Stem(w)] = true, true
	}
	return out
}

// keepsOrder tells whether the content words on both sides of each word of direction stand so in a clause too, around the same word.
func (c clause) keepsOrder(want clause) bool {
	for i, w := range want.words {
		if !direction[w] {
			continue
		}
		left, right := neighbour(want.words, i, -1), neighbour(want.words, i, 1)
		if left == "" || right == "" {
			continue
		}
		if !c.around(left, w, right) {
			return false
		}
	}
	return true
}

// neighbour is the next content word on a side; "" for none.
func neighbour(words []string, i, step int) string {
	for j := i + step; j >= 0 && j < len(words); j += step {
		if !fillerStems[words[j]] {
			return words[j]
		}
	}
	return ""
}

func (c clause) around(left, middle, right string) bool {
	for i, w := range c.words {
		if w == middle && slices.Contains(c.words[:i], left) && slices.Contains(c.words[i+1:], right) {
			return true
		}
	}
	return false
}

// value tells whether a text gives a value with one of the words that it must stand with.
func (f Facts) value(text string, way Way) bool {
	style := styleOf(text)
	for _, l := range linesOf(text) {
		if len(way.About) > 0 && !about(l.text, way.About) {
			continue
		}
		if !way.Value.Kind().Number() {
			if Mentions(l.text, way.Value.String()) {
				return true
			}
			continue
		}
		s := &sentence{line: l, tokens: tokensOf(l.text, nameIndex{}, style)}
		s.zeros()
		s.hedge()
		x, ok := way.Value.Float64()
		for i, t := range s.tokens {
			if ok && t.kind == amount && !t.rank && t.number.states(x, way.Value.Kind() == value.Int) >= rounded && s.with(i, way.About) {
				return true
			}
		}
	}
	return false
}

// with tells whether one of some words stands with a number, nearer to it than another number's word.
func (s *sentence) with(i int, words []string) bool {
	if len(words) == 0 {
		return true
	}
	for j, t := range s.tokens {
		if t.kind != word && t.kind != proper || !slices.ContainsFunc(words, func(w string) bool { return about(t.text, []string{w}) }) {
			continue
		}
		nearest := i
		for k, other := range s.tokens {
			if other.kind == amount && !other.rank && s.cost(k, j) < s.cost(nearest, j) {
				nearest = k
			}
		}
		if nearest == i {
			return true
		}
	}
	return slices.ContainsFunc(words, func(w string) bool { return strings.Contains(w, " ") })
}
