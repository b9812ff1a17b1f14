package cli

import (
	"errors"
	"fmt"
	"strconv"
	"strings"

	"github.com/spf13/cobra"
	"github.com/spf13/pflag"

	"tovrel/core/near"
	"tovrel/trouble"
)

// helpWidth is how wide help is at most.
const helpWidth = 100

// The groups of commands, in the order of the work.
var groups = []*cobra.Group{
	{ID: "begin", Title: "Begin:"}, {ID: "prepare", Title: "Data and golden sets:"}, {ID: "ask", Title: "Ask and judge:"},
	{ID: "look", Title: "Find out why, and whether it is better:"}, {ID: "keep", Title: "Decide, pass on and keep:"},
	{ID: "more", Title: "More:"},
}

var groupOf = map[string]string{
	"demo": "begin", "init": "begin",
	"data": "prepare", "set": "prepare", "harvest": "prepare",
	"ask": "ask", "run": "ask", "work": "ask", "match": "ask", "rescore": "ask",
	"show": "look", "why": "look", "compare": "look", "try": "look",
	"gate": "keep", "review": "keep", "accept": "keep", "mark": "keep", "report": "keep", "history": "keep",
	"stand-in": "more", "schema": "more", "version": "more", "help": "more", "completion": "more",
}

// dress gives every command what its help has alike: a group, examples, lines of at most helpWidth, words for what an option takes.
func dress(root *cobra.Command) {
	cobra.EnableCommandSorting = false // the order of the work
	root.InitDefaultHelpCmd()
	root.InitDefaultCompletionCmd()
	root.AddGroup(groups...)
	usage := root.UsageTemplate()
	for _, flags := range []string{".LocalFlags", ".InheritedFlags"} {
		usage = strings.ReplaceAll(usage, flags+".FlagUsages", fmt.Sprintf("%s.FlagUsagesWrapped %d", flags, helpWidth))
	}
	root.SetUsageTemplate(usage)
	for _, c := range root.Commands() {
		c.GroupID = groupOf[c.Name()]
		if c.Name() == "completion" {
			c.Args, c.RunE = cobra.ArbitraryArgs, group
		}
	}
	everyCommand(root, func(c *cobra.Command) {
		c.Long = wrapped(c.Long)
		if lines := examples[strings.TrimPrefix(c.CommandPath(), "tovrel ")]; len(lines) > 0 {
			c.Example = "  " + strings.Join(lines, "\n  ")
		}
		c.Flags().VisitAll(nameValue)
		c.PersistentFlags().VisitAll(nameValue)
	})
}

func everyCommand(c *cobra.Command, do func(*cobra.Command)) {
	do(c)
	for _, sub := range c.Commands() {
		everyCommand(sub, do)
	}
}

// listed is an option that is given several times, named in help for one of its values.
type listed struct{ pflag.Value }

func (listed) Type() string { return "TEXT" }

// nameValue names what an option takes as people do.
func nameValue(f *pflag.Flag) {
	if strings.HasPrefix(f.Value.Type(), "string") && f.Value.Type() != "string" {
		f.Value, f.DefValue = listed{f.Value}, ""
	}
	if f.DefValue == "-1" { // "not given"
		f.DefValue = "0"
	}
}

// wrapped breaks the paragraphs of a text into lines; a paragraph that begins with blanks stays as it is.
func wrapped(text string) string {
	paragraphs := strings.Split(text, "\n\n")
	for i, p := range paragraphs {
		if !strings.HasPrefix(p, " ") {
			paragraphs[i] = wrappedLine(p)
		}
	}
	return strings.Join(paragraphs, "\n\n")
}

func wrappedLine(text string) string {
	var lines []string
	line := ""
	for word := range strings.FieldsSeq(text) {
		switch {
		case line == "":
			line = word
		case len([]rune(line))+1+len([]rune(word)) > helpWidth:
			lines = append(lines, line)
			line = word
		default:
			line += " " + word
		}
	}
	return strings.Join(append(lines, line), "\n")
}

// flagError says in our own words what is wrong with an option.
func flagError(cmd *cobra.Command, err error) error {
	see := fmt.Sprintf("see `%s --help`", cmd.CommandPath())
	var unknown *pflag.NotExistError
	if errors.As(err, &unknown) && len(unknown.GetSpecifiedName()) > 1 {
		var known []string
		names := func(f *pflag.Flag) { known = append(known, f.Name) }
		cmd.Flags().VisitAll(names)
		cmd.InheritedFlags().VisitAll(names)
		if meant := near.Name(unknown.GetSpecifiedName(), known); meant != "" {
			return trouble.New(trouble.Usage, "%s has no option --%s; did you mean --%s?", cmd.CommandPath(),
				unknown.GetSpecifiedName(), meant)
		}
		return trouble.New(trouble.Usage, "%s has no option --%s; %s", cmd.CommandPath(), unknown.GetSpecifiedName(), see)
	}
	var invalid *pflag.InvalidValueError
	var number *strconv.NumError
	if errors.As(err, &invalid) {
		flag := invalid.GetFlag()
		takes := map[string]string{"int": "a whole number", "uint64": "a whole number from 0 on", "float64": "a number",
			"duration": "a time such as 30s or 5m", "bool": "true or false"}[flag.Value.Type()]
		if takes != "" && (errors.As(err, &number) || flag.Value.Type() == "duration") {
			return trouble.New(trouble.Usage, "--%s takes %s, not %q; %s", flag.Name, takes, invalid.GetValue(), see)
		}
		return trouble.New(trouble.Usage, "--%s %q: %w; %s", flag.Name, invalid.GetValue(), invalid.Unwrap(), see)
	}
	var bare *pflag.ValueRequiredError
	if errors.As(err, &bare) {
		return trouble.New(trouble.Usage, "--%s needs a value; %s", bare.GetSpecifiedName(), see)
	}
	return trouble.New(trouble.Usage, "%w; %s", err, see)
}
