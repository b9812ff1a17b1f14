package expect

import (
	"context"

	"tovrel/core/briefing"
	"tovrel/core/golden"
	"tovrel/engine"
	"tovrel/engine/sqltext"
)

// catalogue answers queries about the tables themselves from what translators are told of them, never from the engine's own catalogue.
type catalogue struct {
	Queries
	tables []sqltext.Described
}

func (c catalogue) Query(ctx context.Context, r engine.Request) (engine.Result, error) {
	if r.SQL != "" {
		r.SQL = sqltext.Catalogue(r.SQL, c.tables)
	}
	return c.Queries.Query(ctx, r)
}

// On is what the queries of a question run on: its dataset, and where the question is about the catalogue the dataset's description too.
func On(q Queries, question *golden.Question, told briefing.Dataset) Queries {
	if question.About != golden.AboutCatalogue {
		return q
	}
	c := catalogue{Queries: q}
	for _, t := range told.Tables {
		d := sqltext.Described{Name: t.Name}
		for _, column := range t.Columns {
			d.Columns = append(d.Columns, sqltext.DescribedColumn{Name: column.Name, Type: column.Type})
		}
		c.tables = append(c.tables, d)
	}
	return c
}
