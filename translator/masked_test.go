package translator_test

import (
	"context"
	"encoding/base64"
	"encoding/hex"
	"encoding/json"
	"fmt"
	"html"
	"maps"
	"math/rand/v2"
	"net/url"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"tovrel/core/fault"
	"tovrel/translator"
)

// encodings are ways in which a service may give a secret back; each is undone by its inverse.
var encodings = map[string]func(r *rand.Rand, s string) string{
	"plain":   func(_ *rand.Rand, s string) string { return s },
	"percent": func(_ *rand.Rand, s string) string { return url.QueryEscape(s) },
	"percent of all": func(r *rand.Rand, s string) string {
		return each(s, func(c byte) string { return fmt.Sprintf([]string{"%%%02x", "%%%02X"}[r.IntN(2)], c) })
	},
	"percent twice": func(_ *rand.Rand, s string) string { return url.QueryEscape(url.QueryEscape(s)) },
	"path":          func(_ *rand.Rand, s string) string { return url.PathEscape(s) },
	"html":          func(_ *rand.Rand, s string) string { return html.EscapeString(s) },
	"base64":        func(_ *rand.Rand, s string) string { return base64.StdEncoding.EncodeToString([]byte(s)) },
	"base64 in a text": func(r *rand.Rand, s string) string {
		return base64.URLEncoding.EncodeToString([]byte(strings.Repeat("x", r.IntN(5)) + s + "tail"))
	},
	"hex":         func(_ *rand.Rand, s string) string { return strings.ToUpper(hex.EncodeToString([]byte(s))) },
	"a JSON text": func(_ *rand.Rand, s string) string { b, _ := json.Marshal(s); return string(b) },
	"JSON in JSON": func(_ *rand.Rand, s string) string {
		b, _ := json.Marshal(s)
		b, _ = json.Marshal(string(b))
		return string(b)
	},
	"mixed escapes": mixed,
}

func each(s string, f func(byte) string) string {
	var b strings.Builder
	for _, c := range []byte(s) {
		b.WriteString(f(c))
	}
	return b.String()
}

// mixed writes each character in another way, as a service may that splits it over escapes.
func mixed(r *rand.Rand, s string) string {
	var b strings.Builder
	for _, c := range s {
		switch r.IntN(4) {
		case 0:
			fmt.Fprintf(&b, `\u%04x`, c)
		case 1:
			b.WriteString(each(string(c), func(c byte) string { return fmt.Sprintf(`%%%02X`, c) }))
		case 2:
			fmt.Fprintf(&b, `&#%d;`, c)
		default:
			b.WriteRune(c)
		}
	}
	return b.String()
}

