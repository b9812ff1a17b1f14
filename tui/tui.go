// Package tui is the full-screen review of a run: a list of questions, what is known of each, and a person's decisions. It shows and asks;
// what a decision writes is made by its Desk.
package tui

import (
	"context"
	"fmt"
	"io"
	"os"
	"os/exec"
	"strings"

	"github.com/aymanbagabas/go-osc52/v2"
	"github.com/charmbracelet/bubbles/textinput"
	tea "github.com/charmbracelet/bubbletea"
)

// Entry is a line of the list.
type Entry struct {
	Name  string
	Mark  string // of its verdict
	Word  string // its verdict
	IsNew bool
}

// Choice is what may be decided about an entry.
type Choice struct {
	Decision string
	Key      string
	Words    string
	Asks     string // what else is asked for; "" for nothing
	Needed   bool
}

// Desk knows the entries, and makes and writes decisions.
type Desk interface {
	Title() string
	Entries() []Entry
	// Detail is all that is shown of an entry, laid out for a width, with colours as escape sequences.
	Detail(entry, width int) string
	Choices(entry int) []Choice
	// Propose makes what a decision would write, as a diff; nothing is written.
	Propose(entry int, decision, words string) (diff string, err error)
	// Write writes what was proposed last.
	Write() error
	// TakeBack undoes the last decision, and gives the entry that it was about; -1 where there is none.
	TakeBack() (entry int, err error)
	// Query is the entry's query; "" for none.
	Query(entry int) string
	// Place is where the entry's question stands.
	Place(entry int) (file string, line int, err error)
}

// mode is what the keys are for.
type mode int

const (
	looking   mode = iota
	filtering      // words are typed that narrow the list
	choosing       // a decision is chosen
	asking         // words are typed that belong to it
	proposing      // its diff is shown
	working        // something is made, which takes a while
)

// model is the state of the screen.
type model struct {
	desk          Desk
	entries       []Entry
	decided       map[int]string // what was decided, by entry
	visible       []int          // the entries that the filter leaves
	at            int            // among the visible ones
	offset        int            // of the list
	scroll        int            // of what is beside it
	width, height int
	mode          mode
	filter, words textinput.Model
	choice        int // among the choices
	proposal      string
	says          string // the last thing that happened
	look          look
	editor        string
	lines         []string // of what is beside the list
	lined         [2]int   // of which entry and width
}

// Options of a review.
type Options struct {
	In      io.Reader
	Out     io.Writer
	Unicode bool
	Paint   func(string) string // turns colours into those that the terminal has
	Editor  string              // the command that opens a file; "" for none
}

// Review shows the screen until the person leaves it, and tells how many decisions were taken.
// It ends with the context too: a terminal that is gone ends the program.
func Review(ctx context.Context, desk Desk, o Options) (decisions int, err error) {
	m := newModel(desk, o)
	done, err := tea.NewProgram(m, tea.WithContext(ctx), tea.WithInput(o.In), tea.WithOutput(o.Out), tea.WithAltScreen()).Run()
	if last, is := done.(*model); is {
		decisions = len(last.decided)
	}
	return decisions, err
}

func newModel(desk Desk, o Options) *model {
	m := &model{desk: desk, entries: desk.Entries(), decided: map[int]string{}, width: 80, height: 24, lined: [2]int{-1, -1},
		look: look{o.Unicode, o.Paint}, editor: o.Editor, filter: textinput.New(), words: textinput.New()}
	m.filter.Prompt, m.words.Prompt = "", ""
	m.narrow()
	return m
}

// Init begins.
func (m *model) Init() tea.Cmd { return nil }

// proposedMsg says what a decision would write, wroteMsg that it is written.
type (
	proposedMsg struct {
		diff string
		err  error
	}
	editedMsg struct{ err error }
)

