// Package apart finds the rows that tell two queries apart: the smallest part of a dataset on which they still differ, and what these rows
// do in another dataset. It stores nothing: queries see tables changed.
package apart

import (
	"context"
	"strings"
	"sync"

	"tovrel/core/sql"
	"tovrel/core/twin"
	"tovrel/engine"
	"tovrel/engine/sqltext"
	"tovrel/expect"
)

// Base is a dataset on which queries see tables changed.
type Base struct {
	on      expect.Queries
	dialect sqltext.Dialect
	tables  map[string]engine.Table // by name in lower case

	mu    sync.Mutex
	texts map[string]string // of queries as syntax trees
	trees map[string][]byte // of queries as texts
}

// NewBase is a dataset in an engine's dialect.
func NewBase(on expect.Queries, tables []engine.Table, dialect string) *Base {
	b := &Base{on: on, dialect: sqltext.In(dialect), tables: map[string]engine.Table{}, texts: map[string]string{},
		trees: map[string][]byte{}}
	for _, t := range tables {
		b.tables[strings.ToLower(t.Name)] = t
	}
	return b
}

// Read are the tables of the dataset that queries read, each once.
func (b *Base) Read(trees ...*sql.Tree) []engine.Table {
	var out []engine.Table
	seen := map[string]bool{}
	for _, t := range trees {
		if t == nil {
			continue
		}
		for _, name := range t.TablesRead() {
			name = strings.ToLower(name)
			if source, known := b.tables[name]; known && !seen[name] {
				seen[name] = true
				out = append(out, source)
			}
		}
	}
	return out
}

// Changes are the steps by which tables are changed, by the tables' names.
type Changes map[string][]twin.Step

// With are queries that see tables changed.
func (b *Base) With(c Changes) expect.Queries { return changed{b, b.shadows(c)} }

func (b *Base) shadows(c Changes) []sqltext.Shadow {
	var out []sqltext.Shadow
	for name, steps := range c {
		s := sqltext.Shadow{Table: name, Steps: steps}
		for _, column := range b.tables[strings.ToLower(name)].Columns {
			s.Columns = append(s.Columns, column.Name)
		}
		out = append(out, s)
	}
	return out
}

// changed are queries that see some tables changed.
type changed struct {
	*Base
	by []sqltext.Shadow
}

// Query runs a query over the changed tables; its syntax tree is the query's own. The errors are those of the queries beneath.
func (c changed) Query(ctx context.Context, r engine.Request) (engine.Result, error) {
	text, err := c.textOf(ctx, r)
	if err != nil {
		return engine.Result{}, err
	}
	shadowed, err := sqltext.Shadowed(text, c.by, c.dialect)
	if err != nil {
		return engine.Result{}, err
	}
	result, err := c.on.Query(ctx, engine.Request{SQL: shadowed})
	if err == nil && r.Tree {
		result.Tree, err = c.treeOf(ctx, r.SQL)
	}
	return result, err
}

// textOf is a request's query as text: one that is a syntax tree is written by the engine, once.
func (b *Base) textOf(ctx context.Context, r engine.Request) (string, error) {
	if r.Serialised == "" {
		return r.SQL, nil
	}
	b.mu.Lock()
	text, known := b.texts[r.Serialised]
	b.mu.Unlock()
	if known {
		return text, nil
	}
	result, err := b.on.Query(ctx, engine.Request{Serialised: r.Serialised, ParseOnly: true})
	if err != nil {
		return "", err
	}
	b.mu.Lock()
	defer b.mu.Unlock()
	b.texts[r.Serialised] = result.Instead
	return result.Instead, nil
}

// treeOf is a query's syntax tree, asked for once.
func (b *Base) treeOf(ctx context.Context, query string) ([]byte, error) {
	b.mu.Lock()
	tree, known := b.trees[query]
	b.mu.Unlock()
	if known {
		return tree, nil
	}
	result, err := b.on.Query(ctx, engine.Request{SQL: query, Tree: true, ParseOnly: true})
	if err != nil {
		return nil, err
	}
	b.mu.Lock()
	defer b.mu.Unlock()
	b.trees[query] = result.Tree
	return result.Tree, nil
}
