package pattern

import (
	"regexp"
	"strings"
	"sync"
	"testing"

	"github.com/stretchr/testify/assert"
)

// TestLikeRegexp: every method gives what the standard library's gives.
func TestLikeRegexp(t *testing.T) {
	for _, text := range []string{`(\d+)-(\d+)`, `(?i)a+`, `^$`, `x(y)?`} {
		p, re := Of(text), regexp.MustCompile(text)
		for _, s := range []string{"", "12-34, 5-6 and 7-8", "AaBa", "xy x xyx", "none"} {
			assert.Equal(t, re.MatchString(s), p.MatchString(s))
			assert.Equal(t, re.FindString(s), p.FindString(s))
			assert.Equal(t, re.FindAllString(s, 2), p.FindAllString(s, 2))
			assert.Equal(t, re.FindAllStringIndex(s, -1), p.FindAllStringIndex(s, -1))
			assert.Equal(t, re.FindStringSubmatch(s), p.FindStringSubmatch(s))
			assert.Equal(t, re.FindStringSubmatchIndex(s), p.FindStringSubmatchIndex(s))
			assert.Equal(t, re.FindAllStringSubmatch(s, 1), p.FindAllStringSubmatch(s, 1))
			assert.Equal(t, re.ReplaceAllString(s, "<$1>"), p.ReplaceAllString(s, "<$1>"))
			assert.Equal(t, re.ReplaceAllStringFunc(s, strings.ToUpper), p.ReplaceAllStringFunc(s, strings.ToUpper))
			assert.Equal(t, re.Split(s, 2), p.Split(s, 2))
		}
		assert.Equal(t, text, p.String())
	}
}

// TestFirstUse: a pattern is compiled when it is used, once, by however many at a time; one that does not compile is told.
func TestFirstUse(t *testing.T) {
	p, broken := Of(`\bword\b`), Of(`(`)
	assert.Nil(t, p.re)
	var all sync.WaitGroup
	for range 8 {
		all.Go(func() { assert.True(t, p.MatchString("a word")) })
	}
	all.Wait()
	assert.NotNil(t, p.re)
	assert.Equal(t, []string{"("}, Broken())
	assert.Panics(t, func() { broken.MatchString("") })
}
