package golden

import (
	"fmt"
	"slices"
	"strings"

	"tovrel/core/chart"
	"tovrel/core/near"
	"tovrel/core/source"
	"tovrel/core/yamldoc"
)

// Fact is something that a reply must state, in one of several ways.
type Fact struct {
	Ways []Way
	At   source.Position
}

// Way is one way to state a fact: in words, or by a value that a query gives.
type Way struct {
	Words string
	SQL   string   // "" for words
	About []string // words with which the value must stand; none for any
	At    source.Position
}

// String is a fact in a few words.
func (f Fact) String() string {
	var ways []string
	for _, w := range f.Ways {
		if w.SQL != "" {
			ways = append(ways, strings.TrimSpace("the value of "+w.SQL+" "+strings.Join(w.About, "/")))
		} else {
			ways = append(ways, w.Words)
		}
	}
	return strings.Join(ways, " — or — ")
}

// AboutCatalogue is the value of about: for questions about the tables themselves.
const AboutCatalogue = "catalogue"

// readFacts reads states, enough, avoids and about.
func readFacts(r *yamldoc.Reader, fields map[string]yamldoc.Node, s *Settings) {
	for _, n := range r.Items(fields["states"], "states") {
		s.States = append(s.States, readFact(r, n))
	}
	s.Avoids = r.Texts(fields["avoids"], "avoids")
	if n := fields["about"]; n != nil {
		if s.About = r.Text(n, "about"); s.About != AboutCatalogue {
			r.Report(n, "unknown-value", fmt.Sprintf("about has no value %q", s.About), "its value is "+AboutCatalogue)
		}
	}
	n := fields["enough"]
	if n == nil {
		return
	}
	if s.Enough = r.Whole(n, "enough", 1); s.Enough > len(s.States) {
		r.Report(n, "too-many-facts", fmt.Sprintf("enough says %d, and states lists %d", s.Enough, len(s.States)), "lower it, or add facts")
	}
}

func readFact(r *yamldoc.Reader, n yamldoc.Node) Fact {
	f := Fact{At: r.Position(n)}
	if !yamldoc.IsMapping(n) {
		f.Ways = []Way{{Words: r.Text(n, "a fact"), At: f.At}}
		return f
	}
	fields := r.Fields(n, "a fact", yamldoc.Keys{Known: []string{"any", "value"}})
	for _, item := range r.Items(fields["any"], "any") {
		if yamldoc.IsMapping(item) {
			f.Ways = append(f.Ways, readFact(r, item).Ways...)
			continue
		}
		f.Ways = append(f.Ways, Way{Words: r.Text(item, "a fact"), At: r.Position(item)})
	}
	if v := fields["value"]; v != nil {
		f.Ways = append(f.Ways, readValue(r, v))
	}
	if len(f.Ways) == 0 {
		r.Report(n, "empty-fact", "this fact says nothing", "write a text, any: [text, …] or value: {sql: …, about: [word, …]}")
	}
	return f
}

func readValue(r *yamldoc.Reader, n yamldoc.Node) Way {
	w := Way{At: r.Position(n)}
	fields := r.Fields(n, "a value", yamldoc.Keys{Known: []string{"sql", "about"}})
	if s := fields["sql"]; s != nil {
		w.SQL, w.At = r.Text(s, "sql"), r.Position(s)
	}
	if w.SQL == "" {
		r.Report(n, "empty-fact", "this value has no query", "add sql: with a query whose first cell is the value")
	}
	w.About = r.Texts(fields["about"], "about")
	return w
}

// readChart reads what is asked of a chart's form.
func readChart(r *yamldoc.Reader, n yamldoc.Node) *chart.Form {
	fields := r.Fields(n, "chart", yamldoc.Keys{Known: chart.Keys()})
	f := &chart.Form{Fields: map[string]string{}}
	for _, item := range r.Items(fields["mark"], "mark") {
		mark := r.Text(item, "mark")
		if !slices.Contains(chart.Marks(), mark) {
			r.Report(item, "unknown-value", fmt.Sprintf("there is no mark %q", mark), near.Hint(mark, chart.Marks()))
		}
		f.Marks = append(f.Marks, mark)
	}
	for _, name := range chart.FieldChannels() {
		if c := fields[name]; c != nil {
			f.Fields[name] = r.Text(c, name)
		}
	}
	if s := fields["sort"]; s != nil {
		f.Sort = r.Text(s, "sort")
		if by := strings.TrimPrefix(f.Sort, "-"); by != "x" && by != "y" {
			r.Report(s, "unknown-value", fmt.Sprintf("sort has no value %q", f.Sort), "its values are x, -x, y and -y")
		}
	}
	for key, into := range map[string]*bool{"zero": &f.Zero, "titles": &f.Titles} {
		if b := fields[key]; b != nil {
			*into = r.Bool(b, key)
		}
	}
	return f
}
