package upkeep

import (
	"context"
	"maps"
	"slices"
	"strings"

	"golang.org/x/sync/errgroup"

	"tovrel/attempt"
	"tovrel/core/edit"
	"tovrel/core/sql"
	"tovrel/core/sql/ast"
	"tovrel/core/sql/ast/field"
	"tovrel/core/wording"
	"tovrel/engine"
	"tovrel/engine/sqltext"
	"tovrel/trouble"
	"tovrel/workspace"
)

// Covered says how many questions exercise something.
type Covered struct {
	Dataset   string
	Kind      string // table, column, join, code, term, feature, difficulty
	Name      string
	Questions int
	Role      string // of a column, where the briefing says it
}

// Coverage counts what of the data, the briefing's terms and codes and the query features the reference queries of a plan exercise. The
// error is of a worker or the context; a reference that does not run covers nothing.
func Coverage(ctx context.Context, p attempt.Plan) ([]Covered, error) {
	trees := make([]*sql.Tree, len(p.Questions))
	g, gctx := errgroup.WithContext(ctx)
	g.SetLimit(max(1, p.Judges))
	for i, c := range p.Questions {
		g.Go(trouble.Safe(func() error {
			expectations, err := p.Places[c.Set.Dataset].Expectations(gctx, c)
			if err == nil && len(expectations) > 0 {
				trees[i] = expectations[0].Tree
			}
			return gctx.Err() // a reference that does not run is a matter of set check
		}))
	}
	if err := g.Wait(); err != nil {
		return nil, err
	}
	names := slices.Sorted(maps.Keys(p.Places))
	var out []Covered
	for _, name := range names {
		out = append(out, coverage(p.Places[name], name, p.Questions, trees)...)
		nulls, err := nullCoverage(ctx, p.Places[name], name, p.Questions, trees)
		if err != nil {
			return nil, err
		}
		out = append(out, nulls...)
	}
	return append(out, featureCoverage(p.Questions, trees)...), nil
}

// coverage counts what of one dataset is exercised.
func coverage(p *attempt.Place, dataset string, questions []workspace.Chosen, trees []*sql.Tree) []Covered {
	count := func(has func(workspace.Chosen, *sql.Tree) bool) int {
		n := 0
		for i, c := range questions {
			if c.Set.Dataset == dataset && trees[i] != nil && has(c, trees[i]) {
				n++
			}
		}
		return n
	}
	var out []Covered
	for _, t := range p.Tables {
		out = append(out, Covered{Dataset: dataset, Kind: "table", Name: t.Name,
			Questions: count(func(_ workspace.Chosen, tree *sql.Tree) bool { return reads(tree, t.Name) })})
		for _, c := range t.Columns {
			role, hidden := roleOf(p, t.Name, c.Name)
			if !hidden {
				out = append(out, Covered{dataset, "column", t.Name + "." + c.Name,
					count(func(_ workspace.Chosen, tree *sql.Tree) bool { return tree.Reads(t.Name, c.Name) }), role})
			}
		}
	}
	if p.Briefing == nil {
		return out
	}
	for _, t := range p.Briefing.Tables {
		for _, c := range t.Columns {
			for _, code := range c.Codes {
				out = append(out, Covered{Dataset: dataset, Kind: "code", Name: t.Name + "." + c.Name + " = " + code.Value,
					Questions: count(func(_ workspace.Chosen, tree *sql.Tree) bool {
						return tree.Reads(t.Name, c.Name) && compares(tree, code.Value, code.Label)
					})})
			}
		}
	}
	for _, term := range p.Briefing.Terms {
		out = append(out, Covered{Dataset: dataset, Kind: "term", Name: term.Name,
			Questions: count(func(c workspace.Chosen, _ *sql.Tree) bool {
				return strings.Contains(" "+wording.Fold(strings.Join(c.Question.Wordings(), " "))+" ", " "+wording.Fold(term.Name)+" ")
			})})
	}
	for _, j := range p.Briefing.Joins {
		out = append(out, Covered{Dataset: dataset, Kind: "join", Name: j.From.String() + " = " + j.To.String(),
			Questions: count(func(_ workspace.Chosen, tree *sql.Tree) bool {
				return reads(tree, j.From.Table) && reads(tree, j.To.Table)
			})})
	}
	return out
}

