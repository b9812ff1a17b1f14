// Package cli is the command line: one file for each command, with its options, its constructor and its run function. It wires
// the other packages together and computes nothing itself.
package cli

import (
	"errors"
	"fmt"
	"io"
	"os"
	"slices"
	"strings"
	"syscall"

	"github.com/spf13/cobra"

	"tovrel/core/near"
	"tovrel/dataset"
	"tovrel/render"
	"tovrel/trouble"
	"tovrel/view"
	"tovrel/workspace"
)

// version is the program's version; a release build sets it.
var version = "0.1.0-dev"

// commit is the one that the program was built from; make stamps it.
var commit string

// Streams are where a command reads and writes, and what is known of the terminal behind them.
type Streams struct {
	In       io.Reader
	Out, Err io.Writer
	Width    int               // of the terminal that Out is, or what COLUMNS says; 0 for a pipe
	Terminal bool              // Out is a terminal
	Progress bool              // Err is a terminal
	Asks     bool              // somebody can be asked
	Unicode  bool              // the terminal shows more than ASCII
	NoColor  bool              // NO_COLOR is set
	Program  string            // that workers are processes of; "" for this one
	Shown    func(view.Screen) // is given every screen that is shown; nil for nobody
}

// app is what every command shares: the streams and the flags of the root.
type app struct {
	Streams
	program   string // the program's own executable, for workers
	signals   *interrupts
	workspace string
	output    formatFlag
	quiet     bool
	verbose   bool
	noColor   bool
	store     *dataset.Store // of the workspace that is open
	// forSpreadsheet has CSV keep its texts from being taken for formulas
	forSpreadsheet bool
}

// Main runs the program and gives its exit code.
func Main(args []string, s Streams) int {
	if err := enoughFiles(); err != nil {
		fmt.Fprintln(s.Err, "tovrel: "+err.Error())
		return trouble.ExitCode(err)
	}
	signals := catchInterrupts()
	defer signals.cancel()
	a := &app{Streams: s, program: s.executable(), signals: signals, output: formatFlag(render.Table)}
	root := newRootCmd(a)
	root.SetArgs(withoutComments(args))
	err := trouble.Safe(func() error { return root.ExecuteContext(signals.ctx) })()
	if signals.interrupted() && err != nil {
		err = trouble.As(trouble.Interrupted, err)
	}
	if err != nil && !errors.Is(err, trouble.ErrFound) {
		fmt.Fprintln(s.Err, render.Plain("tovrel: "+err.Error()))
		if trouble.ExitCode(err) == trouble.ExitCode(trouble.New(trouble.Internal, "")) {
			fmt.Fprintf(s.Err, "This is a defect of tovrel, not of what you gave it. Please report the line above with the "+
				"command\n  tovrel %s\nthe output of `tovrel version`, and the files that it was about, if you may share "+
				"them.\n", strings.Join(args, " "))
		}
	}
	return trouble.ExitCode(err)
}

// executable is the program that workers are processes of.
func (s Streams) executable() string {
	if s.Program != "" {
		return s.Program
	}
	program, err := os.Executable()
	if err != nil {
		return os.Args[0]
	}
	return program
}

// withoutComments has an argument that is a query with a comment at its begin not taken for an option: no option's name has a space.
func withoutComments(args []string) []string {
	args = slices.Clone(args)
	for i, arg := range args {
		name, _, _ := strings.Cut(arg, "=")
		if strings.HasPrefix(arg, "--") && strings.ContainsAny(name, " \t\n\r") {
			args[i] = " " + arg
		}
	}
	return args
}

// fewestFiles is how many files a process must be allowed: with fewer, the runtime itself ends before anything can be said.
const fewestFiles = 16

func enoughFiles() error {
	var limit syscall.Rlimit
	if err := syscall.Getrlimit(syscall.RLIMIT_NOFILE, &limit); err == nil && limit.Cur < fewestFiles {
		return trouble.New(trouble.Unreadable, "this process may have %d files open, which is too few to read any data; "+
			"allow more (ulimit -n 1024)", limit.Cur)
	}
	return nil
}

