package yamldoc

import (
	"fmt"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/require"
)

// read reads one value, which stands under "v" in the fourth line of a text whose document starts behind two lines.
func read(t *testing.T, value string) (*Reader, Node) {
	t.Helper()
	document := "# a comment\nv: " + value + "\n"
	r, root := Read("a.md", []byte("one\ntwo\n"+document), []byte(document), 2)
	require.Empty(t, r.Problems)
	return r, r.Fields(root, "it", Keys{Known: []string{"v"}})["v"]
}

// TestScalars holds what each kind of value takes, and what it says of others: at the value's place in the whole text, with its line.
func TestScalars(t *testing.T) {
	kinds := map[string]func(*Reader, Node) any{
		"text":     func(r *Reader, n Node) any { return r.Text(n, "it") },
		"number":   func(r *Reader, n Node) any { return r.Number(n, "it", 0.5) },
		"whole":    func(r *Reader, n Node) any { return r.Whole(n, "it", 2) },
		"bool":     func(r *Reader, n Node) any { return r.Bool(n, "it") },
		"duration": func(r *Reader, n Node) any { return r.Duration(n, "it") },
		"size":     func(r *Reader, n Node) any { return r.Size(n, "it") },
		"texts":    func(r *Reader, n Node) any { return fmt.Sprint(r.Texts(n, "it")) },
	}
	for _, c := range []struct {
		kind, value string
		want        any
		problem     string // "" for none
	}{
		{"text", "abc", "abc", ""}, {"text", `"a: b"`, "a: b", ""}, {"text", "'it''s'", "it's", ""}, {"text", "12", "12", ""}, {"text",
			"1.50", "1.50", ""},
		{"text", "true", "true", ""}, {"text", "2031-06-30", "2031-06-30", ""}, {"text", "|\n  one\n  two", "one\ntwo\n", ""},
		{"text", "&a abc", "abc", ""}, {"text", "!!str abc", "abc", ""},
		{"text", "[a]", "", "it must be a text"}, {"text", "{a: 1}", "", "it must be a text"}, {"text", "~", "", "it must be a text"},
		{"number", "0.5", 0.5, ""}, {"number", "12", 12.0, ""}, {"number", "1e-6", 0.5, "it must be a number of at least 0.5"},
		{"number", "0.49", 0.5, "it must be a number of at least 0.5"}, {"number", "abc", 0.5, "it must be a number of at least 0.5"},
		{"number", ".nan", 0.5, "it must be a number of at least 0.5"}, {"number", ".inf", 0.5, "it must be a number of at least 0.5"},
		{"number", "[1]", 0.5, "it must be a number of at least 0.5"},
		{"whole", "2", 2, ""}, {"whole", "1_000", 1000, ""}, {"whole", "1", 2, "it must be a whole number of at least 2"},
		{"whole", "2.5", 2, "it must be a whole number of at least 2"}, {"whole", "x", 2, "it must be a whole number of at least 2"},
		{"bool", "true", true, ""}, {"bool", "false", false, ""}, {"bool", "'true'", false, "it must be true or false"},
		{"bool", "1", false, "it must be true or false"},
		{"duration", "30s", 30 * time.Second, ""}, {"duration", "500ms", 500 * time.Millisecond, ""}, {"duration", "1h30m",
			90 * time.Minute, ""},
		{"duration", "0s", time.Second, "it must be a duration"}, {"duration", "-1s", time.Second, "it must be a duration"},
		{"duration", "30", time.Second, "it must be a duration"},
		{"size", "256MB", int64(256 << 20), ""}, {"size", "1.5 gb", int64(3 << 29), ""}, {"size", "7KB", int64(7 << 10), ""}, {"size",
			"12B", int64(12), ""},
		{"size", "256", int64(1 << 30), "it must be a size"}, {"size", "-1MB", int64(1 << 30), "it must be a size"},
		{"size", "0B", int64(1 << 30), "it must be a size"}, {"size", "1000000GB", int64(1 << 30), "it must be a size"},
		{"size", "many MB", int64(1 << 30), "it must be a size"},
		{"texts", "[a, 1, true]", "[a 1 true]", ""}, {"texts", "alone", "[alone]", ""}, {"texts", "\n  - a\n  - b", "[a b]", ""},
		{"texts", "~", "[]", ""}, {"texts", "{a: 1}", "[]", "it must be a list"}, {"texts", "[[a]]", "[]", "it must be a text"},
	} {
		r, n := read(t, c.value)
		require.Equal(t, c.want, kinds[c.kind](r, n), "%s %s", c.kind, c.value)
		if c.problem == "" {
			require.Empty(t, r.Problems, "%s %s", c.kind, c.value)
			continue
		}
		require.Len(t, r.Problems, 1, "%s %s", c.kind, c.value)
		p := r.Problems[0]
		require.Equal(t, c.problem, p.Message, "%s %s", c.kind, c.value)
		require.Equal(t, "yaml-type", p.Code)
		require.Equal(t, "a.md", p.File)
		require.Equal(t, 4, p.Line, "%s %s", c.kind, c.value)
		require.GreaterOrEqual(t, p.Column, 4, "%s %s", c.kind, c.value)
		require.True(t, strings.HasPrefix(p.Excerpt, "v: "), p.Excerpt)
	}
}

