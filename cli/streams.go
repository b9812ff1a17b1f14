package cli

import (
	"os"
	"strconv"
	"strings"

	"golang.org/x/term"
)

// narrowest is the fewest columns that COLUMNS may ask for.
const narrowest = 20

// System gives the process's own streams.
func System() Streams {
	s := Streams{In: os.Stdin, Out: os.Stdout, Err: os.Stderr, NoColor: os.Getenv("NO_COLOR") != ""}
	s.Terminal = term.IsTerminal(int(os.Stdout.Fd()))
	s.Asks = term.IsTerminal(int(os.Stdin.Fd())) && term.IsTerminal(int(os.Stderr.Fd()))
	s.Progress = term.IsTerminal(int(os.Stderr.Fd()))
	if s.Terminal {
		s.Width = 80
		if width, _, err := term.GetSize(int(os.Stdout.Fd())); err == nil && width > 0 {
			s.Width = width
		}
	}
	if width, err := strconv.Atoi(os.Getenv("COLUMNS")); err == nil && width >= narrowest { // who exports it means it, for a pipe as well
		s.Width = width
	}
	for _, name := range []string{"LC_ALL", "LC_CTYPE", "LANG"} {
		if v := os.Getenv(name); v != "" {
			s.Unicode = strings.Contains(strings.ToLower(strings.ReplaceAll(v, "-", "")), "utf8")
			break
		}
	}
	return s
}
