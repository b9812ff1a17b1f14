// Package diagnose finds the cause of a wrong answer. It edits the reference query as a translator would have got it wrong, runs
// the edited queries and looks which give the very answer; then it edits the wrong query and looks what repairs it. Edits are
// run in the order of the structural distance that they leave, so that the cause comes within a few tries. It runs no query itself:
// running is a function that it is given.
package diagnose

import (
	"cmp"
	"context"
	"errors"
	"fmt"
	"slices"
	"time"

	"tovrel/core/edit"
	"tovrel/core/fault"
	"tovrel/core/match"
	"tovrel/core/sql"
	"tovrel/core/table"
	"tovrel/core/twin"
)

// Case is a wrong answer with what is known of it.
type Case struct {
	Reference *sql.Tree    // nil without one
	Answer    *sql.Tree    // the translator's query; nil for a table or text
	Expected  *table.Table // what was expected
	Got       *table.Table // what came
	Rules     match.Rules  // under which a repair must match what was expected
	Known     match.Known
	Columns   map[string][]edit.Column
	Values    func(column string) []string
	Rows      map[string]int64 // how many each table has, by its name in lower case
}

// World is what a diagnosis may do.
type World struct {
	// Run runs an edited query. The error is nil for a query that does not run: then the table is nil; ErrSlow for one that was stopped
	// before it was done; any other ends the search.
	Run func(ctx context.Context, t *sql.Tree) (*table.Table, error)
	// Salted runs a query on a salted twin of the data; nil where there is none, or for a query that does not run there. Its error is
	// as that of Run.
	Salted func(ctx context.Context, t *sql.Tree, salts []Salt) (*table.Table, error)
	// Altered runs a query on changed data: each table after its steps. A nil table is a query that does not run there; nil where there is
	// none. Its error is as that of Run.
	Altered func(ctx context.Context, t *sql.Tree, steps map[string][]twin.Step) (*table.Table, error)
	// LeftOut tells which rows of a table some steps leave out; nil where that cannot be told. Nil where there is none. Its error is as
	// that
	// of Run.
	LeftOut func(ctx context.Context, table string, steps []twin.Step) (*fault.Rows, error)
	// Changed counts the rows of a table that some steps leave out, add or change; below 0 where that cannot be told. Nil where there is
	// none. Its error is as that of Run.
	Changed func(ctx context.Context, table string, steps []twin.Step) (int64, error)
	// Now tells the time, for the net.
	Now func() time.Time
	Budget
}

// Budget bounds a search.
type Budget struct {
	// Runs is how many queries a search may run. What it finds within them does not depend on the load of the machine.
	Runs int
	// Net ends a search that takes many times as long as is expected; the diagnosis says so.
	Net time.Duration
}

// DefaultRuns is how many queries a search may run where nothing else is said.
const DefaultRuns = 400

// ErrSlow is a query that was stopped before it was done: whether it gives the answer is not known.
var ErrSlow = errors.New("the query was stopped before it was done")

// Diagnosis is what was found.
type Diagnosis struct {
	Faults  []fault.Fault // the main one first
	Trees   []*sql.Tree   // by fault, the edited query that shows it; nil for none
	Tried   []Try         // every edit that was run
	Altered []Alteration  // every change of the data that was tried
	Shown   bool          // the main fault rests on queries that were run, not on the tables alone
	Ended   string        // what kept the search from running all edits to their end; "" where nothing did
}

// Alteration is a change of the data under which queries were run.
type Alteration struct {
	Words string
	Shows fault.Code // "" where it showed nothing
}

// Try is an edit that was run.
type Try struct {
	Edit     string // in words
	Code     fault.Code
	Repair   bool // of the wrong query, rather than of the reference
	Distance int  // that it leaves
	Query    *sql.Tree
	Hit      bool // it gives the answer, or repairs it
}

