package tui

import (
	"errors"
	"fmt"
	"strings"
	"testing"

	tea "github.com/charmbracelet/bubbletea"
	"github.com/charmbracelet/x/ansi"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

// counter is a desk that notes what it is asked for.
type counter struct {
	entries  []Entry
	proposed []string
	written  []string
	fails    error
}

func newCounter(n int) *counter {
	c := &counter{}
	for i := range n {
		c.entries = append(c.entries, Entry{Name: fmt.Sprintf("set/question-%d", i), Mark: "✕",
			Word: []string{"wrong", "lucky"}[i%2], IsNew: i == 0})
	}
	return c
}

func (c *counter) Title() string    { return "Review of a run" }
func (c *counter) Entries() []Entry { return c.entries }
func (c *counter) Detail(entry, width int) string {
	lines := []string{fmt.Sprintf("detail of %d", entry)}
	for i := range 50 {
		lines = append(lines, strings.Repeat("x", width+5)+fmt.Sprint(i))
	}
	return strings.Join(lines, "\n")
}

func (c *counter) Choices(entry int) []Choice {
	if entry == 2 {
		return nil
	}
	return []Choice{{"reading", "r", "another reading", "its title", false}, {"expected", "e", "the expected answer", "", false},
		{"known-wrong", "k", "known wrong", "the reason", true}}
}

func (c *counter) Propose(entry int, decision, words string) (string, error) {
	if c.fails != nil {
		return "", c.fails
	}
	c.proposed = append(c.proposed, fmt.Sprintf("%d %s %s", entry, decision, words))
	return "+added\n-removed\n same", nil
}

func (c *counter) Write() error {
	if c.fails != nil {
		return c.fails
	}
	c.written = append(c.written, c.proposed[len(c.proposed)-1])
	return nil
}

func (c *counter) TakeBack() (int, error) {
	if c.fails != nil {
		return -1, c.fails
	}
	if len(c.written) == 0 {
		return -1, nil
	}
	entry := 0
	_, _ = fmt.Sscan(c.written[len(c.written)-1], &entry)
	c.written = c.written[:len(c.written)-1]
	return entry, nil
}

func (c *counter) Query(int) string               { return "" }
func (c *counter) Place(int) (string, int, error) { return "golden/a.md", 7, nil }

func opened(c *counter) *model {
	return newModel(c, Options{Unicode: true, Paint: func(s string) string { return s }})
}

// press presses keys; what is made meanwhile is waited for.
func press(m *model, keys ...string) {
	special := map[string]tea.KeyType{"enter": tea.KeyEnter, "esc": tea.KeyEsc, "up": tea.KeyUp, "down": tea.KeyDown, "home": tea.KeyHome,
		"end": tea.KeyEnd, "pgdown": tea.KeyPgDown, "pgup": tea.KeyPgUp}
	for _, k := range keys {
		msg := tea.KeyMsg{Type: tea.KeyRunes, Runes: []rune(k)}
		if kind, is := special[k]; is {
			msg = tea.KeyMsg{Type: kind}
		}
		_, cmd := m.Update(msg)
		if m.mode == working {
			m.Update(cmd())
		}
	}
}

func shown(m *model) string { return ansi.Strip(m.View()) }

func TestListFollowsTheKeys(t *testing.T) {
	m := opened(newCounter(100))
	assert.Equal(t, 0, m.entry())
	press(m, "down", "down")
	assert.Contains(t, shown(m), "detail of 2")
	press(m, "end")
	assert.Equal(t, 99, m.entry())
	assert.Contains(t, shown(m), "set/question-99", "the list scrolls along")
	assert.NotContains(t, shown(m), "set/question-0 ")
	press(m, "down")
	assert.Equal(t, 99, m.entry())
	press(m, "home", "up")
	assert.Equal(t, 0, m.entry())
	assert.Contains(t, shown(m), "set/question-0 new")
}

func TestDetailScrolls(t *testing.T) {
	m := opened(newCounter(3))
	m.Update(tea.WindowSizeMsg{Width: 100, Height: 20})
	press(m, "pgdown")
	assert.Equal(t, m.room()-2, m.scroll)
	assert.NotContains(t, shown(m), "detail of 0")
	press(m, "pgdown", "pgdown", "pgdown", "pgdown", "pgdown")
	assert.Equal(t, 51-m.room(), m.scroll, "not beyond the end")
	press(m, "pgup", "pgup", "pgup", "pgup", "pgup", "pgup")
	assert.Equal(t, 0, m.scroll)
	press(m, "pgdown", "down")
	assert.Equal(t, 0, m.scroll, "another question begins at its top")
}

func TestFilter(t *testing.T) {
	m := opened(newCounter(20))
	press(m, "/", "l", "u", "c", "k", "y")
	assert.Len(t, m.visible, 10)
	assert.Equal(t, 1, m.entry())
	press(m, "enter", "down")
	assert.Equal(t, 3, m.entry())
	press(m, "/", " ", "1", "3", "enter")
	assert.Equal(t, []int{13}, m.visible)
	press(m, "/", "esc")
	assert.Len(t, m.visible, 20)
	assert.Equal(t, 13, m.entry(), "it stays where it was")
	press(m, "/", "n", "e", "w", "enter")
	assert.Equal(t, []int{0}, m.visible)
	press(m, "/", "z", "z", "enter", "c", "o", "enter", "r", "down")
	assert.Equal(t, -1, m.entry())
	assert.Contains(t, shown(m), "nothing to look at")
}

func TestDecide(t *testing.T) {
	c := newCounter(5)
	m := opened(c)
	press(m, "e")
	assert.Equal(t, proposing, m.mode)
	assert.Contains(t, shown(m), "This would be written")
	press(m, "esc")
	assert.Empty(t, c.written)
	assert.Contains(t, shown(m), "Nothing was written.")
	press(m, "e", "enter")
	assert.Equal(t, []string{"0 expected "}, c.written)
	assert.Equal(t, 1, m.entry(), "it goes to the next")
	assert.Contains(t, shown(m), "1 of 5 decided")
	press(m, "k", "enter")
	assert.Contains(t, shown(m), "It needs the reason.")
	press(m, "w", "h", "y", "enter", "enter")
	assert.Equal(t, "1 known-wrong why", c.written[1])
	press(m, "enter")
	assert.Contains(t, shown(m), "There is nothing to decide about this one.")
	press(m, "down", "enter", "down", "up", "enter", "enter", "enter")
	assert.Equal(t, "3 reading ", c.written[2])
	press(m, "u")
	assert.Equal(t, 3, m.entry())
	assert.Contains(t, shown(m), "2 of 5 decided")
	press(m, "home", "e", "enter")
	assert.Equal(t, 2, m.entry(), "decided ones are passed over")
}

func TestWhatFails(t *testing.T) {
	c := newCounter(3)
	m := opened(c)
	press(m, "u")
	assert.Contains(t, shown(m), "There is no decision of this review to take back.")
	press(m, "e")
	c.fails = errors.New("the file has changed")
	press(m, "enter")
	assert.Contains(t, shown(m), "the file has changed")
	assert.Contains(t, shown(m), "0 of 3 decided")
	press(m, "e")
	assert.Equal(t, looking, m.mode)
	assert.Contains(t, shown(m), "the file has changed")
	press(m, "u")
	assert.Contains(t, shown(m), "the file has changed")
	press(m, "o")
	assert.Contains(t, shown(m), "golden/a.md, line 7; set EDITOR")
	press(m, "c")
	assert.Contains(t, shown(m), "It has no query.")
	press(m, "k", "esc")
	assert.Equal(t, looking, m.mode)
	_, cmd := m.Update(tea.KeyMsg{Type: tea.KeyRunes, Runes: []rune("q")})
	require.NotNil(t, cmd)
	assert.IsType(t, tea.QuitMsg{}, cmd())
}

// Whatever is pressed at whatever size, the screen has just its lines, none wider than it is, and a place in its list.
func TestScreenFits(t *testing.T) {
	keys := []string{"up", "down", "home", "end", "pgdown", "pgup", "enter", "esc", "/", "r", "e", "k", "u", "c", "o", "a", "1", " "}
	rapid.Check(t, func(t *rapid.T) {
		m := newModel(newCounter(rapid.IntRange(0, 40).Draw(t, "entries")), Options{Unicode: rapid.Bool().Draw(t, "unicode"),
			Paint: func(s string) string { return s }})
		for range rapid.IntRange(0, 30).Draw(t, "steps") {
			if rapid.IntRange(0, 9).Draw(t, "what") == 0 {
				m.Update(tea.WindowSizeMsg{Width: rapid.IntRange(50, 200).Draw(t, "width"),
					Height: rapid.IntRange(8, 60).Draw(t, "height")})
			}
			press(m, rapid.SampledFrom(keys).Draw(t, "key"))
			lines := strings.Split(m.View(), "\n")
			if len(lines) != m.height {
				t.Fatalf("%d lines in a terminal of %d", len(lines), m.height)
			}
			for _, l := range lines {
				if w := ansi.StringWidth(l); w > m.width {
					t.Fatalf("a line of %d columns in a terminal of %d: %q", w, m.width, l)
				}
			}
			if len(m.visible) > 0 && m.entry() < 0 || m.scroll < 0 {
				t.Fatalf("at %d of %d, scrolled by %d", m.at, len(m.visible), m.scroll)
			}
		}
	})
}