// nullCoverage counts the questions that read each column in which there are nulls.
func nullCoverage(ctx context.Context, p *attempt.Place, dataset string, questions []workspace.Chosen,
	trees []*sql.Tree) ([]Covered, error) {
	var out []Covered
	for _, t := range p.Tables {
		if len(t.Columns) == 0 {
			continue
		}
		names := make([]string, len(t.Columns))
		for i, c := range t.Columns {
			names[i] = c.Name
		}
		result, err := p.Pool.Query(ctx, engine.Request{SQL: sqltext.Nulls(t.Name, names)})
		if err != nil {
			return nil, err
		}
		for i, c := range t.Columns {
			if nulls, _ := result.Table.Columns[i].Value(0).Small(); nulls == 0 {
				continue
			}
			if _, hidden := roleOf(p, t.Name, c.Name); hidden {
				continue
			}
			one := Covered{Dataset: dataset, Kind: "null", Name: t.Name + "." + c.Name}
			for j, q := range questions {
				if q.Set.Dataset == dataset && trees[j] != nil && trees[j].Reads(t.Name, c.Name) {
					one.Questions++
				}
			}
			out = append(out, one)
		}
	}
	return out, nil
}

// FaultCoverage counts the questions whose answers tell an edit of each fault from the right query; faults that no edit makes are left out.
func FaultCoverage(measured []Strength) []Covered {
	var out []Covered
	for _, code := range edit.Codes() {
		one := Covered{Kind: "fault", Name: string(code)}
		for _, s := range measured {
			if s.Codes[code].Apart > 0 {
				one.Questions++
			}
		}
		out = append(out, one)
	}
	return out
}

func roleOf(p *attempt.Place, table, column string) (role string, hidden bool) {
	if p.Briefing == nil {
		return "", false
	}
	for _, t := range p.Briefing.Tables {
		for _, c := range t.Columns {
			if strings.EqualFold(t.Name, table) && strings.EqualFold(c.Name, column) {
				return string(c.Role), c.Hide
			}
		}
	}
	return "", false
}

func reads(tree *sql.Tree, table string) bool {
	for _, name := range tree.TablesRead() {
		if strings.EqualFold(name, table) {
			return true
		}
	}
	return false
}

// compares tells whether a query has one of some texts as a literal.
func compares(tree *sql.Tree, texts ...string) bool {
	for _, site := range tree.Sites() {
		if site.Node.Class() != ast.Constant {
			continue
		}
		for _, t := range texts {
			if t != "" && site.Node.Node(field.Literal).Text(field.Text) == t {
				return true
			}
		}
	}
	return false
}

// features are what reference queries may be made of.
var features = []string{"aggregate", "date arithmetic", "grouping", "having", "join", "nesting", "outer join", "set operation",
	"top n", "window"}

func featureCoverage(questions []workspace.Chosen, trees []*sql.Tree) []Covered {
	counts := map[string]int{}
	difficulties := map[string]int{"easy": 0, "medium": 0, "hard": 0}
	for i, c := range questions {
		if d := c.Question.Difficulty; d != "" {
			difficulties[d]++
		}
		if trees[i] != nil {
			for _, kind := range trees[i].Kinds() {
				counts[kind]++
			}
		}
	}
	var out []Covered
	for _, f := range features {
		out = append(out, Covered{Kind: "feature", Name: f, Questions: counts[f]})
	}
	levels := slices.Sorted(maps.Keys(difficulties))
	for _, d := range levels {
		out = append(out, Covered{Kind: "difficulty", Name: d, Questions: difficulties[d]})
	}
	return out
}
