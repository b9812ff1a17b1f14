package cli

import (
	"fmt"
	"maps"
	"slices"

	"github.com/spf13/cobra"

	"tovrel/workspace"
)

func (a *app) completeDatasets(*cobra.Command, []string, string) ([]string, cobra.ShellCompDirective) {
	w, err := a.open()
	if err != nil {
		return nil, cobra.ShellCompDirectiveError
	}
	var names []string
	for _, d := range w.Datasets {
		names = append(names, d.Name)
	}
	return names, cobra.ShellCompDirectiveNoFileComp
}

// completed opens the workspace for what is completed from it.
func (a *app) completed(names func(*workspace.Workspace) []string) ([]string, cobra.ShellCompDirective) {
	w, err := a.open()
	if err != nil {
		return nil, cobra.ShellCompDirectiveError
	}
	return names(w), cobra.ShellCompDirectiveNoFileComp
}

// completeQuestions completes names of sets and questions.
func (a *app) completeQuestions(*cobra.Command, []string, string) ([]string, cobra.ShellCompDirective) {
	return a.completed(a.questionNames)
}

func (a *app) questionNames(w *workspace.Workspace) []string {
	sets, err := a.sets(w, nil)
	if err != nil {
		return nil
	}
	var names []string
	for _, s := range sets {
		names = append(names, s.Name)
		for _, q := range s.All() {
			names = append(names, s.QuestionName(q))
		}
	}
	return names
}

// completeRuns completes the run, then the question of it.
func (a *app) completeRuns(_ *cobra.Command, args []string, _ string) ([]string, cobra.ShellCompDirective) {
	if len(args) > 0 {
		return a.completed(a.questionNames)
	}
	return a.completed(a.runNames)
}

// completeEveryRun completes any number of runs.
func (a *app) completeEveryRun(*cobra.Command, []string, string) ([]string, cobra.ShellCompDirective) {
	return a.completed(a.runNames)
}

// runNames are the names that runs have: latest, marks, translators and numbers.
func (a *app) runNames(w *workspace.Workspace) []string {
	store, err := openHistory(a.signals.ctx, w)
	if err != nil {
		return nil
	}
	defer store.Close() //nolint:errcheck // only read
	runs, err := store.Runs()
	if err != nil {
		return nil
	}
	marks, err := store.Marks()
	if err != nil {
		return nil
	}
	names := []string{"latest"}
	for _, id := range slices.Sorted(maps.Keys(marks)) {
		names = append(names, marks[id]...)
	}
	for _, r := range runs {
		if !slices.Contains(names, r.Translator) {
			names = append(names, r.Translator)
		}
	}
	for _, r := range runs {
		names = append(names, fmt.Sprint(r.ID))
	}
	return names
}

// completeTags completes the tags of golden sets and their questions.
func (a *app) completeTags(*cobra.Command, []string, string) ([]string, cobra.ShellCompDirective) {
	w, err := a.open()
	if err != nil {
		return nil, cobra.ShellCompDirectiveError
	}
	sets, err := a.sets(w, nil)
	if err != nil {
		return nil, cobra.ShellCompDirectiveError
	}
	var tags []string
	for _, s := range sets {
		tags = append(tags, s.Tags...)
		for _, q := range s.All() {
			tags = append(tags, q.Tags...)
		}
	}
	return slices.Compact(slices.Sorted(slices.Values(tags))), cobra.ShellCompDirectiveNoFileComp
}

// fixed completes an option that takes one of some words; with a mark behind them the word is not the end.
func fixed(cmd *cobra.Command, flag, mark string, words []string) {
	directive := cobra.ShellCompDirectiveNoFileComp
	var out []string
	for _, w := range words {
		out = append(out, w+mark)
	}
	if mark != "" {
		directive |= cobra.ShellCompDirectiveNoSpace
	}
	_ = cmd.RegisterFlagCompletionFunc(flag, cobra.FixedCompletions(out, directive))
}
