package dataset

import (
	"context"
	"crypto/sha256"
	"encoding/hex"
	"fmt"

	"tovrel/engine"
	"tovrel/engine/clickhouse"
	"tovrel/engine/duckdb"
	"tovrel/engine/mysql"
	"tovrel/engine/postgres"
	"tovrel/engine/server"
	"tovrel/engine/trino"
	"tovrel/trouble"
	"tovrel/workspace"
)

// serverKind is what is done on a server beside running queries.
type serverKind struct {
	describe func(ctx context.Context, at engine.Server, picked func(string) bool) ([]engine.Table, error)
	load     func(ctx context.Context, at engine.Server, tables []engine.Table, rows server.RowsOf) error
	drop     func(ctx context.Context, at engine.Server) error
	version  func(ctx context.Context, at engine.Server) (string, error)
}

var serverKinds = map[string]serverKind{
	clickhouse.Name: {clickhouse.Describe, clickhouse.Load, clickhouse.Drop, clickhouse.Version},
	postgres.Name:   {postgres.Describe, postgres.Load, postgres.Drop, postgres.Version},
	mysql.Name:      {mysql.Describe, mysql.Load, mysql.Drop, mysql.Version},
	trino.Name:      {trino.Describe, nil, nil, trino.Version}, // its systems may be such as hold no sample
}

// live describes a dataset that is a server's database as it is, once for a process. Its fingerprint is of its tables and columns: rows
// come and go. It errs where the server cannot be used.
func (s *Store) live(ctx context.Context, d *workspace.Dataset) (*Frozen, error) {
	if known := s.lives[d.Name]; known != nil {
		return known, nil
	}
	at, err := d.Server.At(d.Name)
	if err != nil {
		return nil, err
	}
	f := &Frozen{Dataset: d.Name, Engine: d.Server.Kind, AsOf: d.AsOf, Sources: []FrozenSource{}}
	if f.Tables, err = serverKinds[d.Server.Kind].describe(ctx, at, d.Server.Picks); err != nil {
		return nil, unusable(d, err)
	}
	if len(f.Tables) == 0 {
		return nil, trouble.New(trouble.Unreachable,
			"dataset %s has no tables: the server shows none to this user that tables: or schema: "+
				"would pick", d.Name)
	}
	h := sha256.New()
	fmt.Fprintf(h, "tovrel-live/1\nas-of %s\n%s %s\n", d.AsOf, d.Server.Kind, d.Server.Schema)
	for _, t := range f.Tables {
		fmt.Fprintf(h, "table %q\n", t.Name)
		for _, c := range t.Columns {
			fmt.Fprintf(h, "column %q %s\n", c.Name, c.Type)
		}
	}
	f.Fingerprint = hex.EncodeToString(h.Sum(nil))
	s.lives[d.Name] = f
	return f, nil
}

func unusable(d *workspace.Dataset, err error) error {
	return trouble.New(trouble.Unreachable, "dataset %s: the %s server cannot be used: %w", d.Name, d.Server.Kind, err)
}

// SchemaOf is the schema of Tovrel's own into which a frozen copy is loaded.
func SchemaOf(f *Frozen) string { return server.OwnPrefix + f.Fingerprint[:fingerprintLength] }

// Loaded gives where a dataset's queries run on its server, loading its frozen sample first where it is not there. It errs where the server
// cannot be used.
func (s *Store) Loaded(ctx context.Context, d *workspace.Dataset, f *Frozen) (engine.Server, error) {
	at, err := d.Server.At(d.Name)
	if err != nil || d.Live() {
		return at, err
	}
	at.Schema = SchemaOf(f)
	err = serverKinds[d.Server.Kind].load(ctx, at, f.Tables, func(ctx context.Context, t engine.Table, each func([]*string) error) error {
		return duckdb.EachRow(ctx, f.Path, t, each)
	})
	if err != nil {
		return at, unusable(d, err)
	}
	return at, nil
}

// ServerVersion is the version of a dataset's server, such as "15.20". It errs where the server cannot be used.
func (s *Store) ServerVersion(ctx context.Context, d *workspace.Dataset) (string, error) {
	at, err := d.Server.At(d.Name)
	if err != nil {
		return "", err
	}
	version, err := serverKinds[d.Server.Kind].version(ctx, at)
	if err != nil {
		return "", unusable(d, err)
	}
	return version, nil
}

// Unload removes the schema of a frozen copy from its dataset's server, where it has one. It errs where the server cannot be used.
func (s *Store) Unload(ctx context.Context, f *Frozen) error {
	d, err := s.Dataset(f.Dataset)
	if err != nil || d.Server == nil || !d.Server.Sample {
		return nil // it is no dataset of a server any more
	}
	at, err := d.Server.At(d.Name)
	if err != nil {
		return err
	}
	at.Schema = SchemaOf(f)
	if err := serverKinds[d.Server.Kind].drop(ctx, at); err != nil {
		return unusable(d, err)
	}
	return nil
}
