package diagnose

import (
	"cmp"
	"context"
	"errors"
	"fmt"
	"strings"

	"tovrel/core/fault"
	"tovrel/core/match"
	"tovrel/core/sql"
	"tovrel/core/table"
	"tovrel/core/twin"
)

// mode is how an intervention shows a cause.
type mode int

const (
	mended mode = iota + 1 // the answer is right on the changed data
	broken                 // the reference gives on them what the answer gave
	agreed                 // both give the same on them
)

// finding is an intervention that showed a cause.
type finding struct {
	intervention
	mode  mode
	shows *fault.Fault // how what is the same is shown otherwise; nil where it is not
}

func (f finding) code() fault.Code {
	return map[mode]fault.Code{mended: f.mended, broken: f.broken, agreed: f.both}[f.mode]
}

// besides is the other of two mistakes.
func (f finding) besides() []fault.Fault {
	if f.shows != nil {
		return []fault.Fault{{Code: f.shows.Code, Certainty: fault.Likely, Evidence: f.words + ", " + f.shows.Evidence}}
	}
	if f.second == nil {
		return nil
	}
	other := finding{*f.second, f.mode, nil}
	return []fault.Fault{{Code: other.code(), Certainty: fault.Likely,
		Evidence: strings.TrimSuffix("the other of the two: "+other.words+": "+other.says(), ": ")}}
}

// proves tells whether a finding can prove a cause by itself: one narrow change of the data under which one query gives what was known
// before.
func (f finding) proves() bool { return f.mode != agreed && !f.wide }

// says is what a finding means for the answer; "" where that is not known.
func (f finding) says() string {
	switch f.mode {
	case mended:
		return f.saysMended
	case broken:
		return f.saysBroken
	}
	return cmp.Or(f.saysBoth, f.saysMended, f.saysBroken)
}

// evidence says it in words.
func (f finding) evidence() string {
	gives := map[mode]string{mended: "the translator's query gives what was expected", broken: "the reference query gives the very answer",
		agreed: "both queries give the same"}[f.mode]
	if says := f.says(); says != "" {
		gives += ": " + says
	}
	return f.words + ", " + gives
}

// alter changes the data in place of a query: it runs both queries on data in which one kind of mistake cannot matter. What both queries
// agree under counts where nothing else does, and farther changes are tried where no edit fits either.
func (s *search) alter(ctx context.Context) error {
	best, rivals := s.best()
	sure := best != nil && s.certain(*best, rivals)
	all := interventions(s.c)
	agreeing, err := s.narrow(ctx, all, best, sure)
	if err != nil || s.d.Ended != "" {
		return err
	}
	if s.findings, err = s.inRank(ctx, s.findings); err != nil || s.d.Ended != "" {
		return err
	}
	if len(s.findings) > 0 || best != nil && !s.doubtful(*best) {
		return nil
	}
	if err := s.firstHolding(ctx, agreeing); err != nil || len(s.findings) > 0 || s.d.Ended != "" || best != nil {
		return err
	}
	return s.farther(ctx, all)
}

// narrow tries the narrow interventions, and gives those under which both queries agree. It stops after those of one priority that proved
// something, after they were tried on smaller copies of the data too; and where an edit is certain, after those of the first.
func (s *search) narrow(ctx context.Context, all []intervention, best *hit, sure bool) (agreeing []finding, err error) {
	priority := 0
	for _, i := range all {
		if i.priority > priority && (len(s.findings) > 0 || sure) {
			break
		}
		priority = i.priority
		f, err := s.intervene(ctx, i)
		s.took(i, f)
		switch {
		case err != nil || s.d.Ended != "":
			return nil, err
		case f == nil:
			continue
		case f.mode == agreed:
			agreeing = append(agreeing, *f)
			continue
		}
		if err := s.keepHolding(ctx, *f); err != nil || s.d.Ended != "" {
			return nil, err
		}
		if n := len(s.findings); n == enoughFindings || sure && n > 0 && s.findings[0].code() == codeOf(best.Change, best.repair) {
			break
		}
	}
	return agreeing, nil
}

// took takes down a change of the data with what it showed at first sight.
func (s *search) took(i intervention, f *finding) {
	a := Alteration{Words: i.words}
	if f != nil {
		a.Shows = f.code()
	}
	s.d.Altered = append(s.d.Altered, a)
}

// firstHolding takes the first finding, by rank, that holds on smaller copies of the data too.
func (s *search) firstHolding(ctx context.Context, all []finding) error {
	ordered, err := s.inRank(ctx, all)
	if err != nil || s.d.Ended != "" {
		return err
	}
	for _, f := range ordered {
		if err := s.keepHolding(ctx, f); err != nil || s.d.Ended != "" || len(s.findings) > 0 {
			return err
		}
	}
	return nil
}

// keepHolding keeps a finding that holds on smaller copies of the data too.
func (s *search) keepHolding(ctx context.Context, f finding) error {
	holds, err := s.persists(ctx, f)
	if err == nil && holds && s.d.Ended == "" {
		s.findings = append(s.findings, f)
	}
	return err
}

// enoughFindings is how many are gathered, to see whether they have one code.
const enoughFindings = 2

