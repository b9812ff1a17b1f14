package workspace

import (
	"fmt"
	"strings"
	"time"

	"tovrel/core/briefing"
	"tovrel/core/golden"
	"tovrel/core/near"
	"tovrel/core/source"
	"tovrel/core/yamldoc"
	"tovrel/engine"
)

// The keys of tovrel.yaml, those that are built and those that are documented for later.
var (
	topKeys = yamldoc.Keys{Known: []string{"tovrel", "datasets", "translators", "rules", "run", "limits", "gate", "history"}}

	datasetKeys = yamldoc.Keys{Known: []string{"as-of", "tables", "limits", "connect", "dsn", "briefing", "share-values"},
		NotYet: []string{"schema", "edits"}}

	tableKeys = yamldoc.Keys{Known: []string{"file", "types", "table", "sheet", "header-row", "delimiter", "encoding", "null-words"}}

	translatorKeys = yamldoc.Keys{Known: []string{"kind", "run", "env", "dir", "file", "parallel", "timeout"},
		NotYet: []string{"dialect", "rate", "retries", "price", "thread", "score", "keep", "url", "headers", "model", "prompt",
			"temperature", "key", "tool", "version", "quirks", "seed"}}

	runKeys = yamldoc.Keys{Known: []string{"wordings", "repeats", "parallel", "timeout", "brief"},
		NotYet: []string{"budget", "twins", "diagnose"}}

	limitKeys = yamldoc.Keys{Known: []string{"time", "memory", "rows", "result"}}
)

// kinds are the translator kinds and whether they are built.
var kinds = map[string]bool{"command": true, "recorded": true, "http": false, "chat": false, "mcp": false, "pocket": false}

type config struct {
	*yamldoc.Reader
	w *Workspace
}

func parse(text []byte) (*Workspace, source.Problems) {
	w := &Workspace{Limits: engine.DefaultLimits(), Run: RunSettings{Parallel: 8, Timeout: time.Minute, Brief: briefing.Full}, History: ".tovrel/history.db"}
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
	if n := fields["gate"]; n != nil && len(c.Entries(n, "gate")) > 0 {
		c.Report(n, "not-yet", "gate: conditions are not built yet", "leave it empty for now")
	}
	if n := fields["history"]; n != nil {
		if w.History = c.Text(n, "history"); strings.Contains(w.History, "://") {
			c.Report(n, "not-yet", "history: a database is not built yet", "name a file for now")
		}
	}
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
	if f := fields["wordings"]; f != nil && c.Text(f, "wordings") != "all" {
		c.Report(f, "not-yet", "wordings: only `all` is built yet", "leave it out for now")
	}
	if f := fields["repeats"]; f != nil && c.Whole(f, "repeats", 1) != 1 {
		c.Report(f, "not-yet", "repeats: only 1 is built yet", "leave it out for now")
	}
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

func (c *config) translators(n yamldoc.Node) {
	for _, e := range c.Entries(n, "translators") {
		if base, version, ok := strings.Cut(e.Key, "@"); !ok || base == "" || version == "" {
			c.Report(e.At, "bad-name", fmt.Sprintf("the translator %q has no version", e.Key), "name it as name@version, such as scribe@1")
		}
		fields := c.Fields(e.Value, "translator "+e.Key, translatorKeys)
		c.w.Translators = append(c.w.Translators, c.translator(e, fields))
	}
}

func (c *config) translator(e yamldoc.Entry, fields map[string]yamldoc.Node) *Translator {
	t := &Translator{Name: e.Key, At: c.Position(e.At), Parallel: c.w.Run.Parallel, Timeout: c.w.Run.Timeout}
	if f := fields["parallel"]; f != nil {
		t.Parallel = c.Whole(f, "parallel", 1)
	}
	if f := fields["timeout"]; f != nil {
		t.Timeout = c.Duration(f, "timeout")
	}
	if fields["kind"] == nil {
		c.Report(e.At, "kind-missing", fmt.Sprintf("translator %s has no kind", e.Key), "add kind: command or recorded")
		return t
	}
	t.Kind = c.Text(fields["kind"], "kind")
	switch built, known := kinds[t.Kind]; {
	case !known:
		c.Report(fields["kind"], "unknown-kind", fmt.Sprintf("there is no kind of translator %q", t.Kind),
			near.Hint(t.Kind, []string{"command", "http", "chat", "mcp", "recorded", "pocket"}))
	case !built:
		c.Report(fields["kind"], "not-yet", fmt.Sprintf("translators of kind %s are not built yet", t.Kind), "use command or recorded for now")
	case t.Kind == "command":
		c.command(e, fields, t)
	default:
		c.recorded(e, fields, t)
	}
	return t
}

func (c *config) command(e yamldoc.Entry, fields map[string]yamldoc.Node, t *Translator) {
	c.only(fields, t.Kind, "file")
	t.Run = c.Texts(fields["run"], "run")
	t.Env = c.Texts(fields["env"], "env")
	if f := fields["dir"]; f != nil {
		t.Dir = c.Text(f, "dir")
	}
	if len(t.Run) == 0 {
		c.Report(e.At, "run-missing", fmt.Sprintf("translator %s has no command to run", e.Key), "add run: [PROGRAM, ARGUMENT, …]")
	}
}

func (c *config) recorded(e yamldoc.Entry, fields map[string]yamldoc.Node, t *Translator) {
	c.only(fields, t.Kind, "run", "env", "dir")
	if fields["file"] == nil {
		c.Report(e.At, "file-missing", fmt.Sprintf("translator %s has no file of replies", e.Key), "add file: PATH of a JSON Lines file")
		return
	}
	t.File = c.Text(fields["file"], "file")
}

// only reports keys that belong to another kind of translator.
func (c *config) only(fields map[string]yamldoc.Node, kind string, others ...string) {
	for _, key := range others {
		if f := fields[key]; f != nil {
			c.Report(f, "key-of-other-kind", fmt.Sprintf("a translator of kind %s has no key %q", kind, key), "leave it out")
		}
	}
}
