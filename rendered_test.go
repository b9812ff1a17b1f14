package main_test

import (
	"bytes"
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"strconv"
	"sync"
	"testing"

	"github.com/stretchr/testify/require"
	"golang.org/x/sync/errgroup"

	"tovrel/cli"
	"tovrel/render"
	"tovrel/view"
)

// A command of the demo takes seconds, and its screen is held in seven forms: it is run once, by this test program in the place of the
// built one, and its screen is written in every form.

// renderTo names the folder that the forms of a command's screen are written to; where it is set, this program is tovrel.
const renderTo = "TOVREL_TEST_RENDER_TO"

// widths are those that screens are held at; 0 is a pipe.
var widths = []int{80, 100, 160, 0}

// renderForms runs the command line and writes what it shows in every form.
func renderForms(dir string) int {
	streams := cli.System()
	streams.Out, streams.Program = new(bytes.Buffer), os.Getenv("TOVREL_TEST_PROGRAM")
	streams.Shown = func(s view.Screen) {
		for _, width := range widths {
			writeForm(dir, fmt.Sprintf("%03d.txt", width), s, render.Table, render.Options{Width: width, Unicode: true})
		}
		for end, form := range map[string]render.Format{"json": render.JSON, "csv": render.CSV, "md": render.Markdown} {
			writeForm(dir, end, s, form, render.Options{Unicode: true})
		}
	}
	return cli.Main(os.Args[1:], streams)
}

func writeForm(dir, name string, s view.Screen, form render.Format, o render.Options) {
	var b bytes.Buffer
	if err := render.Screen(&b, s, form, o); err != nil {
		panic(err)
	}
	if err := os.WriteFile(filepath.Join(dir, name), b.Bytes(), 0o644); err != nil {
		panic(err)
	}
}

// rendered are the forms of all screens, by the command's name and then by the form: "080.txt", "json".
var rendered = sync.OnceValues(func() (map[string]map[string]string, error) {
	demo, err := wholeDemo()
	if err != nil {
		return nil, err
	}
	forms := make([]map[string]string, len(screens))
	var g errgroup.Group
	g.SetLimit(2)
	for i, s := range screens {
		g.Go(func() (err error) {
			forms[i], err = formsOf(demo, s.args)
			return err
		})
	}
	if err := g.Wait(); err != nil {
		return nil, err
	}
	out := map[string]map[string]string{}
	for i, s := range screens {
		out[s.name] = forms[i]
	}
	return out, nil
})

func formsOf(demo, args string) (map[string]string, error) {
	dir, err := os.MkdirTemp("", "tovrel-forms-")
	if err != nil {
		return nil, err
	}
	defer os.RemoveAll(dir) //nolint:errcheck // a scratch folder
	program, err := filepath.Abs("tovrel")
	if err != nil {
		return nil, err
	}
	cmd := exec.Command("sh", "-c", strconv.Quote(os.Args[0])+" "+args)
	cmd.Dir = demo
	cmd.Env = append(os.Environ(), renderTo+"="+dir, "TOVREL_TEST_PROGRAM="+program, "LANG=C.UTF-8", "LC_ALL=C.UTF-8", "COLUMNS=")
	var errs bytes.Buffer
	cmd.Stderr = &errs
	_ = cmd.Run() // an answer of no is one, too
	files, err := os.ReadDir(dir)
	if err != nil {
		return nil, err
	}
	if len(files) == 0 {
		return nil, fmt.Errorf("tovrel %s shows nothing: %s", args, errs.String())
	}
	out := map[string]string{}
	for _, f := range files {
		body, err := os.ReadFile(filepath.Join(dir, f.Name()))
		if err != nil {
			return nil, err
		}
		out[f.Name()] = string(body)
	}
	return out, nil
}

// formOf is a screen in one form.
func formOf(t *testing.T, name, form string) string {
	t.Helper()
	all, err := rendered()
	require.NoError(t, err)
	if name == "data-query" && form == "md" { // in the form of a golden set's table, which the command makes when it is asked for
		return shell(t, demoFolder(t), "tovrel "+screens[3].args+" --output markdown", "")
	}
	out := all[name][form]
	require.NotEmpty(t, out, "%s as %s", name, form)
	return out
}

// TestRenderedIsShown: what the built program writes is the form that is held.
func TestRenderedIsShown(t *testing.T) {
	t.Parallel()
	dir := demoFolder(t)
	for _, s := range screens {
		switch s.name {
		case "show", "show-wrong", "compare", "history", "review", "set-list", "match-differs":
			require.Equal(t, formOf(t, s.name, "100.txt"), shell(t, dir, "tovrel "+s.args, "100"))
			require.Equal(t, formOf(t, s.name, "000.txt"), shell(t, dir, "tovrel "+s.args, ""))
			for end, form := range map[string]string{"json": "json", "csv": "csv", "md": "markdown"} {
				require.Equal(t, formOf(t, s.name, end), shell(t, dir, "tovrel "+s.args+" --output "+form, ""))
			}
		}
	}
}
