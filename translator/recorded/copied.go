package recorded

import (
	"context"
	"strings"

	"tovrel/answers"
	"tovrel/core/wording"
	"tovrel/translator"
)

// newCopied reads answers that were copied from a tool.
func newCopied(name, path string) (translator.Asker, error) {
	all, err := answers.Read(context.Background(), name, path)
	if err != nil {
		return nil, err
	}
	return Copied(all), nil
}

// Copied is a translator that gives answers which somebody copied. A question is named by its id, with or without its set, or by its
// wording.
func Copied(all []answers.Answer) translator.Asker {
	a := &asker{wordings: map[string]line{}}
	for _, one := range all {
		a.wordings[wording.Fold(one.Question)] = line{Reply: one.Reply, latency: one.Latency}
	}
	return a
}

// copied finds the copied answer to a request; one without a reply where there is none.
func (a *asker) copied(r translator.Request) line {
	id := r.ID[strings.LastIndexByte(r.ID, '/')+1:]
	for _, name := range []string{r.ID, id, r.Question} {
		if found, has := a.wordings[wording.Fold(name)]; has {
			return found
		}
	}
	return line{}
}
