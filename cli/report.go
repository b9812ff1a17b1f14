package cli

import (
	"context"
	"io"
	"path/filepath"
	"slices"
	"strings"

	"github.com/spf13/cobra"

	"tovrel/core/record"
	"tovrel/core/versus"
	"tovrel/render"
	"tovrel/trouble"
	"tovrel/view"
)

// reportForms are the endings of report files, with what writes them; pages are made apart.
var reportForms = map[string]func(io.Writer, view.Screen) error{
	".md":   func(w io.Writer, s view.Screen) error { return render.Screen(w, s, render.Markdown, render.Options{}) },
	".json": func(w io.Writer, s view.Screen) error { return render.Screen(w, s, render.JSON, render.Options{}) },
	".csv":  func(w io.Writer, s view.Screen) error { return render.Screen(w, s, render.CSV, render.Options{}) },
	".xml":  render.JUnit,
	".xlsx": render.Workbook,
}

const pageEnding = ".html"

type reportOptions struct {
	compareOptions
	out  []string
	bare bool
}

func newReportCmd(a *app) *cobra.Command {
	var o reportOptions
	cmd := &cobra.Command{
		Use: "report RUN… -o FILE", Short: "Write a run, or a comparison of several, to a file",
		Args: usage(cobra.MinimumNArgs(1)), ValidArgsFunction: a.completeEveryRun,
		Long: "The form goes by the file's ending: .html (one page that opens anywhere, for colleagues), .md (Markdown, with charts\n" +
			"beside it), .xml (JUnit, for build servers), .json, .csv, .xlsx. One run gives its scoreboard with every attempt; two or\n" +
			"more give their comparison. -o may be given several times. --without-values leaves every value of the data out of a\n" +
			"page, for colleagues who may not see them.",
		Example: "  tovrel report scribe@2 -o page.html\n  tovrel report scribe@1 scribe@2 -o page.html -o report.md\n" +
			"  tovrel report scribe@2 -o page.html --without-values",
		RunE: func(cmd *cobra.Command, args []string) error {
			if len(o.out) == 0 {
				return trouble.New(trouble.Usage, "name the file to write with -o, such as -o page.html")
			}
			for _, path := range o.out {
				if err := checkEnding(path, o.bare); err != nil {
					return err
				}
			}
			return a.report(cmd.Context(), o, args)
		},
	}
	f := cmd.Flags()
	f.StringArrayVarP(&o.out, "file", "o", nil, "the file to write; repeatable")
	f.BoolVar(&o.bare, "without-values", false, "leave every value of the data and every reply out of a page (.html)")
	f.BoolVar(&o.rescore, "rescore", false, "judge the stored replies under today's golden sets first (comparisons)")
	f.Uint64Var(&o.seed, "seed", defaultSeed, "start of the random draws (comparisons)")
	return cmd
}

// report writes a report in every form that is asked for.
func (a *app) report(ctx context.Context, o reportOptions, names []string) error {
	source, err := a.runSource()
	if err != nil {
		return err
	}
	defer source.close()
	told, err := a.toReport(ctx, source, o, names)
	if err != nil {
		return err
	}
	for _, path := range o.out {
		if err := a.writeReport(path, told); err != nil {
			return err
		}
	}
	return nil
}

// toReport is what a report tells: a run, or a comparison.
func (a *app) toReport(ctx context.Context, source *runSource, o reportOptions, names []string) (reported, error) {
	if len(names) == 1 {
		r, err := source.whole(names[0])
		if err != nil {
			return reported{}, err
		}
		screen, err := view.Report(r.Run, r.attempts, r.tables)
		if err != nil {
			return reported{}, err
		}
		return source.reported(screen, []stored{r}, nil, o.bare)
	}
	o.queries, o.parts = true, true
	c, err := a.compare(ctx, source, o.compareOptions, names)
	if err != nil {
		return reported{}, err
	}
	for i := range c.records {
		if c.records[i], err = source.judged(c.records[i], c.sides[i], names[i]); err != nil {
			return reported{}, err
		}
	}
	return source.reported(c.screen, c.records, c.changes, o.bare)
}

// reported is what is written to files: a screen, and as a page.
type reported struct {
	screen  view.Screen
	page    func() (view.Page, error) // nil where there is none
	changed bool                      // it tells of several runs
}

