// Package versus measures what comparing costs: two runs of 100,000 attempts each, a gate on 10,000 attempts, and the newest run of a
// history of 1,000. As the limit of what could be reached it reads the same rows from the store through the raw driver, in one run.
package versus

import (
	"context"
	"database/sql"
	"encoding/json"
	"fmt"
	"os"
	"path/filepath"
	"slices"
	"time"

	"tovrel/bench/held"
	"tovrel/core/fault"
	"tovrel/core/record"
	"tovrel/core/score"
	"tovrel/history"
)

const (
	rounds      = 5
	questions   = 10_000
	repeats     = 10
	gated       = 10_000 // attempts
	abreast     = 8
	manyRuns    = 10_000
	fewAttempts = 40
)

// Measure measures a program and prints what it saw.
func Measure(program string) error {
	big, err := workspace("big", func(s *history.Store) error {
		for version := 1; version <= abreast; version++ {
			if err := Fill(s, version, questions, repeats); err != nil {
				return err
			}
		}
		if err := Fill(s, abreast+1, gated/repeats, repeats); err != nil {
			return err
		}
		return Fill(s, abreast+2, gated, 1)
	})
	if err != nil {
		return err
	}
	defer os.RemoveAll(big) //nolint:errcheck // a scratch folder
	compare, memory, err := Median(program, big, "compare", "1", "2", "--output", "json")
	if err != nil {
		return err
	}
	matrix, _, err := Median(program, big, "compare", "1", "2", "3", "4", "5", "6", "7", "8", "--output", "json")
	if err != nil {
		return err
	}
	raw, err := rawRead(big)
	if err != nil {
		return err
	}
	gate, _, err := Median(program, big, "gate", "9", "--against", "9", "--output", "json")
	if err != nil {
		return err
	}
	single, _, err := Median(program, big, "gate", "10", "--against", "10", "--output", "json")
	if err != nil {
		return err
	}
	show, list, err := aHistory(program)
	if err != nil {
		return err
	}
	fmt.Printf("compare two runs of %d attempts: %d ms (limit 1000), %d MB (limit 200); reading their rows alone through the "+
		"raw driver: %d ms, ratio %.2f\n",
		questions*repeats, compare.Milliseconds(), memory>>20, raw.Milliseconds(), float64(compare)/float64(raw))
	fmt.Printf("a matrix of %d such runs: %d ms (limit 5000)\n", abreast, matrix.Milliseconds())
	fmt.Printf("gate on %d attempts: %d ms (limit 300) at %d questions; %d ms at as many questions as attempts\n", gated,
		gate.Milliseconds(), gated/repeats, single.Milliseconds())
	fmt.Printf("show latest in a history of %d runs: %d ms (limit 100); the list of all: %d ms (limit 500)\n", manyRuns,
		show.Milliseconds(), list.Milliseconds())
	return nil
}

// aHistory measures looking at the newest run of a long history, and listing all.
func aHistory(program string) (show, list time.Duration, err error) {
	many, err := workspace("many", func(s *history.Store) error {
		for version := 1; version <= manyRuns; version++ {
			if err := Fill(s, version, fewAttempts, 1); err != nil {
				return err
			}
		}
		return nil
	})
	if err != nil {
		return 0, 0, err
	}
	defer os.RemoveAll(many) //nolint:errcheck // a scratch folder
	show, _, err = Median(program, many, "show", "latest", "--output", "json")
	if err != nil {
		return 0, 0, err
	}
	list, _, err = Median(program, many, "history", "--output", "json")
	return show, list, err
}

func workspace(name string, fill func(*history.Store) error) (string, error) {
	dir, err := os.MkdirTemp("", "bench-"+name+"-")
	if err != nil {
		return "", err
	}
	config := "tovrel: 1\ndatasets: {one: {tables: {t: t.csv}}}\ngate: {accuracy: {at-least: 0.1}, regressions: {at-most: 100000}}\n"
	if err := os.WriteFile(filepath.Join(dir, "tovrel.yaml"), []byte(config), 0o600); err != nil {
		return "", err
	}
	if err := os.WriteFile(filepath.Join(dir, "t.csv"), []byte("a\n1\n"), 0o600); err != nil {
		return "", err
	}
	store, err := history.Open(context.Background(), filepath.Join(dir, ".tovrel", "history.db"))
	if err != nil {
		return "", err
	}
	if err := fill(store); err != nil {
		return "", err
	}
	return dir, store.Close()
}