// literal writes a JSON text with random escapes, the slash's among them.
func literal(r *rand.Rand, s string) string {
	var b strings.Builder
	b.WriteByte('"')
	for _, c := range s {
		switch {
		case c == '/' && r.IntN(2) == 0:
			b.WriteString(`\/`)
		case c == '"' || c == '\\':
			b.WriteString(`\` + string(c))
		case c < ' ' || c < 0x10000 && r.IntN(5) == 0:
			fmt.Fprintf(&b, `\u%04X`, c)
		default:
			b.WriteRune(c)
		}
	}
	b.WriteByte('"')
	return b.String()
}

// replier answers with a fixed text and fails with another.
type replier struct {
	raw     string
	failure string
}

func (replier) Close() error { return nil }

func (p replier) Ask(context.Context, translator.Request) (translator.Answered, error) {
	if p.failure != "" {
		return translator.Answered{Raw: []byte(p.failure)}, translator.Fail(fault.Transport, "the service said: %s", p.failure)
	}
	reply, err := translator.ParseReply([]byte(p.raw))
	return translator.Answered{Reply: reply, Raw: []byte(p.raw)}, err
}

// TestSecretsNeverComeBack: random secrets in random encodings, in every field, in the reply as it came and in errors.
func TestSecretsNeverComeBack(t *testing.T) {
	names := slices.Sorted(maps.Keys(encodings)) // the same draws on every run
	r := rand.New(rand.NewPCG(2031, 6))
	alphabet := []rune("abcdefghijklmnopqrstuvwxyzABCDEFGHIJKLMNOPQRSTUVWXYZ0123456789-_/+=.:~ \"\\<>&'%äß→")
	digits := []rune("%25&amp;u00\\") // a secret may itself look like something that is encoded
	for n := range 400 {
		secret, letters := make([]rune, 8+r.IntN(30)), alphabet
		if n%4 == 0 {
			letters = digits
		}
		for i := range secret {
			secret[i] = letters[r.IntN(len(letters))]
		}
		plain := strings.TrimSpace(string(secret))
		for _, name := range names {
			encode := encodings[name]
			said := "before " + encode(r, plain) + " after"
			asker := func(p replier) translator.Asker { return translator.Mask(p, []string{"irrelevant", plain}) }
			raw := `{"query": ` + literal(r, "SELECT '"+said+"'") + `, "explanation": ` + literal(r, said) +
				`, "table": {"columns": [` + literal(r, said) + `], "rows": [[` + literal(r, said) + `]]}, "model": ` +
				literal(r, said) + `}`
			got, err := asker(replier{raw: raw}).Ask(context.Background(), translator.Request{})
			require.NoError(t, err, raw)
			for _, text := range []string{got.Reply.Query, got.Reply.Explanation, got.Reply.Model, decoded(t, got.Reply.Table),
				decoded(t, got.Raw)} {
				require.NotContains(t, text, encode(rand.New(rand.NewPCG(1, 1)), plain), "%s of %q", name, plain)
				require.NotContains(t, text, plain, "%s of %q", name, plain)
				require.Contains(t, text, "before ", "only the secret goes: %s of %q", name, plain)
			}
			_, err = asker(replier{failure: said}).Ask(context.Background(), translator.Request{})
			require.NotContains(t, err.Error(), plain, "%s of %q", name, plain)
			require.Contains(t, err.Error(), "***", "%s of %q", name, plain)
		}
	}
}

// decoded are the texts of a JSON value, one after the other; the value must still be whole.
func decoded(t *testing.T, body []byte) string {
	t.Helper()
	var v any
	require.NoError(t, json.Unmarshal(body, &v), string(body))
	var b strings.Builder
	var visit func(any)
	visit = func(v any) {
		switch x := v.(type) {
		case string:
			b.WriteString(x + "\n")
		case []any:
			for _, one := range x {
				visit(one)
			}
		case map[string]any:
			for _, one := range x {
				visit(one)
			}
		}
	}
	visit(v)
	return b.String()
}

// TestNothingElseIsMasked: a reply without a secret stays as it is, byte for byte.
func TestNothingElseIsMasked(t *testing.T) {
	raw := `{"query": "SELECT 'short' FROM loads WHERE farm = 'sk-abd'", "text": "%2F\/ &amp; c2VjcmV0"}`
	got, err := translator.Mask(replier{raw: raw}, []string{"sk-abc/def", "abc", ""}).Ask(context.Background(), translator.Request{})
	require.NoError(t, err)
	require.Equal(t, raw, string(got.Raw))
}

// TestMaskingIsLinear: a large reply of what looks like escapes is masked in time that grows with it: were it with its square,
// hours would pass.
func TestMaskingIsLinear(t *testing.T) {
	secret := `p%&"x/%25y\\z`
	for _, piece := range []string{`\`, `"`, `\"`, `%25`, `&amp;`, `\u005c`, `a`, `{"`, `\\u005c%`} {
		text := strings.Repeat(piece, 1<<18/len(piece))
		done := make(chan string, 1)
		go func() { done <- translator.NewMasker([]string{secret}).Text(text) }()
		select {
		case <-done:
		case <-time.After(2 * time.Minute):
			t.Fatalf("a quarter of a megabyte of %s takes over two minutes", piece)
		}
	}
}

// TestUsage: what a translator says of its usage is taken where it can be, and noted where it cannot.
func TestUsage(t *testing.T) {
	for written, want := range map[string]translator.Usage{
		`{"input_tokens": 12, "output_tokens": 3, "cost": 0.25}`: {InputTokens: 12, OutputTokens: 3, Cost: 0.25},
		`{}`:                   {},
		`{"cost": -3}`:         {Unknown: "cost of -3"},
		`{"cost": 1e400}`:      {Unknown: "cost of 1e400"},
		`{"cost": 1e308}`:      {Unknown: "cost of 1e308"},
		`{"cost": "0.1"}`:      {Unknown: `cost of "0.1"`},
		`{"cost": null}`:       {},
		`{"input_tokens": -1}`: {Unknown: "input_tokens of -1"},
		`{"input_tokens": 9223372036854775807, "cost": 0.5}`: {Cost: 0.5, Unknown: "input_tokens of 9223372036854775807"},
		`{"output_tokens": 12.0}`:                            {OutputTokens: 12},
		`[1, 2]`:                                             {Unknown: "usage of [1, 2]"},
		`"much"`:                                             {Unknown: `usage of "much"`},
	} {
		reply, err := translator.ParseReply([]byte(`{"query": "SELECT 1", "usage": ` + written + `}`))
		require.NoError(t, err, written)
		require.Contains(t, reply.Usage.Unknown, want.Unknown, written)
		if want.Unknown == "" {
			require.Empty(t, reply.Usage.Unknown, written)
		}
		reply.Usage.Unknown, want.Unknown = "", ""
		require.Equal(t, want, reply.Usage, written)
	}
}
