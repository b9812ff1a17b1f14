package cli

import (
	"bufio"
	"bytes"
	"context"
	"errors"
	"fmt"
	"io"
	"os"
	"strconv"
	"strings"

	"github.com/charmbracelet/colorprofile"

	"tovrel/render"
	"tovrel/trouble"
	"tovrel/tui"
	"tovrel/view"
)

// desk is a review as the full screen sees it.
type desk struct {
	*reviewing
	ctx   context.Context
	last  proposed // what was proposed last, and about which entry
	about int
	taken []int // entries of the decisions so far
}

// Title names the run.
func (d *desk) Title() string { return fmt.Sprintf("Review of %s", view.RunName(d.run.Run)) }

// Entries are the items.
func (d *desk) Entries() []tui.Entry {
	out := make([]tui.Entry, len(d.items))
	for i, item := range d.items {
		out[i] = tui.Entry{Name: render.Plain(item.Question), Word: string(item.Attempt.Verdict),
			Mark: render.Mark(item.Attempt.Verdict, d.a.look()), IsNew: item.IsNew}
	}
	return out
}

// Detail is an item as `tovrel show` shows it.
func (d *desk) Detail(entry, width int) string {
	screen, err := d.detail(entry)
	if err != nil {
		return render.Plain(err.Error())
	}
	var b bytes.Buffer
	look := d.a.look()
	look.Width, look.Color = width, true
	if err := render.Screen(&b, screen, render.Table, look); err != nil {
		return render.Plain(err.Error())
	}
	return b.String()
}

// Choices are what may be decided about an item.
func (d *desk) Choices(entry int) []tui.Choice {
	var out []tui.Choice
	for _, c := range d.items[entry].Choices() {
		out = append(out, tui.Choice(c))
	}
	return out
}

// Propose makes what a decision would write.
func (d *desk) Propose(entry int, kind, words string) (string, error) {
	p, err := d.propose(d.ctx, entry, kind, words)
	d.last, d.about = p, entry
	return render.Plain(p.diff), err
}

// Write writes what was proposed last.
func (d *desk) Write() error {
	if err := d.write(d.last); err != nil {
		return err
	}
	d.taken = append(d.taken, d.about)
	return nil
}

// TakeBack undoes the last decision.
func (d *desk) TakeBack() (int, error) {
	had, err := d.takeBack()
	if err != nil || !had {
		return -1, err
	}
	entry := d.taken[len(d.taken)-1]
	d.taken = d.taken[:len(d.taken)-1]
	return entry, nil
}

// Query is the query of an item's answer.
func (d *desk) Query(entry int) string { return d.items[entry].Attempt.Query }

// Place is where an item's question stands.
func (d *desk) Place(entry int) (string, int, error) { return d.place(entry) }

// fullScreen goes through a review on the whole terminal.
func (r *reviewing) fullScreen(ctx context.Context) error {
	profile := colorprofile.Detect(os.Stdout, os.Environ())
	if r.a.noColor || r.a.NoColor {
		profile = colorprofile.ASCII
	}
	paint := func(s string) string {
		var b bytes.Buffer
		_, _ = (&colorprofile.Writer{Forward: &b, Profile: profile}).WriteString(s) // a buffer never errs
		return b.String()
	}
	n, err := tui.Review(ctx, &desk{reviewing: r, ctx: ctx}, tui.Options{In: r.a.In, Out: r.a.Out, Unicode: r.a.look().Unicode,
		Paint: paint, Editor: os.Getenv("EDITOR")})
	if err != nil {
		return trouble.New(trouble.Unreachable, "the review ended: %w", err)
	}
	r.sayDecided(n)
	return nil
}

// sayDecided says what to do after decisions were taken.
func (r *reviewing) sayDecided(n int) {
	if n == 0 {
		r.a.say("No decision was taken.")
		return
	}
	r.a.say("Decisions taken: %d. Score the run again with `tovrel rescore %s`.", n, r.name)
}

// lineByLine goes through a review in plain lines: one question, what may be decided, an answer.
func (r *reviewing) lineByLine(ctx context.Context) error {
	in := bufio.NewReader(r.a.In)
	taken := 0
	for i := 0; i < len(r.items); i++ {
		fmt.Fprintf(r.a.Out, "Question %d of %d\n\n", i+1, len(r.items))
		screen, err := r.detail(i)
		if err != nil {
			return err
		}
		if err := render.Screen(r.a.Out, screen, render.Table, r.a.look()); err != nil {
			return err
		}
		what, err := r.decideLine(ctx, in, i)
		if errors.Is(err, io.EOF) {
			break
		}
		if err != nil {
			r.a.tell("tovrel: %s", err)
			i-- // the same one again
			continue
		}
		switch what {
		case "back":
			i = max(-1, i-2)
		case "undone":
			taken--
			i--
		case "written":
			taken++
		}
	}
	r.sayDecided(taken)
	return nil
}

// decideLine asks what is decided about an item, and writes it when its diff was agreed to. io.EOF ends the review.
func (r *reviewing) decideLine(ctx context.Context, in *bufio.Reader, i int) (what string, err error) {
	choices := r.items[i].Choices()
	fmt.Fprintln(r.a.Out, "\nWhat do you decide?")
	for n, c := range choices {
		fmt.Fprintf(r.a.Out, "  %d  %s\n", n+1, c.Words)
	}
	fmt.Fprint(r.a.Out, "A number, Enter for the next question, b for the one before, u to take the last decision back, q to end: ")
	answer, err := readAnswer(in)
	if err != nil {
		return "", err
	}
	switch answer {
	case "":
		return "", nil
	case "q":
		return "", io.EOF
	case "b":
		return "back", nil
	case "u":
		had, err := r.takeBack()
		if err == nil && !had {
			err = trouble.New(trouble.Usage, "there is no decision of this review to take back")
		}
		return "undone", err
	}
	n, err := strconv.Atoi(answer)
	if err != nil || n < 1 || n > len(choices) {
		return "", trouble.New(trouble.Usage, "%q is none of the answers", answer)
	}
	c, words := choices[n-1], ""
	if c.Asks != "" {
		fmt.Fprintf(r.a.Out, "%s: ", c.Asks)
		if words, err = readAnswer(in); err != nil {
			return "", err
		}
	}
	p, err := r.propose(ctx, i, c.Decision, words)
	if err != nil {
		return "", err
	}
	fmt.Fprintf(r.a.Out, "\nThis would be written:\n\n%s\nWrite it? [y/N] ", render.Plain(p.diff))
	if answer, err = readAnswer(in); err != nil || !strings.EqualFold(answer, "y") && !strings.EqualFold(answer, "yes") {
		fmt.Fprintln(r.a.Out, "Nothing was written.")
		return "", err
	}
	fmt.Fprintln(r.a.Out, "Written.")
	return "written", r.write(p)
}

// readAnswer reads a line.
func readAnswer(in *bufio.Reader) (string, error) {
	line, err := in.ReadString('\n')
	if err != nil && line == "" {
		return "", io.EOF
	}
	return strings.TrimSpace(line), nil
}