// TestFields holds that keys are read where they are known, and told of where they are not, or not built yet.
func TestFields(t *testing.T) {
	document := "limt: 1\nlimit: 2\nlater: 3\nqqqqqqqq: 4\n"
	r, root := Read("f.yaml", []byte(document), []byte(document), 0)
	fields := r.Fields(root, "run", Keys{Known: []string{"limit", "order"}, NotYet: []string{"later"}})
	require.Len(t, fields, 1)
	require.Equal(t, 2, r.Whole(fields["limit"], "limit", 0))
	var got []string
	for _, p := range r.Problems {
		got = append(got, p.Position.String()+" "+p.Code+" "+p.Message+"; "+p.Remedy)
	}
	require.Equal(t, []string{
		`f.yaml:1:1 unknown-key run has no key "limt"; did you mean "limit"?`,
		`f.yaml:3:1 not-yet run: the key "later" is not built yet; leave it out for now`,
		`f.yaml:4:1 unknown-key run has no key "qqqqqqqq"; known: limit, order, later`,
	}, got)
}

// TestEntries holds that the order of a mapping is kept, that nothing gives nothing, and what is said of no mapping.
func TestEntries(t *testing.T) {
	for value, keys := range map[string]string{"{b: 1, a: 2}": "b a", "\n  z: 1\n  1: 2\n  'q r': 3": "z 1 q r", "~": "", "{}": "",
		"{only: 1}": "only",
		"&x {k: 1}": "k"} {
		r, n := read(t, value)
		var got []string
		for _, e := range r.Entries(n, "it") {
			got = append(got, e.Key)
			require.NotNil(t, e.At)
			require.NotNil(t, e.Value)
		}
		require.Equal(t, keys, strings.Join(got, " "), value)
		require.Empty(t, r.Problems, value)
	}
	for _, value := range []string{"[a]", "abc", "1"} {
		r, n := read(t, value)
		require.Empty(t, r.Entries(n, "it"))
		require.Equal(t, "it must be a mapping of keys to values", r.Problems[0].Message, value)
	}
}

// TestWhatItIs holds how nulls, mappings and braces are told.
func TestWhatItIs(t *testing.T) {
	for _, c := range []struct {
		value         string
		null, mapping bool
		closed        string // where the brace stands; "" for none
	}{
		{"~", true, false, ""}, {"null", true, false, ""}, {"", true, false, ""}, {"{a: 1}", false, true, "a.md:4:9"}, {"{}", false, true,
			"a.md:4:5"},
		{"\n  a: 1", false, true, ""}, {"\n  a: 1\n  b: 2", false, true, ""}, {"[a]", false, false, ""}, {"x", false, false, ""},
		{"{a: 1,\n  b: 2}", false, true, "a.md:5:7"},
	} {
		r, n := read(t, c.value)
		require.Equal(t, c.null, IsNull(n), c.value)
		require.Equal(t, c.mapping, IsMapping(n), c.value)
		at, ok := r.Braces(n)
		require.Equal(t, c.closed != "", ok, c.value)
		if ok {
			require.Equal(t, c.closed, at.String(), c.value)
		}
	}
	require.True(t, IsNull(nil))
	require.False(t, IsMapping(nil))
}

// TestBroken holds what is said of documents that cannot be read, and where.
func TestBroken(t *testing.T) {
	for _, c := range []struct{ document, code, message string }{
		{"a: [1, 2\nb: 3\n", "yaml-syntax", "not readable as YAML"},
		{"a: 1\nb: 2\na: 3\n", "yaml-syntax", `"a" already defined in line 1`},
		{"a: 1\n  b: 2\n", "yaml-syntax", "not readable as YAML"},
		{"a: 'x\n", "yaml-syntax", "not readable as YAML"},
		{"a: 1\n---\nb: 2\n", "yaml-documents", "a second YAML document starts here"},
		{strings.Repeat("[", 70) + strings.Repeat("]", 70), "yaml-bounds", "nested deeper than 60 levels"},
		{strings.Repeat("- ", 70) + "a", "yaml-bounds", "nested deeper than 60 levels"},
		{deep(70), "yaml-bounds", "nested deeper than 60 levels"},
		{strings.Repeat("a: 1\n", 30_001), "yaml-bounds", "more than 30000 keys"},
		{strings.Repeat("#", 9<<20), "yaml-size", "the document has 9 MB; at most 8 are read"},
	} {
		r, root := Read("f.yaml", []byte(c.document), []byte(c.document), 0)
		require.Nil(t, root, "%.40s", c.document)
		require.Len(t, r.Problems, 1, "%.40s", c.document)
		require.Equal(t, c.code, r.Problems[0].Code, "%.40s", c.document)
		require.Contains(t, r.Problems[0].Message, c.message, "%.40s", c.document)
		require.Positive(t, r.Problems[0].Line)
	}
	for _, document := range []string{"", "# only a comment\n", "---\n", deep(50)} {
		r, _ := Read("f.yaml", []byte(document), []byte(document), 0)
		require.Empty(t, r.Problems, document)
	}
}

// deep is a mapping nested so often.
func deep(levels int) string {
	var b strings.Builder
	for i := range levels {
		b.WriteString(strings.Repeat(" ", i) + "a:\n")
	}
	return b.String()
}

// TestMostProblems: of a document with very many defects a hundred are told.
func TestMostProblems(t *testing.T) {
	document := strings.Repeat("x", 1)
	for i := range 300 {
		document += fmt.Sprintf(": 1\nk%d", i)
	}
	document += ": 1\n"
	r, root := Read("f.yaml", []byte(document), []byte(document), 0)
	r.Fields(root, "it", Keys{Known: []string{"a"}})
	require.Len(t, r.Problems, 100)
}

// TestPosition: a place counts the lines that stand before the document.
func TestPosition(t *testing.T) {
	r, n := read(t, "abc")
	require.Equal(t, "a.md:4:4", r.Position(n).String())
	r, n = read(t, "\n  - a: 1")
	require.Equal(t, "a.md:5:5", r.Position(r.Items(n, "it")[0]).String())
}
