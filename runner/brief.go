package runner

import (
	"context"
	"fmt"
	"strings"

	"tovrel/core/briefing"
	"tovrel/core/match"
	"tovrel/core/query"
	"tovrel/engine"
)

// brief adds what a briefing (nil for none) says of the expected columns: units, the labels of codes, synonyms. A column is the
// one that the reference's select item shows, else the only one of the header's name.
func (e *Expectation) brief(b *briefing.Briefing) {
	if b == nil {
		return
	}
	e.Known.Units = make([]string, len(e.Table.Columns))
	e.Known.Labels = make([]map[string]string, len(e.Table.Columns))
	e.Known.Synonyms = map[string][]string{}
	for i, c := range e.Table.Columns {
		item := query.Item{}
		if i < len(e.items) {
			item = e.items[i]
		}
		if item.Name == "" {
			item = query.Item{Column: query.Column{Name: c.Name}, Values: true, Unit: item == query.Item{} && len(e.items) == 0}
		}
		said := find(b, item.Column, anyColumn)
		if said != nil && item.Unit {
			e.Known.Units[i] = said.Unit
		}
		if said != nil {
			e.Known.Synonyms[c.Name] = append(append([]string(nil), said.Synonyms...), said.Name)
		}
		if said == nil || !coded(said) {
			said = find(b, query.Column{Name: c.Name}, coded)
		}
		if said != nil && item.Values && coded(said) {
			e.Known.Labels[i] = labelsOf(said)
		}
	}
}

func anyColumn(*briefing.Column) bool { return true }

func coded(c *briefing.Column) bool { return len(c.Codes) > 0 }

func labelsOf(c *briefing.Column) map[string]string {
	labels := map[string]string{}
	for _, code := range c.Codes {
		labels[code.Value] = code.Label
	}
	return labels
}

// find is what a briefing says of a column; without its table, of the only fitting column of that name.
func find(b *briefing.Briefing, c query.Column, fits func(*briefing.Column) bool) *briefing.Column {
	var found *briefing.Column
	for ti, t := range b.Tables {
		if c.Table != "" && !strings.EqualFold(t.Name, c.Table) {
			continue
		}
		for ci, said := range t.Columns {
			if !strings.EqualFold(said.Name, c.Name) || !fits(&t.Columns[ci]) {
				continue
			}
			if found != nil {
				return nil
			}
			found = &b.Tables[ti].Columns[ci]
		}
	}
	return found
}

// hidden lists the hidden columns that a query reads.
func hidden(b *briefing.Briefing, tree []byte) []string {
	places := b.Hidden()
	if len(places) == 0 || len(tree) == 0 {
		return nil
	}
	t, err := query.Read(tree)
	if err != nil {
		return nil
	}
	var names []string
	for _, p := range places {
		if t.Reads(p.Table, p.Column) {
			names = append(names, p.String())
		}
	}
	return names
}

// domain lists, by column, the texts that could have been the answer: what the reference gives without its cut, else all values
// of the column that it shows.
func (e Expectation) domain(ctx context.Context, q Queries) ([][]string, error) {
	if e.Known.Cut != nil {
		return domainOf(e.Known.Cut.Full, len(e.Table.Columns)), nil
	}
	out := make([][]string, len(e.Table.Columns))
	for i, item := range e.items {
		if i >= len(out) || !item.Values || item.Table == "" || !e.Table.Columns[i].Type.Kind.Textual() {
			continue
		}
		name, table := quoted(item.Name), quoted(item.Table)
		result, err := q.Query(ctx, engine.Request{SQL: fmt.Sprintf("SELECT DISTINCT %s FROM %s WHERE %s IS NOT NULL ORDER BY 1 LIMIT %d", name, table, name, maxDomain)})
		if _, failed := Failure(err); failed {
			continue // the item is no column of that table after all
		}
		if err != nil {
			return nil, err
		}
		out[i] = domainOf(result.Table, 1)[0]
	}
	return out, nil
}

func quoted(name string) string { return `"` + strings.ReplaceAll(name, `"`, `""`) + `"` }

// hiddenRemark tells a right answer that reads hidden columns.
const hiddenRemark = match.Remark("hidden-column")
