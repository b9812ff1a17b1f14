package translator

import (
	"cmp"
	"context"
	"encoding/base64"
	"encoding/hex"
	"encoding/json"
	"errors"
	"slices"
	"strings"
)

// shortestSecret is the shortest text that is masked: a shorter one would mask ordinary words.
const shortestSecret = 6

// hidden is what stands for a secret.
const hidden = "***"

// Mask makes an asker whose replies and errors do not hold the secrets that it was given, in whatever form they come back: plain, escaped
// as JSON, percent-encoded, as character references, in base64 or in hexadecimal digits.
func Mask(a Asker, secrets []string) Asker {
	m := NewMasker(secrets)
	if len(m.forms) == 0 {
		return a
	}
	return &masked{a, m}
}

// Masker hides secrets in texts.
type Masker struct{ forms []form }

// form is one text that is looked for, each of whose characters may be written in its own way.
type form struct {
	characters []character
	anyCase    bool
}

// NewMasker makes a masker; secrets that are too short to be told from words are left out.
func NewMasker(secrets []string) Masker {
	sorted := append([]string(nil), secrets...)
	slices.SortStableFunc(sorted, func(a, b string) int { return cmp.Compare(len(b), len(a)) }) // one may hold another
	var m Masker
	for i, s := range sorted {
		if len(s) < shortestSecret || i > 0 && s == sorted[i-1] {
			continue
		}
		m.forms = append(m.forms, form{charactersOf(s), false}, form{charactersOf(hex.EncodeToString([]byte(s))), true})
		for _, encoded := range base64Forms(s) {
			m.forms = append(m.forms, form{charactersOf(encoded), false})
		}
	}
	return m
}

// mostNested is how deep JSON texts within JSON texts are looked into.
const mostNested = 4

// Text is a text without secrets. JSON texts in it are decoded first: another encoding may be split over their escapes.
func (m Masker) Text(text string) string { return m.text(text, mostNested) }

func (m Masker) text(text string, nested int) string {
	if nested > 0 && strings.Contains(text, `"`) {
		text = m.literals(text, nested-1)
	}
	for _, f := range m.forms {
		text = f.hide(text)
	}
	return text
}

// hide puts the mark in place of everything that a form matches.
func (f form) hide(text string) string {
	var b strings.Builder
	done := 0
	var failed deadEnds
	for at := 0; at < len(text); {
		end := f.match(text, at, 0, &failed)
		if end <= at {
			at++
			continue
		}
		b.WriteString(text[done:at] + hidden)
		at, done = end, end
	}
	return b.String() + text[done:]
}

// match gives the end of what is written at a place for the characters from the i-th on; -1 for something else.
func (f form) match(text string, at, i int, failed *deadEnds) int {
	if i == len(f.characters) {
		return at
	}
	if failed.has(at, i) {
		return -1
	}
	ends := f.characters[i].ends(text, at, f.anyCase)
	for _, end := range ends {
		if end = f.match(text, end, i+1, failed); end >= 0 {
			return end
		}
	}
	if len(ends) > 1 {
		failed.add(at, i)
	}
	return -1
}

// deadEnds are places from which the rest of a secret was not found: where there are several ways to read a character, they would be
// gone to again and again.
type deadEnds map[[2]int]bool

func (d deadEnds) has(at, i int) bool { return d[[2]int{at, i}] }

func (d *deadEnds) add(at, i int) {
	if *d == nil {
		*d = deadEnds{}
	}
	(*d)[[2]int{at, i}] = true
}

// literals masks what is in quotes, and leaves a text in quotes that holds no secret byte for byte.
func (m Masker) literals(text string, nested int) string {
	var b strings.Builder
	const most = 8 // times that the text is read: quotes that nothing ends would be read to the end again and again
	done, read := 0, 0
	for at := 0; at < len(text) && read < most*len(text); {
		if text[at] != '"' {
			at++
			continue
		}
		end := literalEnd(text, at)
		read += end - at
		var said string
		if json.Unmarshal([]byte(text[at:end]), &said) != nil {
			at++ // no text in quotes: the next quote may begin one
			continue
		}
		if clean := m.text(said, nested); clean != said {
			written, _ := json.Marshal(clean) // a string always encodes
			b.WriteString(text[done:at])
			b.Write(written)
			done = end
		}
		at = end
	}
	return b.String() + text[done:]
}

// literalEnd is the place behind the quote that ends a JSON text; where none does, the end of all.
func literalEnd(text string, start int) int {
	for at := start + 1; at < len(text); at++ {
		switch text[at] {
		case '\\':
			at++
		case '"':
			return at + 1
		}
	}
	return len(text)
}

// base64Forms are what every base64 text has that holds a secret, at each of the three places in which it can begin, in both alphabets.
func base64Forms(secret string) []string {
	var out []string
	for offset := range 3 {
		padded := append(make([]byte, offset), secret...)
		whole := len(padded) / 3 * 3 // the last group also depends on what follows
		first := (offset*8 + 5) / 6  // the first characters also depend on what stands before
		for _, encoding := range []*base64.Encoding{base64.StdEncoding, base64.URLEncoding} {
			text := encoding.EncodeToString(padded[:whole])
			if len(text)-first >= shortestSecret {
				out = append(out, text[first:])
			}
		}
	}
	return out
}

type masked struct {
	asker  Asker
	masker Masker
}

func (m *masked) Close() error { return m.asker.Close() }

// Ask masks every text of what comes back.
func (m *masked) Ask(ctx context.Context, r Request) (Answered, error) {
	answered, err := m.asker.Ask(ctx, r)
	text := m.masker.Text
	raw, showed := text(string(answered.Raw)), false
	reply := &answered.Reply
	for _, field := range []*string{&reply.Query, &reply.Text, &reply.Clarify, &reply.Decline, &reply.Explanation, &reply.Model,
		&reply.Language,
		&reply.Usage.Unknown} {
		clean := text(*field)
		showed = showed || clean != *field
		*field = clean
	}
	for _, field := range []*json.RawMessage{&reply.Table, &reply.ID, &reply.Chart} {
		if len(*field) > 0 {
			*field = json.RawMessage(text(string(*field)))
		}
	}
	if showed && raw == string(answered.Raw) { // it came in pieces, such as those of a stream: what it makes is kept in its place
		body, _ := json.Marshal(reply) // plain fields always encode
		raw = string(body)
	}
	answered.Raw = []byte(raw)
	for i := range answered.Tries {
		answered.Tries[i].Problem = text(answered.Tries[i].Problem)
	}
	var f *Failure
	if errors.As(err, &f) {
		masked := *f
		masked.Message = text(f.Message)
		err = &masked
	}
	return answered, err
}
