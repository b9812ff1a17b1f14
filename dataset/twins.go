package dataset

import (
	"cmp"
	"context"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"errors"
	"os"
	"path/filepath"
	"slices"
	"strings"

	"tovrel/core/briefing"
	"tovrel/core/twin"
	"tovrel/engine"
	"tovrel/engine/duckdb"
	"tovrel/engine/sqlite"
	"tovrel/files"
	"tovrel/trouble"
)

// Twin describes a perturbed copy of a frozen dataset. It is kept as JSON beside the database file.
type Twin struct {
	Dataset     string         `json:"dataset"`
	Engine      string         `json:"engine,omitempty"` // "" for DuckDB
	Of          string         `json:"of"`               // fingerprint of the original
	Number      int            `json:"number"`
	AsOf        string         `json:"as_of"`
	Fingerprint string         `json:"fingerprint"` // of what it was made from: the original, the number, the boundaries, the briefing
	Tables      []engine.Table `json:"tables"`
	Kept        TwinFacts      `json:"kept"`
	Plan        twin.Plan      `json:"plan"`
	Path        string         `json:"-"`
	File        Seal           `json:"file"`
}

// Dialect is the engine that the twin's queries run on.
func (t *Twin) Dialect() string {
	if t.Engine == "" {
		return duckdb.Name
	}
	return t.Engine
}

// TwinFacts counts what a twin has in common with its original.
type TwinFacts struct {
	Unique       int `json:"unique"`
	NotNull      int `json:"not_null"`
	Dependencies int `json:"dependencies"`
	References   int `json:"references"`
	Laws         int `json:"laws"`
}

// twinForm goes into the fingerprints: twins that an earlier form made are made anew.
const twinForm = 3

// TwinFingerprint names a twin by what it is made from.
func TwinFingerprint(f *Frozen, number int, bounds []twin.Boundary, b *briefing.Briefing) string {
	said := []any{twinForm, f.Fingerprint, number, bounds}
	if b != nil {
		for _, t := range b.Tables {
			for _, c := range t.Columns {
				said = append(said, t.Name, c.Name, c.Role, len(c.Codes))
				for _, code := range c.Codes {
					said = append(said, code.Value)
				}
			}
		}
		for _, j := range b.Joins {
			said = append(said, j.Text)
		}
		for _, f := range b.Facts {
			said = append(said, "kept", f.Text)
		}
		for _, f := range b.NotFacts {
			said = append(said, "not kept", f.Text)
		}
	}
	body, _ := json.Marshal(said) // plain fields always encode
	sum := sha256.Sum256(body)
	return hex.EncodeToString(sum[:])
}

func (s *Store) twinPath(dataset, fingerprint string) string {
	return filepath.Join(s.Root, ".tovrel", "twins", dataset+"-"+fingerprint[:fingerprintLength])
}

// endings are those of twins' files, by engine.
var endings = map[string]string{"": ".duckdb", sqlite.Name: ".sqlite"}

// Twin finds a twin that is kept; nil where it has to be made.
func (s *Store) Twin(dataset, fingerprint string) *Twin {
	return readTwin(s.twinPath(dataset, fingerprint) + ".json")
}

func readTwin(path string) *Twin {
	body, err := os.ReadFile(path)
	if err != nil {
		return nil
	}
	var t Twin
	if json.Unmarshal(body, &t) != nil {
		return nil
	}
	t.Path = strings.TrimSuffix(path, ".json") + endings[t.Engine]
	if _, err := os.Stat(t.Path); err != nil || t.File.broken(t.Path) {
		return nil
	}
	return &t
}

// Twins lists the twins that are kept, by dataset, original and number; "" lists those of all datasets. The error is of the folder; a
// description that cannot be read does not count.
func (s *Store) Twins(dataset string) ([]*Twin, error) {
	paths, err := filepath.Glob(filepath.Join(s.Root, ".tovrel", "twins", "*.json"))
	if err != nil {
		return nil, err
	}
	var all []*Twin
	for _, path := range paths {
		if t := readTwin(path); t != nil && (dataset == "" || t.Dataset == dataset) {
			all = append(all, t)
		}
	}
	slices.SortStableFunc(all, func(a, b *Twin) int {
		return cmp.Or(strings.Compare(a.Dataset, b.Dataset), strings.Compare(a.Of, b.Of), cmp.Compare(a.Number, b.Number))
	})
	return all, nil
}