// reported makes what is written of a screen and the runs that it tells of.
func (s *runSource) reported(screen view.Screen, runs []stored, changes map[string]versus.FlipKind, bare bool) (reported, error) {
	var summaries []record.Summary
	var all []view.PageRun
	for _, r := range runs {
		summaries = append(summaries, record.Summarise(r.Run, r.attempts))
		all = append(all, view.PageRun{Run: r.Run, Attempts: r.attempts, Tables: r.tables})
	}
	screen.Charts = view.Charts(summaries)
	past, has, err := s.pastOf(runs)
	if err != nil {
		return reported{}, err
	}
	if has {
		screen.Charts = append(screen.Charts, past)
	}
	return reported{screen, func() (view.Page, error) { return view.NewPage(all, screen, changes, bare) }, len(runs) > 1}, nil
}

// pastOf draws the accuracy over time of the translators of some runs; false where the history has no more than one run of any.
func (s *runSource) pastOf(runs []stored) (view.Chart, bool, error) {
	if s.store == nil {
		return view.Chart{}, false, nil
	}
	all, err := s.store.List()
	if err != nil {
		return view.Chart{}, false, err
	}
	listed := slices.DeleteFunc(listedOf(all), func(l view.Listed) bool {
		return !slices.ContainsFunc(runs, func(r stored) bool {
			return versus.BaseName(r.Translator) == versus.BaseName(l.Run.Translator)
		})
	})
	c := view.HistoryChart(listed, accuracyLimit(s.w))
	return c, slices.ContainsFunc(c.Lines, func(l view.Line) bool { return len(l.Values) > 1 }), nil
}

// judged is a run with its whole attempts, as a comparison judged them.
func (s *runSource) judged(r stored, side versus.Side, name string) (stored, error) {
	if side.Attempts != nil {
		r.attempts = side.Attempts
		return r, nil
	}
	return s.whole(name)
}

// checkEnding refuses files that a report cannot be written to.
func checkEnding(path string, bare bool) error {
	if strings.EqualFold(filepath.Ext(path), pageEnding) {
		return nil
	}
	if bare && checkForm(path) == nil {
		return trouble.New(trouble.Usage, "%s: --without-values is for pages (.html): the other forms are made of what it leaves out", path)
	}
	if checkForm(path) != nil {
		return trouble.New(trouble.Usage, "%s: a report ends in .html, .md, .xml (JUnit), .json, .csv or .xlsx", path)
	}
	return nil
}

// checkForm refuses files that a screen cannot be written to.
func checkForm(path string) error {
	if reportForms[strings.ToLower(filepath.Ext(path))] == nil {
		return trouble.New(trouble.Usage, "%s: the file ends in .md, .xml (JUnit), .json, .csv or .xlsx", path)
	}
	return nil
}

// writeReport writes a report to a file in the form of its ending.
func (a *app) writeReport(path string, r reported) error {
	form, err := a.formOf(path, r)
	if err != nil {
		return err
	}
	if err := writeFile(path, form); err != nil {
		return err
	}
	a.say("Wrote %s.", path)
	return nil
}

// formOf is what writes a report in the form of a file's ending.
func (a *app) formOf(path string, r reported) (func(io.Writer) error, error) {
	ending := strings.ToLower(filepath.Ext(path))
	needsPage := ending == pageEnding || ending == ".xlsx" || ending == ".md" && r.changed
	var page view.Page
	if needsPage && r.page != nil {
		var err error
		if page, err = r.page(); err != nil {
			return nil, err
		}
	}
	screen := r.screen
	switch ending {
	case pageEnding:
		return func(w io.Writer) error { return render.Page(w, page) }, nil
	case ".xlsx":
		if r.page != nil {
			screen.Parts = append(slices.Clone(screen.Parts), page.List())
		}
	case ".csv":
		return func(w io.Writer) error {
			return render.Screen(w, screen, render.CSV, render.Options{ForSpreadsheet: a.forSpreadsheet})
		}, nil
	case ".md":
		screen.Parts = append(slices.Clone(screen.Parts), page.SpeltParts()...)
		return besideCharts(path, screen)
	}
	return func(w io.Writer) error { return reportForms[ending](w, screen) }, nil
}

// besideCharts writes a screen's charts beside a Markdown file, and is what writes the file.
func besideCharts(path string, s view.Screen) (func(io.Writer) error, error) {
	beside := strings.TrimSuffix(filepath.Base(path), filepath.Ext(path)) + "-"
	for _, c := range s.Charts {
		chart := filepath.Join(filepath.Dir(path), beside+c.Name+".svg")
		if err := writeFile(chart, func(w io.Writer) error { return render.ChartSVG(w, c) }); err != nil {
			return nil, err
		}
	}
	return func(w io.Writer) error {
		return render.Screen(w, s, render.Markdown, render.Options{ChartsBeside: beside})
	}, nil
}
