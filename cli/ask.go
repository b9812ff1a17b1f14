package cli

import (
	"cmp"
	"context"
	"errors"
	"strings"

	"github.com/spf13/cobra"

	"tovrel/core/briefing"
	"tovrel/core/fault"
	"tovrel/core/near"
	"tovrel/core/table"
	"tovrel/engine"
	"tovrel/expect"
	"tovrel/translator"
	"tovrel/trouble"
	"tovrel/view"
	"tovrel/workspace"
)

type askOptions struct {
	translator, dataset string
	brief               levelFlag
	question            string
}

func newAskCmd(a *app) *cobra.Command {
	o := askOptions{brief: levelFlag(briefing.Full)}
	cmd := &cobra.Command{
		Use: "ask -t NAME@VERSION --dataset D QUESTION", Short: "Ask one question, and see the query and its answer",
		Args: usage(cobra.MinimumNArgs(1)),
		RunE: func(cmd *cobra.Command, args []string) error {
			o.question = strings.Join(args, " ")
			return a.ask(cmd.Context(), o)
		},
	}
	cmd.Flags().StringVarP(&o.translator, "translator", "t", "", "the translator to ask (default: the only one)")
	cmd.Flags().StringVar(&o.dataset, "dataset", "", "the dataset to ask about (default: the only one)")
	cmd.Flags().Var(&o.brief, "brief", "how much of the briefing is told: full, schema or none")
	_ = cmd.RegisterFlagCompletionFunc("translator", a.completeTranslators)
	_ = cmd.RegisterFlagCompletionFunc("dataset", a.completeDatasets)
	_ = cmd.RegisterFlagCompletionFunc("brief", cobra.FixedCompletions(briefing.Levels(), cobra.ShellCompDirectiveNoFileComp))
	return cmd
}

func (a *app) ask(ctx context.Context, o askOptions) error {
	w, err := a.open()
	if err != nil {
		return err
	}
	d, t, err := o.chosen(w)
	if err != nil {
		return err
	}
	on, err := a.opened(ctx, w, o.dataset, 1)
	if err != nil {
		return err
	}
	defer on.Close()
	ground, err := a.ground(ctx, w, on, briefing.Level(o.brief))
	if err != nil {
		return err
	}
	told, _ := briefing.Narrow(ground.Told, o.question, w.Run.TellAtMost)
	answered, err := a.askOnce(ctx, w, t, translator.Request{Protocol: translator.ProtocolOf(t.Protocol), ID: "ask", Question: o.question,
		Thread: []translator.Turn{}, Dialect: ground.Dialect, AsOf: d.AsOf, Dataset: told, Briefing: ground.Beyond})
	if err != nil {
		return err
	}
	asked := view.Asked{Translator: t.Name, Question: o.question, Reply: spoken(answered.Reply), Latency: answered.Latency}
	var failure error
	if asked.Reply.Query != "" {
		result, err := on.Query(ctx, engine.Request{SQL: asked.Reply.Query, Dialect: cmp.Or(t.Dialect, ground.Dialect)})
		if _, own := expect.Failure(err); err != nil && !own {
			return err
		}
		asked.Answer, asked.Ran = result.Table, result.Elapsed
		failure = err
	} else if answered.Reply.Table != nil {
		asked.Answer, _ = table.FromJSON(answered.Reply.Table) // ParseReply read it already
	}
	if err := a.show(view.Ask(asked)); err != nil {
		return err
	}
	if failure != nil {
		return queryError(asked.Reply.Query, failure)
	}
	return nil
}

// chosen are the dataset and the translator that are named, or the only ones.
func (o *askOptions) chosen(w *workspace.Workspace) (*workspace.Dataset, *workspace.Translator, error) {
	if o.dataset == "" && len(w.Datasets) == 1 {
		o.dataset = w.Datasets[0].Name
	}
	d, err := w.Dataset(o.dataset)
	if err != nil {
		return nil, nil, err
	}
	t, err := onlyTranslator(w, o.translator)
	return d, t, err
}

// onlyTranslator is the translator that is named, or the only one.
func onlyTranslator(w *workspace.Workspace, name string) (*workspace.Translator, error) {
	if name != "" {
		return w.Translator(name)
	}
	if len(w.Translators) == 1 {
		return w.Translators[0], nil
	}
	return nil, trouble.New(trouble.Usage, "name the translator with -t; known: %s", near.Few(w.TranslatorNames()))
}

// askOnce asks a translator one question, in its own dialect where it has one.
func (a *app) askOnce(ctx context.Context, w *workspace.Workspace, t *workspace.Translator,
	r translator.Request) (translator.Answered, error) {
	asker, err := newAsker(w, t)
	if err != nil {
		return translator.Answered{}, trouble.As(trouble.Unreachable, err)
	}
	defer asker.Close() //nolint:errcheck // the answer is there
	if t.Dialect != "" {
		r.Dialect = t.Dialect
	}
	answered, err := asker.Ask(ctx, r)
	var f *translator.Failure
	if errors.As(err, &f) {
		kind := trouble.Found
		if f.Code == fault.Transport {
			kind = trouble.Unreachable
		}
		return answered, trouble.New(kind, "%s gave nothing usable (%s): %s", t.Name, f.Code, f.Message)
	}
	return answered, err
}

// spoken is a reply in the form that views show.
func spoken(r translator.Reply) view.Spoken {
	return view.Spoken{Query: r.Query, Text: r.Text, Clarify: r.Clarify, Decline: r.Decline, Explanation: r.Explanation, Model: r.Model,
		InputTokens: r.Usage.InputTokens, OutputTokens: r.Usage.OutputTokens, Cost: r.Usage.Cost}
}