const (
	// most bounds the edits that are run in each direction.
	most = 160
	// fewIdle and mostIdle bound those of them that bring the queries no nearer: they hardly ever are the cause.
	fewIdle, mostIdle = 5, 7
	// beyond is how much farther than a hit the search goes on, to see what else gives the same answer.
	beyond = 2
	// enough is how many hits are gathered.
	enough = 6
)

// Find searches for the cause. Without both queries it looks at the tables alone. The error is what Run or Salted gave, but for
// ErrSlow, which only ends that edit.
func Find(ctx context.Context, c Case, w World) (Diagnosis, error) {
	s := &search{c: c, w: w, start: w.Now(), seen: map[string]bool{}, ranked: map[bool][]ranked{}, hinted: map[fault.Code]bool{},
		altered: map[string]*table.Table{}, counted: map[string]int64{}, keys: map[*sql.Tree]string{}}
	for _, f := range patterns(c) {
		s.hinted[f.Code] = true
	}
	if err := s.look(ctx); err != nil {
		return s.d, err
	}
	if s.slow > 0 && s.d.Ended == "" {
		s.d.Ended = stoppedWords(s.slow)
	}
	s.conclude()
	err := errors.Join(s.addRows(ctx), s.addShares(ctx))
	// Two edits of one query, of which one is about groups: the other says more, as groups are often held to what is measured.
	if t := s.d.Trees; len(t) == pair && t[0] != nil && t[0] == t[1] && s.d.Faults[0].Code == fault.Having {
		slices.Reverse(s.d.Faults)
	}
	return s.d, err
}

// look runs what fits what is known: both queries, the reference alone with a table, or the answer's query alone.
func (s *search) look(ctx context.Context) error {
	switch {
	case s.c.Reference != nil && s.c.Answer != nil:
		return s.both(ctx)
	case s.c.Reference != nil && s.c.Got != nil:
		return s.alone(ctx)
	case s.c.Answer != nil:
		return s.edits(ctx, true, mostIdle)
	}
	return nil
}

// both searches with both queries known: by edits of each, by pairs of edits, and on changed data.
func (s *search) both(ctx context.Context) error {
	reference, repair := func() error { return s.edits(ctx, false, fewIdle) }, func() error { return s.edits(ctx, true, 0) }
	if s.thin() { // many edits of the reference give nothing: what mends the answer says more
		reference, repair = repair, reference
	}
	for _, stage := range []func() error{
		reference,
		repair,
		func() error { return s.tieBreak(ctx) },
		func() error { return s.pairs(ctx) },
		func() error { return s.edits(ctx, false, mostIdle) },
		func() error { return s.edits(ctx, true, mostIdle) },
		func() error { return s.tieBreak(ctx) },
	} {
		if s.proved() || s.salted || s.d.Ended != "" {
			break
		}
		if err := stage(); err != nil {
			return err
		}
	}
	if best, _ := s.best(); s.w.Altered != nil && s.c.Expected != nil && s.c.Got != nil && (best == nil || best.left > 0) {
		return s.alter(ctx)
	}
	return nil
}

type search struct {
	c      Case
	w      World
	start  time.Time
	seen   map[string]bool // keys of the queries that were run
	hits   []hit
	ranked map[bool][]ranked   // the edits of the reference, and those that repair
	hinted map[fault.Code]bool // what the tables alone hint at: of edits that leave the same distance, these are run first
	runs   int                 // queries that were run
	slow   int                 // those of them that were stopped
	salted bool                // the hits are those that a salted twin left
	// Findings are the interventions that showed a cause, and altered what queries gave on changed data.
	findings []finding
	removals []removal // by fault
	altered  map[string]*table.Table
	counted  map[string]int64         // rows that steps change
	copies   []map[string][]twin.Step // the smaller ones of the data; nil before the first use
	keys     map[*sql.Tree]string     // of the queries that ran on changed data
	d        Diagnosis
}

// hit is an edit that gives the answer, or repairs it.
type hit struct {
	ranked
	repair bool
}

