package main_test

import (
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
)

// folded is a screen as it differs from a narrower one: lines that follow one another there too are written as "= 3 to 9", the numbers
// that they have there. With the narrower screen it says every line, and it can be read beside it.
func folded(narrower, screen string) string {
	if narrower == "" {
		return screen
	}
	there, lines := strings.Split(narrower, "\n"), strings.Split(screen, "\n")
	var out []string
	for i := 0; i < len(lines); {
		at, n := longestRun(there, lines[i:])
		if n < 2 {
			at, n = 0, 1
			out = append(out, lines[i])
		} else {
			out = append(out, fmt.Sprintf("= %d to %d", at+1, at+n))
		}
		i += n
	}
	return strings.Join(out, "\n")
}

// longestRun is where the most lines at the beginning of some stand together among others, and how many they are.
func longestRun(among, of []string) (at, most int) {
	for k := range among {
		n := 0
		for n < len(of) && k+n < len(among) && among[k+n] == of[n] {
			n++
		}
		if n > most {
			at, most = k, n
		}
	}
	return at, most
}

func TestFolded(t *testing.T) {
	assert.Equal(t, "a\nb", folded("", "a\nb"))
	assert.Equal(t, "= 1 to 3", folded("a\nb\nc", "a\nb\nc"))
	assert.Equal(t, "x\n= 2 to 3\na", folded("a\nb\nc", "x\nb\nc\na"))
	assert.Equal(t, "= 2 to 3\n= 1 to 2", folded("a\nb\nc", "b\nc\na\nb"), "another order is another text")
	assert.NotEqual(t, folded("a\nb\nc", "a\nb\nc"), folded("a\nb\nc", "a\nb"), "a line that is gone")
}
