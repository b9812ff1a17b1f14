package diagnose

import (
	"cmp"
	"context"
	"errors"
	"math/big"
	"slices"
	"strings"
	"time"
	"unicode"
	"unicode/utf8"

	"tovrel/core/match"
	"tovrel/core/sql"
	"tovrel/core/table"
	"tovrel/core/value"
)

// Salt is what a column of a salted twin holds in many of its rows, in place of its own values: what the two queries compare it
// with, the neighbours of that, and other cases of the same word.
type Salt struct {
	Column string
	Values []string // as texts
}

// mostSalt bounds the values of one column.
const mostSalt = 12

// tieBreak runs the queries once more on a salted twin of the data, where the edits that gave the same answer as the mistake only
// because the data is poor give another. Where none is left, nothing changes: the twin was no help.
func (s *search) tieBreak(ctx context.Context) error {
	best, rivals := s.best()
	if s.w.Salted == nil || best == nil || s.d.Ended != "" || s.certain(*best, rivals) || !s.poor() && len(rivals) == 0 {
		return nil
	}
	salts := saltsOf(s.c.Reference, s.c.Answer)
	right, err := s.onSalt(ctx, s.c.Reference, salts)
	if err != nil || right == nil {
		return err
	}
	wrong, err := s.onSalt(ctx, s.c.Answer, salts)
	if err != nil || wrong == nil || sameTables(right, wrong) {
		return err
	}
	var left []hit
	for _, h := range s.hits {
		want := wrong
		if h.repair {
			want = right
		}
		if poor(want) {
			continue // it would be met by chance again
		}
		got, err := s.onSalt(ctx, h.Tree, salts)
		if err != nil {
			return err
		}
		if got != nil && sameTables(got, want) {
			left = append(left, h)
		}
	}
	if len(left) > 0 {
		s.hits, s.salted = left, true
	}
	return nil
}

// onSalt runs a query on the salted twin, within the budget; nil where that gives nothing.
func (s *search) onSalt(ctx context.Context, t *sql.Tree, salts []Salt) (*table.Table, error) {
	if !s.mayRun() {
		return nil, nil
	}
	got, err := s.w.Salted(ctx, t, salts)
	if errors.Is(err, ErrSlow) {
		s.slow++
		return nil, nil
	}
	return got, err
}

func sameTables(t, other *table.Table) bool {
	return t.Rows() == other.Rows() && match.Match(t, other, exactly, match.Known{}).Matched
}

// saltsOf gathers what columns are compared with in two queries.
func saltsOf(trees ...*sql.Tree) []Salt {
	byColumn := map[string]map[string]bool{}
	for _, t := range trees {
		for _, c := range t.Compared() {
			if c.Literal == "" || c.Year {
				continue
			}
			column := strings.ToLower(c.Column)
			if byColumn[column] == nil {
				byColumn[column] = map[string]bool{}
			}
			for _, v := range neighbours(c.Literal) {
				byColumn[column][v] = true
			}
		}
	}
	var out []Salt
	for column, values := range byColumn {
		salt := Salt{Column: column}
		for v := range values {
			salt.Values = append(salt.Values, v)
		}
		slices.Sort(salt.Values)
		salt.Values = salt.Values[:min(mostSalt, len(salt.Values))]
		out = append(out, salt)
	}
	slices.SortFunc(out, func(a, b Salt) int { return cmp.Compare(a.Column, b.Column) })
	return out
}

// neighbours are a literal, what lies beside it, and other cases of the same word.
func neighbours(literal string) []string {
	for _, layout := range []string{"2006-01-02", "2006-01-02 15:04:05"} {
		if day, err := time.Parse(layout, literal); err == nil {
			return []string{literal, day.AddDate(0, 0, -1).Format(layout), day.AddDate(0, 0, 1).Format(layout),
				day.AddDate(0, -1, 0).Format(layout), day.AddDate(0, 1, 0).Format(layout)}
		}
	}
	if n, ok := value.Rational(literal); ok {
		places := 0
		if _, fraction, has := strings.Cut(literal, "."); has {
			places = len(fraction)
		}
		one := big.NewRat(1, 1)
		return []string{literal, new(big.Rat).Sub(n, one).FloatString(places), new(big.Rat).Add(n, one).FloatString(places)}
	}
	out := []string{literal, strings.ToLower(literal), strings.ToUpper(literal)}
	if first, size := utf8.DecodeRuneInString(literal); size > 0 {
		out = append(out, string(unicode.ToUpper(first))+strings.ToLower(literal[size:]))
	}
	return out
}

// poor tells answers of little information: thin ones, all of whose numbers are zero or null, and one small whole number.
func (s *search) poor() bool { return poor(s.c.Got) }

func poor(t *table.Table) bool {
	if thin(t) {
		return true
	}
	const small = 3
	numbers, told := 0, 0
	for _, c := range t.Columns {
		if !c.Type.Kind.Number() {
			continue
		}
		for row := range c.Len() {
			numbers++
			if f, ok := c.Value(row).Float64(); ok && f != 0 &&
				(t.Rows() > 1 || len(t.Columns) > 1 || f != float64(int(f)) || f > small || f < 0) {
				told++
			}
		}
	}
	return numbers > 0 && told == 0
}