func newRootCmd(a *app) *cobra.Command {
	root := &cobra.Command{
		Use:   "tovrel",
		Short: "A test bench for question-to-query translators",
		Long: "Tovrel keeps golden sets of business questions with expected answers, asks translators, runs their " +
			"queries\nover frozen sample data, and tells whether the answers are right.",
		SilenceErrors: true, SilenceUsage: true,
		Version: view.VersionWords(version, commit),
		Args:    cobra.ArbitraryArgs,
		RunE: func(cmd *cobra.Command, args []string) error {
			if len(args) > 0 {
				return unknownCommand(cmd, args[0])
			}
			return cmd.Help()
		},
	}
	root.SetIn(a.In)
	root.SetOut(a.Out)
	root.SetErr(a.Err)
	root.SetVersionTemplate("tovrel {{.Version}}\n")
	flags := root.PersistentFlags()
	flags.StringVar(&a.workspace, "workspace", "", "folder of the workspace (default: the nearest one up with tovrel.yaml)")
	flags.Var(&a.output, "output", "table, json, csv or markdown")
	flags.BoolVar(&a.quiet, "quiet", false, "no progress and no hints")
	flags.BoolVar(&a.verbose, "verbose", false, "a line for each step")
	flags.BoolVar(&a.forSpreadsheet, "for-spreadsheet", false,
		"in CSV, put an apostrophe before texts that a spreadsheet would take for formulas")
	flags.BoolVar(&a.noColor, "no-color", false, "no colours (also NO_COLOR)")
	root.SetFlagErrorFunc(flagError)
	_ = root.RegisterFlagCompletionFunc("output", cobra.FixedCompletions(render.Formats(), cobra.ShellCompDirectiveNoFileComp))
	root.AddCommand(newDemoCmd(a), newDataCmd(a), newSetCmd(a), newAskCmd(a), newRunCmd(a), newWorkCmd(a), newShowCmd(a), newWhyCmd(a),
		newCompareCmd(a), newTryCmd(a), newRescoreCmd(a), newGateCmd(a), newMarkCmd(a), newReportCmd(a), newAcceptCmd(a), newMatchCmd(a),
		newHistoryCmd(a), newReviewCmd(a), newHarvestCmd(a), newStandInCmd(a), newInitCmd(a), newSchemaCmd(a), newVersionCmd(a),
		newWorkerCmd(a))
	dress(root)
	return root
}

// group is the run function of a command that only holds others.
func group(cmd *cobra.Command, args []string) error {
	if len(args) > 0 {
		return unknownCommand(cmd, args[0])
	}
	return cmd.Help()
}

func unknownCommand(cmd *cobra.Command, name string) error {
	var known []string
	for _, c := range cmd.Commands() {
		if c.IsAvailableCommand() {
			known = append(known, c.Name())
		}
	}
	return trouble.New(trouble.Usage, "unknown command %q; %s", name, near.Hint(name, known))
}

// formatFlag is the --output flag: it checks and completes itself.
type formatFlag render.Format

func (f *formatFlag) String() string { return string(*f) }
func (f *formatFlag) Type() string   { return "FORMAT" }
func (f *formatFlag) Set(s string) error {
	if slices.Contains(render.Formats(), s) {
		*f = formatFlag(s)
		return nil
	}
	return fmt.Errorf("the formats are %s", strings.Join(render.Formats(), ", "))
}

// show writes a screen to standard output in the chosen format.
func (a *app) show(s view.Screen) error {
	if a.quiet {
		s.Next = nil
	}
	if a.Shown != nil {
		a.Shown(s)
	}
	return render.Screen(a.Out, s, render.Format(a.output), a.look())
}

func (a *app) look() render.Options {
	return render.Options{Width: a.Width, Color: a.Terminal && !a.noColor && !a.NoColor, Unicode: a.Unicode || !a.Terminal,
		ForSpreadsheet: a.forSpreadsheet}
}

// say writes a line about what is going on to standard error.
func (a *app) say(format string, args ...any) {
	if !a.quiet {
		a.tell(format, args...)
	}
}

// tell writes a line to standard error; what stands in it cannot steer the terminal.
func (a *app) tell(format string, args ...any) {
	fmt.Fprintln(a.Err, render.Plain(fmt.Sprintf(format, args...)))
}

// data keeps a workspace's datasets; what it learned of their files is remembered.
func (a *app) data(w *workspace.Workspace) *dataset.Store {
	if a.store == nil || a.store.Workspace != w {
		a.store = dataset.Of(w)
	}
	return a.store
}

// open opens the workspace that the command line names, or the nearest one up.
func (a *app) open() (*workspace.Workspace, error) {
	root := a.workspace
	if root == "" {
		found, err := workspace.Find(".")
		if err != nil {
			return nil, err
		}
		root = found
	}
	return workspace.Open(root)
}

// usage wraps a check of arguments, so that its error says how the command is used.
func usage(check cobra.PositionalArgs) cobra.PositionalArgs {
	return func(cmd *cobra.Command, args []string) error {
		if check(cmd, args) != nil {
			given := map[int]string{0: "nothing was given", 1: "one word was given"}[len(args)]
			if given == "" {
				given = fmt.Sprintf("%d words were given", len(args))
			}
			return trouble.New(trouble.Usage, "%s: %s; usage: %s", cmd.CommandPath(), given, cmd.UseLine())
		}
		return nil
	}
}
