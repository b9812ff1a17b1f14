package expect

import (
	"context"

	"tovrel/core/table"
	"tovrel/engine"
	"tovrel/engine/sqltext"
)

// Domain lists, by column, the texts that could have been the answer: what the reference gives without its cut, else all values
// of the column that it shows. The error is of a worker or the context.
func (e Expectation) Domain(ctx context.Context, q Queries) ([][]string, error) {
	if e.Known.Cut != nil {
		return domainOf(e.Known.Cut.Full, len(e.Table.Columns)), nil
	}
	out := make([][]string, len(e.Table.Columns))
	for i, item := range e.items {
		if i >= len(out) || !item.Values || item.Table == "" || !e.Table.Columns[i].Type.Kind.Textual() {
			continue
		}
		result, err := q.Query(ctx, engine.Request{SQL: sqltext.Distinct(item.Table, item.Name, maxDomain)})
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

// maxDomain bounds the texts that could have been an answer.
const maxDomain = 1000

// domainOf lists the distinct texts of a table's first columns.
func domainOf(t *table.Table, columns int) [][]string {
	var out [][]string
	for _, c := range t.Columns[:min(columns, len(t.Columns))] {
		seen := map[string]bool{}
		var texts []string
		for row := range min(c.Len(), maxDomain) {
			if text := c.Value(row).String(); !seen[text] && !c.IsNull(row) {
				seen[text] = true
				texts = append(texts, text)
			}
		}
		out = append(out, texts)
	}
	return out
}
