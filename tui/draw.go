package tui

import (
	"fmt"
	"strings"

	"github.com/charmbracelet/x/ansi"
)

// look is how the terminal shows things.
type look struct {
	unicode bool
	paint   func(string) string
}

const (
	faint   = "\x1b[2m"
	strong  = "\x1b[1m"
	reverse = "\x1b[7m"
	added   = "\x1b[38;2;0;114;178m"
	removed = "\x1b[38;2;213;94;0m"
	plain   = "\x1b[0m"
)

// listWidth is the width of the list, room the height of the list and of what is beside it.
func (m *model) listWidth() int { return max(20, min(44, m.width*35/100)) }

func (m *model) room() int { return max(1, m.height-4) }

// besideWidth is the width of what is beside the list.
func (m *model) besideWidth() int { return max(20, m.width-m.listWidth()-3) }

// View draws the screen.
func (m *model) View() string {
	bar := " │ "
	if !m.look.unicode {
		bar = " | "
	}
	left, right := m.list(), m.beside()
	lines := []string{m.head(), strings.Repeat(map[bool]string{true: "─", false: "-"}[m.look.unicode], m.width)}
	for i := range m.room() {
		l, r := "", ""
		if i < len(left) {
			l = left[i]
		}
		if at := i + m.scroll; at < len(right) {
			r = right[at]
		}
		lines = append(lines, padded(l, m.listWidth())+bar+ansi.Truncate(r, m.besideWidth(), m.more()))
	}
	for _, l := range m.foot() {
		lines = append(lines, ansi.Truncate(l, m.width, m.more()))
	}
	return m.look.paint(strings.Join(lines, "\n"))
}

func (m *model) more() string {
	if m.look.unicode {
		return "…"
	}
	return ">"
}

// padded is a text of just so many columns.
func padded(s string, width int) string {
	return s + strings.Repeat(" ", max(0, width-ansi.StringWidth(s)))
}

func (m *model) head() string {
	title := fmt.Sprintf("%s%s%s  %d of %d decided", strong, m.desk.Title(), plain, len(m.decided), len(m.entries))
	if f := m.filter.Value(); f != "" || m.mode == filtering {
		title += fmt.Sprintf("  filter: %s", m.filter.View())
	}
	return ansi.Truncate(title, m.width, m.more())
}

// list are the lines of the list, as far as there is room.
func (m *model) list() []string {
	if len(m.visible) == 0 {
		return []string{faint + "nothing to look at" + plain}
	}
	room := m.room()
	m.offset = max(min(m.offset, m.at), m.at-room+1, 0)
	var lines []string
	for at := m.offset; at < min(m.offset+room, len(m.visible)); at++ {
		i := m.visible[at]
		e := m.entries[i]
		mark := e.Mark
		if m.decided[i] != "" {
			mark = map[bool]string{true: "✓", false: "+"}[m.look.unicode]
		}
		note := ""
		if e.IsNew {
			note = " new"
		}
		name := ansi.Truncate(e.Name, m.listWidth()-ansi.StringWidth(mark)-1-len(note), m.more())
		line := padded(mark+" "+name+note, m.listWidth())
		if at == m.at {
			line = reverse + line + plain
		}
		lines = append(lines, line)
	}
	return lines
}

// beside are the lines beside the list: what is known of the entry, or what a decision would write.
func (m *model) beside() []string {
	if m.mode == proposing {
		return m.diff()
	}
	entry := m.entry()
	if entry < 0 {
		return nil
	}
	if m.lined != [2]int{entry, m.besideWidth()} {
		m.lines, m.lined = strings.Split(m.desk.Detail(entry, m.besideWidth()), "\n"), [2]int{entry, m.besideWidth()}
	}
	return m.lines
}

// diff colours what a decision would write.
func (m *model) diff() []string {
	lines := []string{strong + "This would be written:" + plain, ""}
	for l := range strings.SplitSeq(strings.TrimRight(m.proposal, "\n"), "\n") {
		for _, l := range strings.Split(ansi.Hardwrap(l, m.besideWidth(), true), "\n") {
			switch {
			case strings.HasPrefix(l, "+"):
				l = added + l + plain
			case strings.HasPrefix(l, "-"):
				l = removed + l + plain
			}
			lines = append(lines, l)
		}
	}
	return lines
}

// foot is what the keys do, and what happened last.
func (m *model) foot() []string {
	switch m.mode {
	case filtering:
		return []string{"Type words to narrow the list: names, verdicts, new.", faint + "Enter keeps the filter, Esc drops it" + plain}
	case choosing:
		var parts []string
		for i, c := range m.choices() {
			part := c.Key + " " + c.Words
			if i == m.choice {
				part = reverse + part + plain
			}
			parts = append(parts, part)
		}
		return []string{strings.Join(parts, "  "), faint + "Arrows choose, Enter takes it, Esc goes back" + plain}
	case asking:
		c := m.choices()[m.choice]
		return []string{strong + c.Words + plain + ": " + c.Asks + "? " + m.words.View(),
			strings.TrimSpace(m.says + " Enter goes on, Esc goes back.")}
	case proposing:
		return []string{strong + "Enter writes it" + plain + ", Esc goes back; nothing is written yet", faint + "PgUp PgDn scroll" + plain}
	case working:
		return []string{"One moment", ""}
	}
	var keys []string
	for _, c := range m.choices() {
		keys = append(keys, c.Key+" "+c.Words)
	}
	keys = append(keys, "Enter choose")
	rest := "↑ ↓ question  PgUp PgDn scroll  / filter  c copy query  o open  u undo  q quit"
	if m.says != "" {
		rest = strong + strings.ReplaceAll(m.says, "\n", " ") + plain
	}
	if !m.look.unicode {
		rest = strings.NewReplacer("↑ ↓", "arrows").Replace(rest)
	}
	return []string{strings.Join(keys, "  "), rest}
}
