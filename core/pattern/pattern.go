// Package pattern holds regular expressions that are compiled when they are first used: the program has some two hundred, and most of its
// starts use none of them.
package pattern

import (
	"regexp"
	"sync"
)

// Pattern is a regular expression. Its methods are those of regexp.Regexp.
type Pattern struct {
	text string
	made sync.Once
	re   *regexp.Regexp
}

var all []*Pattern // those of package variables: they are made one after another, before the program begins

// Of is the pattern that a text writes. Texts are constants: one that does not compile is a defect that Broken finds.
func Of(text string) *Pattern {
	p := &Pattern{text: text}
	all = append(all, p)
	return p
}

// Broken are the patterns that do not compile.
func Broken() (texts []string) {
	for _, p := range all {
		if _, err := regexp.Compile(p.text); err != nil {
			texts = append(texts, p.text)
		}
	}
	return texts
}

func (p *Pattern) compiled() *regexp.Regexp {
	p.made.Do(func() { p.re = regexp.MustCompile(p.text) })
	return p.re
}

// MatchString tells whether a text holds a match.
func (p *Pattern) MatchString(s string) bool { return p.compiled().MatchString(s) }

// FindString is the first match; "" for none.
func (p *Pattern) FindString(s string) string { return p.compiled().FindString(s) }

// FindAllString are the first n matches, all of them for n < 0.
func (p *Pattern) FindAllString(s string, n int) []string { return p.compiled().FindAllString(s, n) }

// FindAllStringIndex is where the first n matches begin and end.
func (p *Pattern) FindAllStringIndex(s string, n int) [][]int {
	return p.compiled().FindAllStringIndex(s, n)
}

// FindStringSubmatch is the first match and its groups; nil for none.
func (p *Pattern) FindStringSubmatch(s string) []string { return p.compiled().FindStringSubmatch(s) }

// FindStringSubmatchIndex is where the first match and its groups begin and end; nil for none.
func (p *Pattern) FindStringSubmatchIndex(s string) []int {
	return p.compiled().FindStringSubmatchIndex(s)
}

// FindAllStringSubmatch are the first n matches with their groups.
func (p *Pattern) FindAllStringSubmatch(s string, n int) [][]string {
	return p.compiled().FindAllStringSubmatch(s, n)
}

// ReplaceAllString puts something in place of every match; $1 in it is a group.
func (p *Pattern) ReplaceAllString(s, by string) string { return p.compiled().ReplaceAllString(s, by) }

// ReplaceAllStringFunc puts what a function makes of it in place of every match.
func (p *Pattern) ReplaceAllStringFunc(s string, by func(string) string) string {
	return p.compiled().ReplaceAllStringFunc(s, by)
}

// Split are the texts between the first n − 1 matches, all of them for n < 0.
func (p *Pattern) Split(s string, n int) []string { return p.compiled().Split(s, n) }

// String is the text of the pattern.
func (p *Pattern) String() string { return p.text }
