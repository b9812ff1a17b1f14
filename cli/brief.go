package cli

import (
	"context"
	"fmt"
	"maps"
	"slices"
	"strings"

	"tovrel/attempt"
	"tovrel/core/briefing"
	"tovrel/core/profile"
	"tovrel/dataset"
	"tovrel/engine"
	"tovrel/engine/sqltext"
	"tovrel/workspace"
)

// levelFlag is the --brief flag: it checks itself.
type levelFlag briefing.Level

func (f *levelFlag) String() string { return string(*f) }
func (f *levelFlag) Type() string   { return "LEVEL" }
func (f *levelFlag) Set(s string) error {
	if slices.Contains(briefing.Levels(), s) {
		*f = levelFlag(s)
		return nil
	}
	return fmt.Errorf("the levels are %s", strings.Join(briefing.Levels(), ", "))
}

// ground is what attempts on a dataset rest on: what translators are told at a level, and what matching knows.
func (a *app) ground(ctx context.Context, w *workspace.Workspace, on *opened, level briefing.Level) (attempt.Ground, error) {
	frozen := on.frozen
	said, err := w.ReadBriefing(on.dataset)
	if err != nil {
		return attempt.Ground{}, err
	}
	shared := sharing{ctx: ctx, pool: on.Pool}
	g := attempt.Ground{Tables: frozen.Tables, Dialect: on.dataset.Dialect(), Live: on.dataset.Live(),
		Hides:  slices.Sorted(maps.Keys(frozen.Hidden())),
		Beside: on.dataset.Server != nil && on.dataset.Server.Sample, AsOf: frozen.AsOf, Fingerprint: frozen.Fingerprint,
		OfTables: dataset.TableFingerprints(on.dataset, frozen), Briefing: said}
	if s := on.dataset.Server; s != nil {
		g.Edits = s.Edits
	}
	if g.Engine, err = a.engineVersion(ctx, w, on); err != nil {
		return g, err
	}
	g.Told, g.Beyond = briefing.Tell(schemaOf(frozen), said, level, on.dataset.ShareValues, shared.values)
	return g, shared.err
}

// engineVersion is the engine that a dataset lives on, with its version.
func (a *app) engineVersion(ctx context.Context, w *workspace.Workspace, on *opened) (string, error) {
	frozen := on.frozen
	if s := on.dataset.Server; s != nil {
		version, err := a.data(w).ServerVersion(ctx, on.dataset)
		return s.Kind + " " + version, err
	}
	function := map[string]string{"sqlite": "sqlite_version"}[frozen.Dialect()]
	if function == "" {
		function = "version"
	}
	result, err := on.Query(ctx, engine.Request{SQL: sqltext.Call(function)})
	if err != nil {
		return "", fmt.Errorf("the engine's version cannot be read: %w", err)
	}
	return frozen.Dialect() + " " + result.Table.Columns[0].Value(0).String(), nil
}

// schemaOf is a frozen dataset's schema.
func schemaOf(f *dataset.Frozen) briefing.Dataset {
	d := briefing.Dataset{Name: f.Dataset}
	hidden := f.Hidden()
	for _, t := range f.Tables {
		if hidden[strings.ToLower(t.Name)] {
			continue
		}
		out := briefing.ToldTable{Name: t.Name, Rows: t.Rows}
		for _, c := range t.Columns {
			out.Columns = append(out.Columns, briefing.ToldColumn{Name: c.Name, Type: c.Type})
		}
		d.Tables = append(d.Tables, out)
	}
	return d
}

// mostShared is up to how many distinct values of a column are told.
const mostShared = 50

// sharing reads the values of columns that a briefing allows to be told.
type sharing struct {
	ctx  context.Context
	pool *engine.Pool
	err  error
}

func (s *sharing) values(p profile.Place) []string {
	if s.err != nil {
		return nil
	}
	result, err := s.pool.Query(s.ctx, engine.Request{SQL: sqltext.Distinct(p.Table, p.Column, mostShared+1)})
	if err != nil {
		s.err = fmt.Errorf("the values of %s cannot be read: %w", p, err)
		return nil
	}
	if result.Table.Rows() > mostShared || !result.Table.Columns[0].Type.Kind.Textual() {
		return nil
	}
	var values []string
	for row := range result.Table.Rows() {
		values = append(values, result.Table.Columns[0].Value(row).String())
	}
	return values
}
