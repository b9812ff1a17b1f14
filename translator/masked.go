package translator

import (
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"sort"
	"strings"
)

// shortestSecret is how long a secret must be to be masked: shorter ones would mask ordinary words.
const shortestSecret = 6

// Mask makes an asker whose replies and failures do not hold the secrets, even where a service gives them back.
func Mask(a Asker, secrets []string) Asker {
	var long []string
	for _, s := range secrets {
		if len(s) >= shortestSecret {
			long = append(long, s)
		}
	}
	if len(long) == 0 {
		return a
	}
	sort.Slice(long, func(i, j int) bool { return len(long[i]) > len(long[j]) })
	var pairs []string
	for _, s := range long {
		pairs = append(pairs, s, "***")
		if quoted, err := json.Marshal(s); err == nil && string(quoted) != `"`+s+`"` { // as JSON writes it
			pairs = append(pairs, strings.Trim(string(quoted), `"`), "***")
		}
	}
	return &masked{a, strings.NewReplacer(pairs...)}
}

type masked struct {
	asker    Asker
	replacer *strings.Replacer
}

func (m *masked) Close() error { return m.asker.Close() }

// Ask masks everything that an ask brings.
func (m *masked) Ask(ctx context.Context, r Request) (Answered, error) {
	answered, err := m.asker.Ask(ctx, r)
	clean := []byte(m.replacer.Replace(string(answered.Raw)))
	if !bytes.Equal(clean, answered.Raw) {
		answered.Raw = clean
		reply := &answered.Reply
		for _, text := range []*string{&reply.Query, &reply.Text, &reply.Clarify, &reply.Decline, &reply.Explanation, &reply.Model} {
			*text = m.replacer.Replace(*text)
		}
		reply.Table = json.RawMessage(m.replacer.Replace(string(reply.Table)))
		if len(reply.Table) == 0 {
			reply.Table = nil
		}
	}
	var f *Failure
	if errors.As(err, &f) {
		masked := *f
		masked.Message = m.replacer.Replace(f.Message)
		err = &masked
	}
	return answered, err
}
