package cli

import (
	"tovrel/attempt"
	"tovrel/core/record"
	"tovrel/history"
	"tovrel/view"
	"tovrel/workspace"
)

// dryRun says what a run would ask of each translator, and what that would cost by its earlier runs.
func (a *app) dryRun(w *workspace.Workspace, translators []*workspace.Translator, o record.Options, questions []workspace.Chosen) error {
	attempts := attempt.Count(attempt.Plan{Options: o, Questions: questions})
	var store *history.Store
	if w.HasHistory() {
		var err error
		if store, err = makeHistory(a.signals.ctx, w); err != nil {
			return err
		}
		defer store.Close() //nolint:errcheck // only read
	}
	var rows []view.DryRun
	for _, t := range translators {
		row := view.DryRun{Translator: t.Name, Questions: len(questions), Attempts: attempts}
		if store != nil {
			cost, err := pastCost(store, t.Name)
			if err != nil {
				return err
			}
			if cost != nil {
				total := *cost * float64(attempts)
				row.Cost = &total
			}
		}
		rows = append(rows, row)
	}
	var names []string
	for _, q := range questions {
		names = append(names, q.Name())
	}
	return a.show(view.DryRuns(rows, names))
}

// pastCost is what an attempt of a translator cost on average in its newest run; nil where it has none.
func pastCost(store *history.Store, translator string) (*float64, error) {
	runs, err := store.Runs()
	if err != nil {
		return nil, err
	}
	for i := len(runs) - 1; i >= 0; i-- {
		if runs[i].Translator != translator {
			continue
		}
		attempts, err := store.Attempts(runs[i].ID)
		if err != nil || len(attempts) == 0 {
			return nil, err
		}
		sum := 0.0
		for _, at := range attempts {
			sum += at.Cost
		}
		mean := sum / float64(len(attempts))
		return &mean, nil
	}
	return nil, nil
}
