package cli

import (
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

// completeQuestions completes names of sets and questions.
func (a *app) completeQuestions(*cobra.Command, []string, string) ([]string, cobra.ShellCompDirective) {
	w, err := a.open()
	if err != nil {
		return nil, cobra.ShellCompDirectiveError
	}
	return a.questionNames(w), cobra.ShellCompDirectiveNoFileComp
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
	w, err := a.open()
	if err != nil {
		return nil, cobra.ShellCompDirectiveError
	}
	if len(args) > 0 {
		return a.questionNames(w), cobra.ShellCompDirectiveNoFileComp
	}
	store, err := openHistory(a.signals.ctx, w)
	if err != nil {
		return nil, cobra.ShellCompDirectiveNoFileComp
	}
	defer store.Close() //nolint:errcheck // only read
	runs, err := store.Runs()
	if err != nil {
		return nil, cobra.ShellCompDirectiveError
	}
	names := []string{"latest"}
	seen := map[string]bool{}
	for _, r := range runs {
		if !seen[r.Translator] {
			seen[r.Translator] = true
			names = append(names, r.Translator)
		}
	}
	return names, cobra.ShellCompDirectiveNoFileComp
}
