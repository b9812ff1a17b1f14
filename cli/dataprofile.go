package cli

import (
	"context"

	"github.com/spf13/cobra"

	"tovrel/core/briefing"
	"tovrel/core/golden"
	"tovrel/core/profile"
	"tovrel/dataset"
	"tovrel/dataset/survey"
	"tovrel/trouble"
	"tovrel/view"
	"tovrel/workspace"
)

func newDataProfileCmd(a *app) *cobra.Command {
	var write bool
	cmd := &cobra.Command{
		Use: "profile NAME", Short: "Columns with role, range and commonest values; likely joins",
		ValidArgsFunction: a.completeDatasets, Args: usage(cobra.ExactArgs(1)),
		Long: "Count each column's values and tell what it seems to be: a measure, a dimension, a time or a key. --write " +
			"makes the dataset's\nbriefing from that, or adds to it what it does not name yet; what people wrote stays as it is.",
		RunE: func(cmd *cobra.Command, args []string) error {
			w, d, facts, _, err := a.survey(cmd.Context(), args[0])
			if err != nil {
				return err
			}
			if write {
				path, err := w.WriteBriefing(d, facts)
				if err != nil {
					return err
				}
				a.say("The briefing %s now names every table and column.", path)
			}
			return a.show(view.Profile(facts, write || d.Briefing != ""))
		},
	}
	cmd.Flags().BoolVar(&write, "write", false, "make or extend the dataset's briefing")
	return cmd
}

func newDataInspectCmd(a *app) *cobra.Command {
	return &cobra.Command{
		Use: "inspect NAME", Short: "What in the data and its briefing will hurt, and what to do",
		ValidArgsFunction: a.completeDatasets, Args: usage(cobra.ExactArgs(1)),
		Long: "List findings, the worst first. Exits 1 when there are any.",
		RunE: func(cmd *cobra.Command, args []string) error {
			w, d, facts, frozen, err := a.survey(cmd.Context(), args[0])
			if err != nil {
				return err
			}
			findings := append(fileFindings(frozen), profile.Inspect(facts)...)
			said, err := w.ReadBriefing(d)
			if err != nil {
				return err
			}
			if said != nil {
				questions, err := a.goldenQuestions(w, d)
				if err != nil {
					return err
				}
				findings = append(briefing.Settled(said, findings), briefing.Check(said, facts, questions)...)
			}
			profile.Sort(findings)
			if err := a.show(view.Findings(d.Name, findings)); err != nil {
				return err
			}
			if len(findings) > 0 {
				return trouble.ErrFound
			}
			return nil
		},
	}
}

// survey counts a dataset's columns, freezing it first where it is not.
func (a *app) survey(ctx context.Context, name string) (*workspace.Workspace, *workspace.Dataset, *profile.Dataset, *dataset.Frozen,
	error) {
	w, err := a.open()
	if err != nil {
		return nil, nil, nil, nil, err
	}
	on, err := a.opened(ctx, w, name, workers())
	if err != nil {
		return nil, nil, nil, nil, err
	}
	defer on.Close()
	facts, err := surveyed(ctx, on)
	return w, on.dataset, facts, on.frozen, err
}

// fileFindings are what was noticed of the files when they were imported.
func fileFindings(f *dataset.Frozen) []profile.Finding {
	remedies := map[string]string{
		"merged-cells": "undo the merge in the spreadsheet", "empty-header": "name the column in the file",
		"duplicate-header": "give each column its own name in the file",
		"title-rows":       "remove them, or say header-row: for the table in tovrel.yaml",
		"blank-rows":       "remove them from the file", "mixed-types": "correct the values in the file",
	}
	var out []profile.Finding
	for _, n := range f.Notes {
		if n.Warning {
			out = append(out, profile.Finding{Severity: profile.Warning, Code: n.Code, Table: n.Table, File: n.File,
				Line: n.Line, Message: n.Message, Remedy: remedies[n.Code]})
		}
	}
	return out
}

// goldenQuestions are the golden questions on a dataset.
func (a *app) goldenQuestions(w *workspace.Workspace, d *workspace.Dataset) ([]briefing.Golden, error) {
	files, err := w.SetFiles()
	if err != nil {
		return nil, err
	}
	sets, _, err := w.ReadSets(files) // their own defects are for `set check`
	var out []briefing.Golden
	for _, s := range sets {
		if s.Dataset != d.Name {
			continue
		}
		for _, q := range s.Each() {
			out = append(out, briefing.Golden{Name: s.QuestionName(q), Wordings: q.Wordings(), Reference: referenceOf(q)})
		}
	}
	return out, err
}

func referenceOf(q *golden.Question) string { return q.Answer.Query }

// surveyed counts an opened dataset's tables.
func surveyed(ctx context.Context, on *opened) (*profile.Dataset, error) {
	count := survey.Dataset
	if on.dataset.Live() {
		count = survey.Live
	}
	return count(ctx, on, on.dataset.Name, on.frozen.Tables, workers())
}
