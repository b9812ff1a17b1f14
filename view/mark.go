package view

import (
	"fmt"

	"tovrel/core/record"
)

type markedForm struct {
	Mark       string `json:"mark"`
	Run        int    `json:"run"`
	Translator string `json:"translator"`
	Before     *int   `json:"before"`
}

// Marked says which run has a mark now, and which had it before; 0 for none.
func Marked(r record.Run, mark string, before int) Screen {
	form := markedForm{Mark: mark, Run: r.ID, Translator: r.Translator}
	if before > 0 {
		form.Before = &before
	}
	line := fmt.Sprintf("The mark %s is run %d, %s.", mark, r.ID, r.Translator)
	switch {
	case before == r.ID:
		line = fmt.Sprintf("Run %d, %s, has the mark %s already.", r.ID, r.Translator, mark)
	case before > 0:
		line = fmt.Sprintf("The mark %s is run %d, %s, now; it was run %d.", mark, r.ID, r.Translator, before)
	}
	return Screen{Data: form, Headline: []Text{{Text: line}},
		Next: []string{fmt.Sprintf("After the next run, hold it against this one with `tovrel compare %s latest`.", mark)}}
}
