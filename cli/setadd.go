package cli

import (
	"bufio"
	"context"
	"errors"
	"fmt"
	"io/fs"
	"os"
	"path/filepath"
	"strings"

	"github.com/spf13/cobra"

	"tovrel/core/golden"
	"tovrel/engine"
	"tovrel/expect"
	"tovrel/files"
	"tovrel/trouble"
	"tovrel/upkeep"
	"tovrel/view"
	"tovrel/workspace"
)

type setAddOptions struct {
	question, sql, sqlFile, id, dataset string
	tagLine                             string // as it was typed in
	tags                                []string
	dryRun                              bool
}

func newSetAddCmd(a *app) *cobra.Command {
	var o setAddOptions
	cmd := &cobra.Command{
		Use: "add FILE --question TEXT --sql QUERY", Short: "Add a question with its computed answer", Args: usage(cobra.ExactArgs(1)),
		Long: "Runs the reference query in the sandbox, shows its answer, and appends the question with query and answer to " +
			"the golden set FILE; an\nanswer of many rows goes into a file beside it. On a terminal, what is missing is " +
			"asked for. A file that does not exist is begun, with\n--dataset. Everything that is in the file already stays as it is.",
		RunE: func(cmd *cobra.Command, args []string) error { return a.setAdd(cmd.Context(), o, args[0]) },
	}
	f := cmd.Flags()
	f.StringVar(&o.question, "question", "", "the question, as people ask it")
	f.StringVar(&o.sql, "sql", "", "the reference query")
	f.StringVar(&o.sqlFile, "sql-file", "", "a file with the reference query")
	f.StringVar(&o.id, "id", "", "the question's id (default: from its words)")
	f.StringSliceVar(&o.tags, "tag", nil, "a tag; repeatable")
	f.StringVar(&o.dataset, "dataset", "", "the dataset of a set that is begun")
	f.BoolVar(&o.dryRun, "dry-run", false, "only show what would be added")
	_ = cmd.RegisterFlagCompletionFunc("dataset", a.completeDatasets)
	return cmd
}

func (a *app) setAdd(ctx context.Context, o setAddOptions, file string) error {
	w, err := a.open()
	if err != nil {
		return err
	}
	if err := a.askFor(&o); err != nil {
		return err
	}
	set, isNew, err := a.setToExtend(w, o, w.FromHere(file))
	if err != nil {
		return err
	}
	expected, err := a.referenceAnswer(ctx, w, set.Dataset, o.sql)
	if err != nil {
		return err
	}
	answer := expected.Table
	if o.id == "" {
		o.id = set.FreeID(o.question)
	}
	o.tags = append(o.tags, upkeep.Listed(o.tagLine)...)
	answered := golden.Answered{Query: o.sql}
	if answer.Rows() > upkeep.FitsDocument {
		answered.File = "answers/" + o.id + ".csv"
	} else if answered.Table, err = golden.FormatTable(answer); err != nil {
		return trouble.New(trouble.Usage, "the answer: %w", err)
	}
	text, err := set.Add(golden.New{ID: o.id, Text: strings.Join(strings.Fields(o.question), " "),
		Settings: []golden.Setting{{Key: "tags", Value: golden.List(o.tags)}}, Answered: answered})
	if err != nil {
		return trouble.New(trouble.Usage, "%s cannot take the question: %w", set.File, err)
	}
	if err := a.show(view.AddedQuestion(view.AddedForm{Question: set.Name + "/" + o.id, File: set.File,
		AnswerFile: answered.File, Table: answer, Notes: expected.Notes(), DryRun: o.dryRun})); err != nil || o.dryRun {
		return err
	}
	var changes []files.Change
	if answered.File != "" {
		rows, err := upkeep.TableCSV(answer)
		if err != nil {
			return err
		}
		changes = append(changes, files.Change{Path: w.ExpectedPath(set, golden.Answer{File: answered.File}), Text: rows})
	}
	if isNew {
		return files.WriteAll(append(changes, files.Change{Path: w.Path(set.File), Text: text, New: true}))
	}
	return files.WriteAll(append(changes, w.SetFile(set, text)))
}

// askFor asks for what the command line lacks, where somebody can be asked.
func (a *app) askFor(o *setAddOptions) error {
	if o.sqlFile != "" {
		body, err := readText(o.sqlFile)
		if err != nil {
			return err
		}
		o.sql = body
	}
	in := bufio.NewReader(a.In)
	asked := false
	for _, missing := range []struct {
		value  *string
		words  string
		spared bool // may stay empty; asked for only where something else was
	}{{&o.question, "Question", false}, {&o.sql, "Reference query, on one line", false},
		{&o.id, "Id (Enter for one from its words)", true}, {&o.tagLine, "Tags, separated by commas (Enter for none)", true}} {
		if strings.TrimSpace(*missing.value) != "" || missing.spared && !asked {
			continue
		}
		if !a.Asks {
			return trouble.New(trouble.Usage, "name the question with --question and its reference query with --sql or --sql-file")
		}
		fmt.Fprintf(a.Err, "%s: ", missing.words)
		line, err := in.ReadString('\n')
		asked = true
		if *missing.value = strings.TrimSpace(line); *missing.value == "" && !missing.spared {
			return errors.Join(trouble.New(trouble.Usage, "nothing was added"), err)
		}
	}
	return nil
}

// setToExtend reads the golden set of a file, or begins one.
func (a *app) setToExtend(w *workspace.Workspace, o setAddOptions, file string) (set *golden.Set, isNew bool, err error) {
	if _, err := os.Stat(w.Path(file)); errors.Is(err, fs.ErrNotExist) {
		if o.dataset == "" {
			return nil, false, trouble.New(trouble.Usage, "there is no golden set %s; name its --dataset to begin it", file)
		}
		if _, err := w.Dataset(o.dataset); err != nil {
			return nil, false, err
		}
		name := strings.TrimSuffix(filepath.Base(file), filepath.Ext(file))
		set, _ := golden.Parse(file, golden.Begin(name, o.dataset)) // it has no questions yet
		return set, true, nil
	}
	sets, err := a.sets(w, []string{filepath.Join(w.Root, file)})
	if err != nil {
		return nil, false, err
	}
	return sets[0], false, nil
}

// referenceAnswer runs a reference query on a dataset.
func (a *app) referenceAnswer(ctx context.Context, w *workspace.Workspace, dataset, sql string) (expect.Expectation, error) {
	on, err := a.opened(ctx, w, dataset, 1)
	if err != nil {
		return expect.Expectation{}, err
	}
	defer on.Close()
	expected, err := expect.FromReference(ctx, on, sql, nil)
	var failure *engine.Failure
	if errors.As(err, &failure) {
		return expected, queryError(sql, failure)
	}
	return expected, err
}