// Update takes a key, a new size, or what was made meanwhile.
func (m *model) Update(msg tea.Msg) (tea.Model, tea.Cmd) {
	switch msg := msg.(type) {
	case tea.WindowSizeMsg:
		m.width, m.height = msg.Width, msg.Height
		m.scroll = 0
	case proposedMsg:
		m.mode, m.proposal, m.scroll = proposing, msg.diff, 0
		if msg.err != nil {
			m.mode, m.says = looking, msg.err.Error()
		}
	case editedMsg:
		m.says = "Back from the editor."
		if msg.err != nil {
			m.says = "The editor could not be run: " + msg.err.Error()
		}
	case tea.KeyMsg:
		if msg.Type == tea.KeyCtrlC {
			return m, tea.Quit
		}
		return m, m.key(msg)
	}
	return m, nil
}

func (m *model) key(k tea.KeyMsg) tea.Cmd {
	switch m.mode {
	case filtering:
		return m.filterKey(k)
	case choosing:
		return m.choiceKey(k)
	case asking:
		return m.askKey(k)
	case proposing:
		return m.proposalKey(k)
	case working:
		return nil
	}
	return m.lookKey(k)
}

// lookKey is a key while nothing is asked.
func (m *model) lookKey(k tea.KeyMsg) tea.Cmd {
	m.says = ""
	if step := m.steps()[k.String()]; step != 0 {
		m.goTo(m.at + step)
		return nil
	}
	if by := m.scrolls()[k.String()]; by != 0 {
		m.scrollBy(by)
		return nil
	}
	switch k.String() {
	case "q":
		return tea.Quit
	case "/":
		m.mode = filtering
		return m.filter.Focus()
	case "enter":
		m.mode, m.choice = choosing, 0
		if len(m.choices()) == 0 {
			m.mode, m.says = looking, "There is nothing to decide about this one."
		}
		return nil
	case "u":
		m.takeBack()
	case "c":
		return m.copyQuery()
	case "o":
		return m.edit()
	default:
		for i, c := range m.choices() {
			if c.Key == k.String() {
				return m.choose(i)
			}
		}
	}
	return nil
}

func (m *model) steps() map[string]int {
	return map[string]int{"up": -1, "down": 1, "home": -len(m.entries), "end": len(m.entries)}
}

func (m *model) scrolls() map[string]int {
	page := max(1, m.room()-2)
	return map[string]int{"pgdown": page, "pgup": -page, " ": page, "right": 3, "left": -3}
}

func (m *model) filterKey(k tea.KeyMsg) tea.Cmd {
	switch k.Type {
	case tea.KeyEsc:
		m.filter.SetValue("")
		fallthrough
	case tea.KeyEnter:
		m.mode = looking
		m.filter.Blur()
		m.narrow()
		return nil
	}
	var cmd tea.Cmd
	m.filter, cmd = m.filter.Update(k)
	m.narrow()
	return cmd
}

func (m *model) choiceKey(k tea.KeyMsg) tea.Cmd {
	switch k.String() {
	case "esc", "q":
		m.mode = looking
	case "up":
		m.choice = max(0, m.choice-1)
	case "down":
		m.choice = min(len(m.choices())-1, m.choice+1)
	case "enter":
		return m.choose(m.choice)
	default:
		for i, c := range m.choices() {
			if c.Key == k.String() {
				return m.choose(i)
			}
		}
	}
	return nil
}

// choose takes up a choice: its words are asked for, or it is proposed at once.
func (m *model) choose(i int) tea.Cmd {
	m.choice = i
	c := m.choices()[i]
	if c.Asks == "" {
		return m.propose("")
	}
	m.mode = asking
	m.says = ""
	m.words.SetValue("")
	return m.words.Focus()
}

func (m *model) askKey(k tea.KeyMsg) tea.Cmd {
	switch k.Type {
	case tea.KeyEsc:
		m.mode = looking
		m.words.Blur()
		return nil
	case tea.KeyEnter:
		words := strings.TrimSpace(m.words.Value())
		if words == "" && m.choices()[m.choice].Needed {
			m.says = "It needs " + m.choices()[m.choice].Asks + "."
			return nil
		}
		m.words.Blur()
		return m.propose(words)
	}
	var cmd tea.Cmd
	m.words, cmd = m.words.Update(k)
	return cmd
}

