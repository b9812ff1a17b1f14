package dialect

import (
	"io/fs"
	"regexp"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

// TestRuleFiles: every file of rules is read by a dialect, every rule names a call, and its template only what that call has.
func TestRuleFiles(t *testing.T) {
	files, err := fs.Glob(ruleFiles, "rules/*.txt")
	require.NoError(t, err)
	call := regexp.MustCompile(`^[a-z_0-9]+/([0-9]|\*|[a-z_]+)$`)
	places := regexp.MustCompile(`\$(?:[a-z]+:)?([0-9])`)
	read := 0
	for _, file := range files {
		name := strings.TrimSuffix(strings.TrimPrefix(file, "rules/"), ".txt")
		direction, of, _ := strings.Cut(name, "-")
		switch direction {
		case "to":
			require.True(t, Writable(of), file)
		case "from":
			require.True(t, Readable(of), file)
		default:
			require.Equal(t, "shared", name)
		}
		for key, template := range rulesOf(name) {
			read++
			require.Regexp(t, call, key, file)
			found := placeholder.ReplaceAllString(template, "")
			require.NotContains(t, strings.NewReplacer(")$'", "", "+$'", "").Replace(found), "$", "%s: %s: %s", file, key, template)
			_, count, _ := strings.Cut(key, "/")
			for _, place := range places.FindAllStringSubmatch(template, -1) {
				if len(count) == 1 && count != "*" {
					require.LessOrEqual(t, place[1], count, "%s: %s: %s", file, key, template)
				}
			}
		}
	}
	require.Greater(t, read, 700)
	for name := range grammars {
		require.NotEmpty(t, rulesOf("from-"+name), name)
	}
}

// TestFormats: a format of times in one style means the same in another, or there is none.
func TestFormats(t *testing.T) {
	for _, c := range []struct {
		from, to     int
		format, want string // "" for none
	}{
		{strftime, toChar, "%Y-%m", "YYYY-MM"}, {strftime, toChar, "%d.%m.%y %H:%M:%S", "DD.MM.YY HH24:MI:SS"},
		{strftime, toChar, "week %V", `"w""e""e""k" IW`}, {strftime, percent, "%H:%M", "%H:%i"}, {strftime, percent, "%B %-d", "%M %e"},
		{percent, strftime, "%Y-%m-%d %T", "%Y-%m-%d %H:%M:%S"}, {percent, strftime, "%S", "%S"}, {percent, strftime, "%X", ""},
		{toChar, strftime, "FMMonth YYYY", "%B %Y"}, {toChar, strftime, `YYYY"Q"`, "%YQ"}, {toChar, strftime, "YYYY-Q", ""},
		{toChar, strftime, "yyyy-mm-dd", "%Y-%m-%d"}, {toChar, strftime, `"open`, ""}, {letters, strftime, "yyyy-MM-dd HH:mm:ss",
			"%Y-%m-%d %H:%M:%S"},
		{letters, strftime, "MMM d", ""}, {letters, strftime, "dddd", "%A"}, {letters, strftime, "'day' dd", "day %d"}, {strftime,
			letters, "%j", ""},
		{strftime, strftime, "%anything", "%anything"},
	} {
		got, ok := reformatted(c.format, c.from, c.to)
		require.Equal(t, c.want, got, "%s from %d to %d", c.format, c.from, c.to)
		require.Equal(t, c.want != "", ok)
	}
}

// TestFormatsThereAndBack: what a style can say of another's format comes back as it was.
func TestFormatsThereAndBack(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		to := rapid.SampledFrom([]int{percent, toChar, letters}).Draw(t, "to")
		format := strings.Join(rapid.SliceOfN(rapid.SampledFrom([]string{"%Y", "%m", "%d", "%H", "%M", "%S", "%B", "%b", "-", ".", " ",
			":", "x"}), 1, 8).
			Draw(t, "parts"), "")
		there, ok := reformatted(format, strftime, to)
		if !ok {
			return // two parts that would be read as one
		}
		back, ok := reformatted(there, to, strftime)
		require.True(t, ok, there)
		require.Equal(t, format, back, "by way of %q", there)
	})
}

