package workspace

import (
	"fmt"
	"strconv"
	"time"

	"tovrel/core/briefing"
	"tovrel/core/diagnose"
	"tovrel/core/golden"
	"tovrel/core/near"
	"tovrel/core/source"
	"tovrel/core/yamldoc"
	"tovrel/engine"
)

// The keys of tovrel.yaml, those that are built and those that are documented for later.
var (
	topKeys = yamldoc.Keys{Known: []string{"tovrel", "datasets", "translators", "rules", "run", "limits", "gate", "history"}}

	datasetKeys = yamldoc.Keys{Known: []string{"as-of", "tables", "limits", "connect", "dsn", "briefing", "share-values",
		"run-on", "schema", "edits"}}

	tableKeys = yamldoc.Keys{Known: []string{"file", "types", "table", "sheet", "header-row", "delimiter", "encoding",
		"null-words", "decimal", "thousands", "date-format", "skip-last", "sql", "hide-sources"}}

	translatorKeys = yamldoc.Keys{Known: []string{"kind", "parallel", "timeout", "dialect", "rate", "retries", "price", "thread", "score",
		"protocol",
		"run", "keep", "env", "dir", "file", "url", "headers", "model", "prompt", "temperature", "key", "tool", "version",
		"quirks", "seed"}}

	runKeys = yamldoc.Keys{Known: []string{"wordings", "repeats", "parallel", "timeout", "brief", "budget", "twins", "diagnose",
		"tell-at-most"}}

	budgetKeys   = yamldoc.Keys{Known: []string{"money", "tokens"}}
	diagnoseKeys = yamldoc.Keys{Known: []string{"runs"}}
	priceKeys    = yamldoc.Keys{Known: []string{"input", "output"}}

	limitKeys = yamldoc.Keys{Known: []string{"time", "memory", "rows", "result"}}
)

type config struct {
	*yamldoc.Reader
	w *Workspace
}

func parse(text []byte) (*Workspace, source.Problems) {
	w := &Workspace{Limits: engine.DefaultLimits(),
		Run: RunSettings{Parallel: 8, Timeout: time.Minute, Repeats: 1, Brief: briefing.Full, Diagnose: defaultDiagnosis,
			TellAtMost: briefing.DefaultMost},
		History: defaultHistory}
	r, root := yamldoc.Read(ConfigName, text, text, 0)
	c := &config{r, w}
	if len(r.Problems) > 0 {
		return w, r.Problems
	}
	fields := c.Fields(root, ConfigName, topKeys)
	c.format(root, fields["tovrel"])
	w.Rules = golden.ReadRules(r, fields["rules"])
	c.run(fields["run"])
	c.limits(fields["limits"], &w.Limits)
	c.datasets(fields["datasets"])
	c.translators(fields["translators"])
	c.gate(fields["gate"])
	c.history(fields["history"])
	r.Problems.Sort()
	return w, r.Problems
}

func (c *config) format(root, n yamldoc.Node) {
	switch {
	case n == nil:
		c.Report(root, "format-missing", "the file does not say its format", "add the line `tovrel: 1`")
	case c.Text(n, "tovrel") != "1":
		c.Report(n, "format-unknown", "this program reads format 1", "write `tovrel: 1`, or use a newer program")
	}
}

func (c *config) run(n yamldoc.Node) {
	fields := c.Fields(n, "run", runKeys)
	if f := fields["parallel"]; f != nil {
		c.w.Run.Parallel = c.Whole(f, "parallel", 1)
	}
	if f := fields["timeout"]; f != nil {
		c.w.Run.Timeout = c.Duration(f, "timeout")
	}
	if f := fields["brief"]; f != nil {
		c.w.Run.Brief = briefing.Level(c.oneOf(f, "brief", briefing.Levels()))
	}
	if f := fields["wordings"]; f != nil {
		n, err := ParseWordings(c.Text(f, "wordings"))
		if err != nil {
			c.Report(f, "unknown-value", "wordings: "+err.Error(), "")
		}
		c.w.Run.Wordings = n
	}
	if f := fields["diagnose"]; f != nil {
		c.w.Run.Diagnose = c.diagnose(f)
	}
	if f := fields["tell-at-most"]; f != nil {
		c.w.Run.TellAtMost = c.Whole(f, "tell-at-most", 1)
	}
	if f := fields["repeats"]; f != nil {
		c.w.Run.Repeats = c.Whole(f, "repeats", 1)
	}
	if f := fields["twins"]; f != nil {
		c.w.Run.Twins = c.Whole(f, "twins", 0)
	}
	if f := fields["budget"]; f != nil {
		c.w.Run.Budget = c.budget(f)
	}
}

// defaultDiagnosis bounds the search for the cause of one wrong answer.
var defaultDiagnosis = diagnose.Budget{Runs: diagnose.DefaultRuns}

// diagnose reads whether causes are searched, within how many queries, or after how long a search is given up.
func (c *config) diagnose(n yamldoc.Node) diagnose.Budget {
	out := defaultDiagnosis
	if yamldoc.IsMapping(n) {
		if f := c.Fields(n, "diagnose", diagnoseKeys)["runs"]; f != nil {
			out.Runs = int(c.Whole(f, "runs", 1))
		}
		return out
	}
	switch text := c.Text(n, "diagnose"); text {
	case "true":
		return out
	case "false":
		return diagnose.Budget{}
	}
	out.Net = c.Duration(n, "diagnose")
	return out
}

// budget reads an amount of money, or money and tokens.
func (c *config) budget(n yamldoc.Node) Budget {
	if !yamldoc.IsMapping(n) {
		return Budget{Money: c.Number(n, "budget", 0)}
	}
	var b Budget
	fields := c.Fields(n, "budget", budgetKeys)
	if f := fields["money"]; f != nil {
		b.Money = c.Number(f, "money", 0)
	}
	if f := fields["tokens"]; f != nil {
		b.Tokens = int64(c.Whole(f, "tokens", 1))
	}
	return b
}

// ParseWordings reads how many wordings of a question are asked: all (0), first, or a number. It errs for any other text.
func ParseWordings(text string) (int, error) {
	switch text {
	case "all":
		return 0, nil
	case "first":
		return 1, nil
	}
	n, err := strconv.Atoi(text)
	if err != nil || n < 1 {
		return 0, fmt.Errorf("%q is none of all, first and a number", text)
	}
	return n, nil
}

// oneOf reads a word of a list.
func (c *config) oneOf(n yamldoc.Node, what string, words []string) string {
	word := c.Text(n, what)
	for _, w := range words {
		if w == word {
			return w
		}
	}
	c.Report(n, "unknown-value", fmt.Sprintf("%s: there is no %q", what, word), near.Hint(word, words))
	return words[0]
}

func (c *config) limits(n yamldoc.Node, limits *engine.Limits) {
	fields := c.Fields(n, "limits", limitKeys)
	if f := fields["time"]; f != nil {
		limits.Time = c.Duration(f, "time")
	}
	if f := fields["memory"]; f != nil {
		if limits.Memory = c.Size(f, "memory"); limits.Memory < 256<<20 {
			c.Report(f, "too-small", "memory: a query worker needs at least 256MB", "write 256MB or more")
		}
	}
	if f := fields["rows"]; f != nil {
		limits.Rows = c.Whole(f, "rows", 1)
	}
	if f := fields["result"]; f != nil {
		limits.Result = c.Size(f, "result")
	}
}