// Fill stores a run with made-up attempts, of the size that real ones have.
func Fill(s *history.Store, version, questions, repeats int) error {
	r := record.Run{Translator: fmt.Sprintf("made@%d", version), Started: history.Now(), Tool: "bench", UID: fmt.Sprint("bench-", version),
		Weights: map[string]float64{}, Grounds: map[string]record.Ground{}, About: map[string]record.About{}}
	for q := range questions {
		name := fmt.Sprintf("set-%d/question-%d", q%20, q)
		r.Weights[name] = 1
		r.Grounds[name] = record.Ground{Question: "q", Expected: "e", Rules: "r", Data: "d", Briefing: "b", Engine: "x"}
		r.About[name] = record.About{Dataset: "one", Tags: []string{"sum", "join"}, Features: []string{"aggregate", "join"}}
	}
	r.State = record.Complete
	in := history.Imported{Run: r}
	state := uint64(version)*2654435761 + 1
	for place := range questions * repeats {
		q := place / repeats
		state = state*6364136223846793005 + 1442695040888963407
		a := record.Attempt{Question: fmt.Sprintf("set-%d/question-%d", q%20, q),
			Wording: fmt.Sprintf("What is the total of district %d in the month of May?", q), Repeat: place % repeats,
			Verdict: score.Right, Query: "SELECT district, sum(litres) AS litres FROM loads JOIN farms USING (farm_id) WHERE " +
				"status = 'acc' GROUP BY district ORDER BY 2 DESC",
			Latency: time.Duration(state>>40) * time.Microsecond,
			Raw:     json.RawMessage(`{"query":"SELECT district, sum(litres) AS litres FROM loads JOIN farms USING (farm_id)"}`),
			Cost:    0.003}
		// one question in ten is broken, one in twenty flaky, and the second version mends or breaks another one in twenty
		kind := q * 7919 % 100
		wrong := kind < 10 || kind < 15 && state>>33%2 == 0 || kind < 20 && version%2 == 1
		if wrong {
			a.Verdict = score.Wrong
			a.Faults = []fault.Fault{{Code: fault.FilterMissing, Certainty: fault.Proved, Evidence: "the answer lacks `status = 'acc'`"}}
		}
		in.Attempts = append(in.Attempts, history.Placed{Place: place, Attempt: a})
	}
	_, _, err := s.Import(in)
	return err
}

// Median runs a command several times: the median time, and the most memory that it took, in bytes.
func Median(program, dir string, args ...string) (time.Duration, int64, error) {
	var took []time.Duration
	memory := int64(0)
	for range rounds {
		one, err := held.Run(dir, program, args...)
		if err != nil {
			return 0, 0, err
		}
		took, memory = append(took, one.Time), max(memory, one.Memory)
	}
	slices.Sort(took)
	return took[len(took)/2], memory, nil
}

// rawRead reads what a comparison needs through the driver, without looking at it.
func rawRead(dir string) (time.Duration, error) {
	var took []time.Duration
	for range rounds {
		start := time.Now()
		db, err := sql.Open("sqlite", filepath.Join(dir, ".tovrel", "history.db"))
		if err != nil {
			return 0, err
		}
		rows, err := db.Query("SELECT form FROM light WHERE run <= 2 ORDER BY run, place")
		if err != nil {
			return 0, err
		}
		var light []byte
		for rows.Next() {
			if err := rows.Scan(&light); err != nil {
				return 0, err
			}
		}
		if err := rows.Err(); err != nil {
			return 0, err
		}
		if err := db.Close(); err != nil {
			return 0, err
		}
		took = append(took, time.Since(start))
	}
	slices.Sort(took)
	return took[len(took)/2], nil
}