// TestPlain: what only one dialect writes is put into words that are read here; names, texts and comments end where they end there.
func TestPlain(t *testing.T) {
	columns := ColumnsOf([]Column{{Table: "t", Name: "at"}, {Table: "t", Name: "a"}})
	for _, c := range []struct{ from, query, want string }{
		{MySQL, "SELECT `a b`, \"x\", 'it\\'s' # c\nFROM t LIMIT 2, 3", `SELECT "a b" , 'x' , 'it''s' FROM t LIMIT 3 OFFSET 2`},
		{MySQL, "SELECT a DIV 2, mod(a, 2), a <=> NULL FROM t", "SELECT a // 2 , mod( a , 2 ) , a IS NOT DISTINCT FROM NULL FROM t"},
		{MySQL, "SELECT GROUP_CONCAT(DISTINCT a ORDER BY a DESC SEPARATOR '; ') FROM t",
			"SELECT string_agg( DISTINCT a , '; ' ORDER BY a DESC ) FROM t"},
		{MySQL, "SELECT GROUP_CONCAT(a) FROM db.t", "SELECT string_agg( a , ',' ) FROM t"},
		{MySQL, "SELECT CONVERT(a, SIGNED), 'a\\%'", `SELECT CAST( a AS SIGNED ) , 'a\%'`},
		{TSQL, "SELECT TOP (3) [a b] FROM dbo.[t] WITH (NOLOCK) WHERE x = N'y'", `SELECT "a b" FROM "t" WHERE x = 'y' LIMIT 3`},
		{TSQL, "SELECT * FROM (SELECT TOP 1 a FROM t ORDER BY a) x UNION SELECT TOP 2 a FROM t",
			"SELECT * FROM ( SELECT a FROM t ORDER BY a LIMIT 1 ) x " +
				"UNION SELECT a FROM t LIMIT 2"},
		{TSQL, "SELECT CONVERT(varchar(7), a)", "SELECT CAST( a AS varchar( 7 ) )"},
		{BigQuery, "SELECT * EXCEPT (a) FROM `p.d.t` UNION DISTINCT SELECT r'\\d', \"x\"",
			`SELECT * EXCLUDE ( a ) FROM "t" UNION SELECT '\d' , 'x'`},
		{ClickHouse, "SELECT quantile(0.9)(a), count() FROM t LIMIT 1, 2",
			"SELECT quantile_cont( a , 0.9 ) , count( ) FROM t LIMIT 2 OFFSET 1"},
		{Snowflake, "SELECT listagg(a, ',') WITHIN GROUP (ORDER BY a) FROM x.y.t MINUS SELECT 1",
			"SELECT string_agg( a , ',' ORDER BY a ) FROM t EXCEPT SELECT 1"},
		{Postgres, "SELECT at, t.at::date, 'at' -- at\nFROM t", `SELECT "at" , t."at" :: date , 'at' FROM t`},
		{SQLite, "SELECT date(a), a == 1 FROM t", "SELECT lite_date( a ) , a = 1 FROM t"},
		{Spark, "SELECT a RLIKE 'x', a NOT RLIKE 'y' FROM t", "SELECT a ~ 'x' , a !~ 'y' FROM t"},
	} {
		got, err := Plain(c.query, c.from, columns)
		require.NoError(t, err, c.query)
		require.Equal(t, c.want, got)
	}
	for from, query := range map[string]string{MySQL: "SELECT 'x", ClickHouse: "SELECT a FROM t FINAL",
		TSQL: "SELECT TOP 5 PERCENT a FROM t", "klingon": "SELECT 1"} {
		_, err := Plain(query, from, columns)
		var unsupported *Unsupported
		require.ErrorAs(t, err, &unsupported, query)
	}
}

// FuzzPlain: whatever is written, in whatever dialect, is put into plain words or refused; plain words stay as they are.
func FuzzPlain(f *testing.F) {
	for _, q := range []string{"SELECT TOP (1", "GROUP_CONCAT(", "CONVERT(a,", "quantile(1)(2", "LIMIT 1,", "`", "[x", "r'",
		"a WITHIN GROUP (", "'\\"} {
		f.Add(q)
	}
	f.Fuzz(func(t *testing.T, query string) {
		for name := range grammars {
			plain, err := Plain(query, name, Columns{})
			if err != nil {
				var unsupported *Unsupported
				require.ErrorAs(t, err, &unsupported)
				continue
			}
			again, ok := scan(plain, grammar{})
			require.True(t, ok, "%s: %q", name, plain)
			require.Equal(t, plain, joined(again))
		}
	})
}