// ranked is a change with the distance that it leaves, and by how much it lowers the distance.
type ranked struct {
	edit.Change
	left, lowers int
	extra        *edit.Change // the other one of a pair
}

// edits runs the edits of the reference (or, to repair, of the answer's query) in the order of the distance that they leave; so many
// at most of those that bring the queries no nearer.
func (s *search) edits(ctx context.Context, repair bool, idleMost int) error {
	from, to := s.c.Reference, s.c.Answer
	if repair {
		from, to = to, from
	}
	all := s.ranked[repair]
	if all == nil {
		all = s.rank(from, to, repair)
		s.ranked[repair] = all
	}
	first, idle := -1, 0
	for i, r := range all {
		if r.lowers <= 0 {
			idle++
		}
		if i >= most || idle > idleMost && to != nil || first >= 0 && (r.left > first+beyond || to != nil && s.count(repair) >= enough) {
			return nil
		}
		isHit, err := s.try(ctx, r, repair)
		if err != nil || s.d.Ended != "" {
			return err
		}
		if isHit && first < 0 {
			first = r.left
		}
	}
	return nil
}

func (s *search) count(repair bool) int {
	n := 0
	for _, h := range s.hits {
		if h.repair == repair {
			n++
		}
	}
	return n
}

// featuresOf are a query's features; false for none (nil), or where they cannot be told.
func featuresOf(t *sql.Tree) (sql.Features, bool) {
	if t == nil {
		return nil, false
	}
	features, err := t.Features()
	return features, err == nil
}

// distance is how far a query is from one of such features; false where that cannot be told.
func distance(t *sql.Tree, target sql.Features) (int, bool) {
	features, ok := featuresOf(t)
	if !ok {
		return 0, false
	}
	return features.Distance(target), true
}

// rank lists the changes of a query, those first that leave the least distance to another (nil, or one whose features cannot be told:
// in the catalogue's order).
func (s *search) rank(from, to *sql.Tree, repair bool) []ranked {
	changes := edit.Changes(edit.Subject{Tree: from, Other: to, Columns: s.c.Columns, Values: s.c.Values, Unseen: to == nil})
	target, comparable := featuresOf(to)
	before, known := distance(from, target)
	guided := comparable && known
	var all []ranked
	for _, c := range changes {
		if c.Mends && !repair {
			continue
		}
		r := ranked{Change: c}
		switch {
		case guided && c.Mends:
			r.left, r.lowers = before-1, 1 // tried after those that bring the queries nearer
		case guided:
			left, known := distance(c.Tree, target)
			if !known {
				continue
			}
			r.left, r.lowers = left, before-left
		}
		all = append(all, r)
	}
	slices.SortStableFunc(all, func(a, b ranked) int {
		hinted := func(r ranked) bool { return s.hinted[codeOf(r.Change, repair)] }
		return cmp.Or(cmp.Compare(a.left, b.left), yesFirst(hinted(a), hinted(b)))
	})
	return all
}

// try runs one edited query and holds its result against the answer, or against what was expected.
func (s *search) try(ctx context.Context, r ranked, repair bool) (bool, error) {
	k := r.Tree.Key()
	if s.seen[k] {
		return false, nil
	}
	s.seen[k] = true
	if !s.mayRun() {
		return false, nil
	}
	got, err := s.w.Run(ctx, r.Tree)
	if errors.Is(err, ErrSlow) {
		s.slow++
		return false, nil
	}
	if err != nil {
		return false, err
	}
	isHit := got != nil && s.agrees(got, repair)
	s.d.Tried = append(s.d.Tried, Try{Edit: words(r, repair), Code: codeOf(r.Change, repair), Repair: repair, Distance: r.left,
		Query: r.Tree, Hit: isHit})
	if isHit {
		if r.Code == fault.JoinFanOut && !repair && smaller(s.c.Got, s.c.Expected) {
			r.Code = fault.JoinRowsLost // the further table has no counterpart for some rows
		}
		r.Code = s.placedCode(r, repair)
		if r.Key {
			r.Code = s.keyCode(r.Code, repair)
		}
		s.hits = append(s.hits, hit{r, repair})
	}
	return isHit, nil
}