// Recipe is what a twin is made by: from the same original it is the same twin on any machine.
type Recipe struct {
	Of     string    `json:"of"` // fingerprint of the original
	Number int       `json:"number"`
	Kept   TwinFacts `json:"kept"`
	Plan   twin.Plan `json:"plan"`
}

// RecipeOf is the recipe of a frozen dataset's twin of a number.
func RecipeOf(f *Frozen, facts *twin.Facts, bounds []twin.Boundary, number int) Recipe {
	r := Recipe{Of: f.Fingerprint, Number: number, Plan: twin.Make(facts, bounds, number)}
	r.Kept.Unique, r.Kept.NotNull, r.Kept.Dependencies, r.Kept.References = facts.Count()
	r.Kept.Laws = len(facts.Laws)
	return r
}

// Recipe is the recipe by which the twin was made.
func (t *Twin) Recipe() Recipe { return Recipe{t.Of, t.Number, t.Kept, t.Plan} }

// MakeTwin makes a twin by its recipe and keeps it; each is told how many of its steps are done. The original is only read. It errs where
// the file cannot be written or a step does not run; nothing is kept then.
func (s *Store) MakeTwin(ctx context.Context, f *Frozen, fingerprint string, r Recipe, each func(done, total int)) (*Twin, error) {
	path := s.twinPath(f.Dataset, fingerprint)
	if _, err := s.State(); err != nil {
		return nil, err
	}
	if err := os.MkdirAll(filepath.Dir(path), 0o755); err != nil {
		return nil, trouble.New(trouble.Unreadable, "the folder for twins cannot be made: %w", err)
	}
	t := &Twin{Dataset: f.Dataset, Engine: f.Engine, Of: f.Fingerprint, Number: r.Number, AsOf: f.AsOf, Fingerprint: fingerprint,
		Path: path + endings[f.Engine], Kept: r.Kept, Plan: r.Plan}
	files.SweepScratch(filepath.Dir(path), "making-")
	scratch := filepath.Join(filepath.Dir(path), "making-"+files.ScratchMark()+filepath.Base(path))
	defer removeAll(scratch)
	var err error
	if f.Engine == sqlite.Name {
		t.Tables, err = s.twinOfLite(ctx, f, scratch, r.Plan, each)
	} else {
		t.Tables, err = duckdb.Twin(ctx, f.Path, scratch, r.Plan, each)
		if err == nil && len(f.Computed) > 0 {
			t.Tables, err = recomputed(ctx, f, scratch, t.Tables)
		}
	}
	if err != nil {
		return nil, trouble.New(trouble.Unreadable, "twin %d of %s cannot be made: %w", r.Number, f.Dataset, err)
	}
	if t.File, err = sealOf(scratch); err != nil {
		return nil, trouble.New(trouble.Unreadable, "twin %d of %s cannot be kept: %w", r.Number, f.Dataset, err)
	}
	description, err := json.MarshalIndent(t, "", "  ")
	if err != nil {
		return nil, err
	}
	side := scratch + ".json"
	err = errors.Join(os.Rename(scratch, t.Path), os.WriteFile(side, append(description, '\n'), 0o644))
	if err == nil {
		err = os.Rename(side, path+".json")
	}
	if err != nil {
		return nil, trouble.New(trouble.Unreadable, "twin %d of %s cannot be kept: %w", r.Number, f.Dataset, err)
	}
	return t, nil
}

func removeAll(scratch string) {
	for _, ending := range []string{"", ".wal", ".json"} {
		_ = os.Remove(scratch + ending) // what is left behind has no description and does not count
	}
}

// Remove removes a twin, its description first. It errs where a file cannot be removed.
func (t *Twin) Remove() error {
	if err := errors.Join(os.Remove(strings.TrimSuffix(t.Path, filepath.Ext(t.Path))+".json"), os.Remove(t.Path)); err != nil {
		return trouble.New(trouble.Unreadable, "twin %d of %s cannot be removed: %w", t.Number, t.Dataset, err)
	}
	return nil
}

// SpareTwins lists the twins whose original is no present copy and that no run needs, and the bytes that removing them frees. The error
// is of the folder.
func (s *Store) SpareTwins(needed map[string]bool) (spare []*Twin, bytes int64, err error) {
	all, err := s.Twins("")
	if err != nil {
		return nil, 0, err
	}
	current := s.current()
	for _, t := range all {
		if needed[t.Fingerprint] || current[t.Of] {
			continue
		}
		if info, err := os.Stat(t.Path); err == nil {
			bytes += info.Size()
		}
		spare = append(spare, t)
	}
	return spare, bytes, nil
}