func (m *model) propose(words string) tea.Cmd {
	m.mode = working
	entry, kind := m.entry(), m.choices()[m.choice].Decision
	return func() tea.Msg {
		diff, err := m.desk.Propose(entry, kind, words)
		return proposedMsg{diff, err}
	}
}

func (m *model) proposalKey(k tea.KeyMsg) tea.Cmd {
	if by := m.scrolls()[k.String()]; by != 0 {
		m.scrollBy(by)
		return nil
	}
	switch k.String() {
	case "esc", "n", "q":
		m.mode, m.says, m.scroll = looking, "Nothing was written.", 0
	case "enter", "w":
		m.mode, m.scroll = looking, 0
		if err := m.desk.Write(); err != nil {
			m.says = err.Error()
			return nil
		}
		m.decided[m.entry()] = m.choices()[m.choice].Decision
		m.says = "Written; u undoes it."
		m.next()
	}
	return nil
}

// next goes to the next entry that is not decided.
func (m *model) next() {
	for at := m.at + 1; at < len(m.visible); at++ {
		if m.decided[m.visible[at]] == "" {
			m.goTo(at)
			return
		}
	}
}

func (m *model) takeBack() {
	entry, err := m.desk.TakeBack()
	switch {
	case err != nil:
		m.says = err.Error()
	case entry < 0:
		m.says = "There is no decision of this review to take back."
	default:
		delete(m.decided, entry)
		m.says = "Taken back: " + m.entries[entry].Name + "."
		for at, i := range m.visible {
			if i == entry {
				m.goTo(at)
			}
		}
	}
}

func (m *model) copyQuery() tea.Cmd {
	query := ""
	if m.entry() >= 0 {
		query = m.desk.Query(m.entry())
	}
	if query == "" {
		m.says = "It has no query."
		return nil
	}
	m.says = "The query is copied, where the terminal lets programs copy."
	return func() tea.Msg {
		_, _ = osc52.New(query).WriteTo(os.Stderr) // a terminal that cannot copy ignores it
		return nil
	}
}

func (m *model) edit() tea.Cmd {
	if m.entry() < 0 {
		return nil
	}
	file, line, err := m.desk.Place(m.entry())
	switch {
	case err != nil:
		m.says = err.Error()
		return nil
	case m.editor == "":
		m.says = fmt.Sprintf("It stands in %s, line %d; set EDITOR to open it from here.", file, line)
		return nil
	}
	words := append(strings.Fields(m.editor), fmt.Sprintf("+%d", line), file)
	editor := exec.Command(words[0], words[1:]...) //nolint:gosec // the user's own
	return tea.ExecProcess(editor, func(err error) tea.Msg { return editedMsg{err} })
}

// narrow leaves the entries that have all words of the filter.
func (m *model) narrow() {
	before := m.entry()
	m.visible = nil
	words := strings.Fields(strings.ToLower(m.filter.Value()))
	for i, e := range m.entries {
		text := strings.ToLower(e.Name + " " + e.Word)
		if e.IsNew {
			text += " new"
		}
		has := true
		for _, w := range words {
			has = has && strings.Contains(text, w)
		}
		if has {
			m.visible = append(m.visible, i)
		}
	}
	m.at = 0
	for at, i := range m.visible {
		if i == before {
			m.at = at
		}
	}
	m.scroll = 0
}

// entry is the entry that is looked at; -1 where the filter leaves none.
func (m *model) entry() int {
	if m.at < 0 || m.at >= len(m.visible) {
		return -1
	}
	return m.visible[m.at]
}

func (m *model) choices() []Choice {
	if m.entry() < 0 {
		return nil
	}
	return m.desk.Choices(m.entry())
}

func (m *model) goTo(at int) {
	m.at, m.scroll = max(0, min(at, len(m.visible)-1)), 0
}

func (m *model) scrollBy(by int) {
	m.scroll = max(0, min(m.scroll+by, len(m.beside())-m.room()))
}
