package cli

import (
	"fmt"
	"slices"
	"time"

	"github.com/spf13/cobra"

	"tovrel/core/record"
	"tovrel/history"
	"tovrel/trouble"
	"tovrel/view"
)

// tidying is what is removed of a history.
type tidying struct {
	keep    int
	replies string // a day
	dryRun  bool
	all     bool // runs of others too
}

func newHistoryTidyCmd(a *app) *cobra.Command {
	o := tidying{keep: 10}
	cmd := &cobra.Command{
		Use: "tidy", Short: "Remove old runs, but for the newest of each translator and those with a mark", Args: usage(cobra.NoArgs),
		Long: "Keeps the newest runs of each translator (--keep), every run with a mark, and runs that are under way. With --replies " +
			"DAY no run goes:\nof those that began before that day the replies and the values of the data are purged, and what they were " +
			"judged stays. --dry-run only\nlists what would go. What is removed is gone: export it first where it may be needed " +
			"(`tovrel history export`).",
		RunE: func(cmd *cobra.Command, _ []string) error {
			if o.keep < 1 {
				return trouble.New(trouble.Usage, "--keep must be at least 1")
			}
			if o.replies != "" && cmd.Flags().Changed("keep") {
				return trouble.New(trouble.Usage, "--replies purges and removes no run; leave --keep out, or tidy twice")
			}
			w, store, err := a.openStore()
			if err != nil {
				return err
			}
			defer store.Close() //nolint:errcheck // what is removed is committed
			all, err := store.List()
			if err != nil {
				return err
			}
			own := a.ownRuns(listedOf(all), madeBy(w), o.all)
			if o.replies != "" {
				return a.purge(store, o, own, len(all))
			}
			return a.removeRuns(store, o, own, len(all))
		},
	}
	cmd.Flags().IntVar(&o.keep, "keep", o.keep, "how many of the newest runs of each translator stay")
	cmd.Flags().StringVar(&o.replies, "replies", "", "purge replies and values of the runs before this day (2031-06-30)")
	cmd.Flags().BoolVar(&o.all, "everybodys", false, "in a shared history, runs that others made too")
	cmd.Flags().BoolVar(&o.dryRun, "dry-run", false, "only list what would be removed")
	return cmd
}

// ownRuns are those that somebody made, and those that nobody is named for; all of them where a history is not shared.
func (a *app) ownRuns(all []view.Listed, me string, everybodys bool) []view.Listed {
	if me == "" || everybodys {
		return all
	}
	own := slices.DeleteFunc(slices.Clone(all), func(l view.Listed) bool { return l.Run.By != "" && l.Run.By != me })
	if others := len(all) - len(own); others > 0 {
		a.say("%d of the runs are of others than %s, and stay; --everybodys tidies them too.", others, me)
	}
	return own
}

func (a *app) removeRuns(store *history.Store, o tidying, own []view.Listed, all int) error {
	var ids []int
	gone := spareRuns(own, o.keep)
	for _, l := range gone {
		ids = append(ids, l.Run.ID)
	}
	if !o.dryRun && len(ids) > 0 {
		if err := store.Remove(ids); err != nil {
			return err
		}
	}
	return a.show(view.RunsTidied(gone, all-len(ids), o.dryRun))
}

// purge removes the replies and the values of the runs that were begun before a day.
func (a *app) purge(store *history.Store, o tidying, own []view.Listed, all int) error {
	before, err := dayFlag("replies", o.replies)
	if err != nil {
		return err
	}
	var gone []view.Listed
	var runs []record.Run
	for _, l := range own {
		if l.Run.State == record.Running || !l.Run.Started.Before(before) {
			continue
		}
		whole, err := store.Find(fmt.Sprint(l.Run.ID))
		if err != nil {
			return err
		}
		if whole.Purged == nil {
			gone, runs = append(gone, l), append(runs, whole)
		}
	}
	if !o.dryRun && len(runs) > 0 {
		if err := store.Purge(runs, history.Now()); err != nil {
			return err
		}
	}
	return a.show(view.RunsPurged(gone, all-len(gone), o.dryRun))
}

// dayFlag reads a day on the command line.
func dayFlag(flag, text string) (time.Time, error) {
	day, err := time.Parse(time.DateOnly, text)
	if err != nil {
		return day, trouble.New(trouble.Usage, "--%s %q is no day; write it as 2031-06-30", flag, text)
	}
	return day, nil
}

// spareRuns are the runs that nothing keeps, the oldest first.
func spareRuns(all []view.Listed, keep int) []view.Listed {
	newest := map[string]int{}
	var spare []view.Listed
	for i := len(all) - 1; i >= 0; i-- {
		l := all[i]
		newest[l.Run.Translator]++
		if newest[l.Run.Translator] > keep && len(l.Marks) == 0 && l.Run.State != record.Running {
			spare = append(spare, l)
		}
	}
	slices.Reverse(spare)
	return spare
}
