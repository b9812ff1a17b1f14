package cli

import (
	"context"
	"io"
	"path/filepath"
	"strings"

	"github.com/spf13/cobra"

	"tovrel/render"
	"tovrel/trouble"
	"tovrel/view"
)

// reportForms are the endings of report files, with what writes them.
var reportForms = map[string]func(io.Writer, view.Screen) error{
	".md":   func(w io.Writer, s view.Screen) error { return render.Screen(w, s, render.Markdown, render.Options{}) },
	".json": func(w io.Writer, s view.Screen) error { return render.Screen(w, s, render.JSON, render.Options{}) },
	".csv":  func(w io.Writer, s view.Screen) error { return render.Screen(w, s, render.CSV, render.Options{}) },
	".xml":  render.JUnit,
	".xlsx": render.Workbook,
}

func newReportCmd(a *app) *cobra.Command {
	var out []string
	var o compareOptions
	cmd := &cobra.Command{
		Use: "report RUN… -o FILE", Short: "Write a run, or a comparison of several, to a file",
		Args: usage(cobra.MinimumNArgs(1)), ValidArgsFunction: a.completeEveryRun,
		Long: "The form goes by the file's ending: .md (Markdown), .xml (JUnit, for build servers), .json, .csv, .xlsx. One " +
			"run gives its scoreboard\nwith every attempt; two or more give their comparison. -o may be given several times.",
		RunE: func(cmd *cobra.Command, args []string) error {
			if len(out) == 0 {
				return trouble.New(trouble.Usage, "name the file to write with -o, such as -o report.md")
			}
			for _, path := range out {
				if err := checkEnding(path); err != nil {
					return err
				}
			}
			screen, err := a.report(cmd.Context(), o, args)
			if err != nil {
				return err
			}
			for _, path := range out {
				if err := a.writeReport(path, screen); err != nil {
					return err
				}
			}
			return nil
		},
	}
	f := cmd.Flags()
	f.StringArrayVarP(&out, "file", "o", nil, "the file to write; repeatable")
	f.BoolVar(&o.rescore, "rescore", false, "judge the stored replies under today's golden sets first (comparisons)")
	f.Uint64Var(&o.seed, "seed", defaultSeed, "start of the random draws (comparisons)")
	return cmd
}

func (a *app) report(ctx context.Context, o compareOptions, names []string) (view.Screen, error) {
	if len(names) > 1 {
		o.queries, o.parts = true, true
		return a.compare(ctx, o, names)
	}
	source, err := a.runSource()
	if err != nil {
		return view.Screen{}, err
	}
	defer source.close()
	r, err := source.whole(names[0])
	if err != nil {
		return view.Screen{}, err
	}
	return view.Report(r.Run, r.attempts), nil
}

func checkEnding(path string) error {
	ending := strings.ToLower(filepath.Ext(path))
	if reportForms[ending] != nil {
		return nil
	}
	if ending == ".html" {
		return trouble.New(trouble.Usage, "%s: pages are not built yet; write .md, .xml, .json, .csv or .xlsx", path)
	}
	return trouble.New(trouble.Usage, "%s: a report ends in .md, .xml (JUnit), .json, .csv or .xlsx", path)
}

// writeReport writes a screen to a file in the form of its ending.
func (a *app) writeReport(path string, s view.Screen) error {
	if err := checkEnding(path); err != nil {
		return err
	}
	form := reportForms[strings.ToLower(filepath.Ext(path))]
	if a.forSpreadsheet && strings.EqualFold(filepath.Ext(path), ".csv") {
		form = func(w io.Writer, s view.Screen) error {
			return render.Screen(w, s, render.CSV, render.Options{ForSpreadsheet: true})
		}
	}
	if err := writeFile(path, func(w io.Writer) error { return form(w, s) }); err != nil {
		return err
	}
	a.say("Wrote %s.", path)
	return nil
}