// keyCode is the fault of another group key, or of another text in its place: finer where the answer has more rows, coarser where it has
// fewer.
func (s *search) keyCode(code fault.Code, repair bool) fault.Code {
	rows, expected := s.c.Got.Rows(), s.c.Expected.Rows()
	switch {
	case code != fault.GroupKeyMissing && code != fault.Label, code == fault.Label && rows == expected:
		return code
	case (rows > expected) != repair:
		return fault.GroupKeyExtra
	}
	return fault.GroupKeyMissing
}

// mayRun counts a query against the budget; where that is spent, it ends the search.
func (s *search) mayRun() bool {
	switch {
	case s.d.Ended != "":
	case s.runs >= s.w.Runs:
		s.d.Ended = fmt.Sprintf("the limit of %d queries", s.w.Runs)
	case s.w.Now().Sub(s.start) > s.w.Net:
		s.d.Ended = fmt.Sprintf("the time limit of %s", s.w.Net)
	}
	if s.d.Ended != "" {
		return false
	}
	s.runs++
	return true
}

// agrees tells whether an edited reference gives the very answer, or an edited answer what was expected.
func (s *search) agrees(got *table.Table, repair bool) bool {
	if repair {
		return match.Match(s.c.Expected, got, s.c.Rules, s.c.Known).Matched
	}
	if got.Rows() != s.c.Got.Rows() {
		return false
	}
	return match.Match(got, s.c.Got, exactly, s.presented()).Matched
}

// presented is what is known of how the answer may show what the reference shows: labels for codes.
func (s *search) presented() match.Known {
	return match.Known{Labels: s.c.Known.Labels, Units: s.c.Known.Units}
}

// exactly compares an edited query's result with the answer: to float noise, never under the question's own tolerance.
var exactly = func() match.Rules {
	var r match.Rules
	for key, value := range map[string]string{"order": "any", "extra-columns": "note"} {
		_ = r.Set(key, match.Choice{Value: value}) // known rules
	}
	return r
}()

// smaller tells whether a table's numbers add up to less than another's.
func smaller(t, other *table.Table) bool {
	sum, otherSum := 0.0, 0.0
	for _, c := range t.Columns {
		if c.Type.Kind.Number() {
			sum += sumOf(c, -1)
		}
	}
	for _, c := range other.Columns {
		if c.Type.Kind.Number() {
			otherSum += sumOf(c, -1)
		}
	}
	return sum < otherSum
}

// pairs tries the nearest pairs of edits: two mistakes in one query.
func (s *search) pairs(ctx context.Context) error {
	const nearest, tries = 8, 12
	if len(s.hits) > 0 {
		return nil
	}
	var all []ranked
	target, comparable := featuresOf(s.c.Answer)
	if !comparable {
		return nil
	}
	for i, a := range s.ranked[false][:min(nearest, len(s.ranked[false]))] {
		if a.lowers <= 0 {
			break
		}
		subject := edit.Subject{Tree: a.Tree, Other: s.c.Answer, Columns: s.c.Columns, Values: s.c.Values}
		for _, b := range edit.Changes(subject) {
			left, known := distance(b.Tree, target)
			r := ranked{Change: b, left: left, lowers: a.left - left, extra: &s.ranked[false][i].Change}
			if known && r.left < a.left {
				all = append(all, r)
			}
		}
	}
	slices.SortStableFunc(all, func(a, b ranked) int { return cmp.Compare(a.left, b.left) })
	for _, r := range all[:min(tries, len(all))] {
		isHit, err := s.try(ctx, r, false)
		if err != nil || isHit || s.d.Ended != "" {
			return err
		}
	}
	return nil
}
