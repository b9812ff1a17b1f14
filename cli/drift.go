package cli

import (
	"context"
	"strconv"

	"tovrel/core/record"
	"tovrel/core/versus"
	"tovrel/trouble"
	"tovrel/view"
)

// mostDrift is how many runs are held against the run before, the newest ones, where --last does not say.
const mostDrift = 30

// showDrift shows how far a translator's complete runs agree with the run before.
func (a *app) showDrift(ctx context.Context, name string, last int) error {
	collectLate(2)
	source, err := a.runSource()
	if err != nil {
		return err
	}
	defer source.close()
	store, err := source.history()
	if err != nil {
		return err
	}
	ids, err := store.CompleteRuns(name)
	if err != nil {
		return err
	}
	if last <= 0 {
		last = mostDrift
	}
	if len(ids) > last {
		ids = ids[len(ids)-last:]
	}
	if len(ids) < 2 {
		return trouble.New(trouble.Usage, "%s has %d complete runs; drift needs two, make another with `tovrel run -t %s`", name,
			len(ids), name)
	}
	var points []view.DriftPoint
	var before stored
	for i, id := range ids {
		r, err := source.light(strconv.Itoa(id))
		if err != nil {
			return err
		}
		point := view.DriftPoint{Run: r.Run}
		if i > 0 {
			sides := []versus.Side{{Run: before.Run, Attempts: before.attempts, Lights: before.lights}, {Run: r.Run, Attempts: r.attempts,
				Lights: r.lights}}
			pair := []stored{before, r}
			if err := a.oneJudge(ctx, source, sides, pair); err != nil {
				return err
			}
			drift := versus.DriftBetween(sides[0], sides[1], a.alike(source, pair[0], pair[1]))
			point.Drift, point.Before = &drift, before.Run
		}
		points = append(points, point)
		before = r
	}
	return a.show(view.Drift(name, points))
}

// runBefore is the complete run of the same translator before a run of the history; "" for none.
func runBefore(source *runSource, r record.Run) (string, error) {
	store, err := source.history()
	if err != nil {
		return "", err
	}
	ids, err := store.CompleteRuns(r.Translator)
	if err != nil {
		return "", err
	}
	before := ""
	for _, id := range ids {
		if id < r.ID {
			before = strconv.Itoa(id)
		}
	}
	return before, nil
}