// intervene runs both queries on changed data; nil where that shows nothing.
func (s *search) intervene(ctx context.Context, i intervention) (*finding, error) {
	whole, wrong := s.without(i.aside)
	answer, err := s.onAltered(ctx, wrong, i.steps)
	if err != nil || answer == nil {
		return nil, err
	}
	if i.mended != "" && !thin(s.c.Expected) && s.agrees(answer, true) {
		return &finding{i, mended, nil}, nil
	}
	reference, err := s.onAltered(ctx, whole, i.steps)
	if err != nil || reference == nil {
		return nil, err
	}
	switch {
	case i.broken != "" && !thin(s.c.Got) && s.agrees(reference, false):
		return &finding{i, broken, nil}, nil
	case i.both != "" && s.alike(reference, answer) && telling(reference, s.c.Expected):
		return &finding{i, agreed, nil}, nil
	}
	return nil, nil
}

// alike tells whether an answer is right for what the reference gives on the same data.
func (s *search) alike(reference, answer *table.Table) bool {
	return match.Match(reference, answer, s.c.Rules, s.c.Known).Matched
}

// alikeAs tells that of an answer that may show it as in a finding.
func (s *search) alikeAs(f finding, reference, answer *table.Table) bool {
	if f.shows == nil {
		return s.alike(reference, answer)
	}
	shown := s.shows(reference, answer)
	return shown != nil && shown.Code == f.shows.Code
}

// same tells whether the reference gives on changed data the very thing that the answer gives.
func (s *search) same(reference, answer *table.Table) bool {
	return reference.Rows() == answer.Rows() && match.Match(reference, answer, exactly, s.presented()).Matched
}

// telling tells whether a result on changed data still says something: enough of the rows, and not only zeros and nulls.
func telling(t, whole *table.Table) bool {
	const least, part = 2, 4
	if poor(t) {
		return false
	}
	return whole.Rows() <= least || t.Rows() >= least && t.Rows()*part >= whole.Rows()
}

// persists tries a finding on smaller copies of the data, where what agreed by chance does not.
func (s *search) persists(ctx context.Context, f finding) (bool, error) {
	tried := 0
	var seen []*table.Table
	reference, answer := s.without(f.aside)
	for _, thinned := range s.smaller() {
		var one, other *table.Table
		var err error
		switch f.mode {
		case mended:
			one, other, err = s.pair(ctx, s.c.Reference, thinned, answer, merged(f.steps, thinned))
		case broken:
			one, other, err = s.pair(ctx, s.c.Answer, thinned, reference, merged(f.steps, thinned))
		default:
			one, other, err = s.pair(ctx, reference, merged(f.steps, thinned), answer, merged(f.steps, thinned))
		}
		if err != nil {
			return false, err
		}
		if one == nil || other == nil || thin(one) {
			continue
		}
		tried++
		if f.mode == broken && !s.same(other, one) || f.mode != broken && !s.alikeAs(f, one, other) {
			return false, nil
		}
		seen = append(seen, other)
	}
	if f.mode == agreed { // what never changes shows nothing
		varies := false
		for _, t := range seen[min(1, len(seen)):] {
			varies = varies || !sameTables(seen[0], t)
		}
		return varies, nil
	}
	return tried > 0, nil
}

// pair runs two queries, each on its data.
func (s *search) pair(ctx context.Context, a *sql.Tree, on map[string][]twin.Step, b *sql.Tree, onB map[string][]twin.Step) (*table.Table,
	*table.Table, error) {
	one, err := s.onAltered(ctx, a, on)
	if err != nil || one == nil {
		return nil, nil, err
	}
	other, err := s.onAltered(ctx, b, onB)
	return one, other, err
}

// onAltered runs a query on changed data, within the budget, and remembers what it gave; nil where that gives nothing.
func (s *search) onAltered(ctx context.Context, t *sql.Tree, steps map[string][]twin.Step) (*table.Table, error) {
	read := stepsOn(t, steps)
	known, ran := s.knownOn(t, read)
	if ran || !s.mayRun() {
		return known, nil
	}
	got, err := s.ran(ctx, t, read)
	if errors.Is(err, ErrSlow) {
		s.slow++
		got, err = nil, nil // and is not run again
	}
	if err == nil {
		s.altered[s.alteredKey(t, read)] = got
	}
	return got, err
}

// stepsOn are those on tables that a query reads.
func stepsOn(t *sql.Tree, steps map[string][]twin.Step) map[string][]twin.Step {
	read := map[string][]twin.Step{}
	for _, name := range t.TablesRead() {
		if of := steps[name]; len(of) > 0 {
			read[name] = of
		}
	}
	return read
}

// alteredKey is one text for a query on changed data, with the types of the steps.
func (s *search) alteredKey(t *sql.Tree, steps map[string][]twin.Step) string {
	if s.keys[t] == "" {
		s.keys[t] = t.Key()
	}
	return fmt.Sprintf("%s %#v", s.keys[t], steps)
}

// knownOn is what a query is known to give on changed data.
func (s *search) knownOn(t *sql.Tree, steps map[string][]twin.Step) (got *table.Table, known bool) {
	switch {
	case len(steps) == 0 && t == s.c.Reference:
		return s.c.Expected, true
	case len(steps) == 0 && t == s.c.Answer:
		return s.c.Got, true
	}
	got, known = s.altered[s.alteredKey(t, steps)]
	return got, known
}

func (s *search) ran(ctx context.Context, t *sql.Tree, steps map[string][]twin.Step) (*table.Table, error) {
	if len(steps) == 0 {
		return s.w.Run(ctx, t)
	}
	return s.w.Altered(ctx, t, steps)
}
