package workspace

import (
	"fmt"
	"slices"
	"strings"
	"tovrel/core/dialect"

	"tovrel/core/near"
	"tovrel/core/pattern"
	"tovrel/core/yamldoc"
)

// kindKeys are the kinds of translators with the keys that each has beside those of all.
var kindKeys = map[string][]string{
	"command":  {"run", "keep", "env", "dir"},
	"http":     {"url", "headers"},
	"chat":     {"url", "headers", "model", "prompt", "temperature", "key"},
	"mcp":      {"run", "env", "dir", "url", "headers", "tool"},
	"recorded": {"file"},
	"pocket":   {"version", "quirks", "seed"},
}

// commonKeys are those of all kinds.
var commonKeys = map[string]bool{"kind": true, "parallel": true, "timeout": true, "dialect": true, "rate": true,
	"retries": true, "price": true, "thread": true, "score": true, "protocol": true}

// Kinds lists the kinds of translators.
func Kinds() []string { return []string{"command", "http", "chat", "mcp", "recorded", "pocket"} }

// defaultRetries is how often an ask that could not get through is tried again.
const defaultRetries = 2

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
	t := &Translator{Name: e.Key, At: c.Position(e.At), Parallel: c.w.Run.Parallel, Timeout: c.w.Run.Timeout,
		Retries: defaultRetries, Thread: "own", Protocol: 1}
	c.asking(fields, t)
	if fields["kind"] == nil {
		c.Report(e.At, "kind-missing", fmt.Sprintf("translator %s has no kind", e.Key), "add kind: with one of "+
			strings.Join(Kinds(), ", "))
		return t
	}
	t.Kind = c.Text(fields["kind"], "kind")
	keys, known := kindKeys[t.Kind]
	if !known {
		c.Report(fields["kind"], "unknown-kind", fmt.Sprintf("there is no kind of translator %q", t.Kind), near.Hint(t.Kind, Kinds()))
		return t
	}
	for key, f := range fields {
		if !commonKeys[key] && !contains(keys, key) {
			c.Report(f, "key-of-other-kind", fmt.Sprintf("a translator of kind %s has no key %q", t.Kind, key), "leave it out")
		}
	}
	c.transport(fields, t)
	c.complete(e, t)
	return t
}

func contains(list []string, s string) bool {
	return slices.Contains(list, s)
}

// asking reads the keys that all kinds have.
func (c *config) asking(fields map[string]yamldoc.Node, t *Translator) {
	if f := fields["parallel"]; f != nil {
		t.Parallel = c.Whole(f, "parallel", 1)
	}
	if f := fields["timeout"]; f != nil {
		t.Timeout = c.Duration(f, "timeout")
	}
	if f := fields["rate"]; f != nil {
		if t.Rate = c.Number(f, "rate", 0); t.Rate == 0 {
			c.Report(f, "yaml-type", "rate: asks a second must be more than 0", "leave it out for no bound")
		}
	}
	if f := fields["retries"]; f != nil {
		t.Retries = c.Whole(f, "retries", 0)
	}
	if f := fields["dialect"]; f != nil {
		t.Dialect = c.oneOf(f, "dialect", dialect.Names())
	}
	if f := fields["thread"]; f != nil {
		t.Thread = c.oneOf(f, "thread", []string{"own", "golden"})
	}
	if f := fields["score"]; f != nil {
		t.Score = c.oneOf(f, "score", []string{"query", "table", "chart", "text"})
	}
	if f := fields["protocol"]; f != nil {
		if t.Protocol = c.Whole(f, "protocol", 1); t.Protocol > 2 {
			c.Report(f, "unknown-value", fmt.Sprintf("there is no version %d of the protocol", t.Protocol), "its versions are 1 and 2")
		}
	}
	if f := fields["price"]; f != nil {
		price := c.Fields(f, "price", priceKeys)
		for key, into := range map[string]*float64{"input": &t.Price.Input, "output": &t.Price.Output} {
			if n := price[key]; n != nil {
				*into = c.Number(n, key, 0)
			}
		}
	}
}

// transport reads the keys of a kind.
func (c *config) transport(fields map[string]yamldoc.Node, t *Translator) {
	t.Run = c.Texts(fields["run"], "run")
	t.Env = c.Texts(fields["env"], "env")
	t.Quirks = c.Texts(fields["quirks"], "quirks")
	for key, into := range map[string]*string{"dir": &t.Dir, "file": &t.File, "url": &t.URL, "model": &t.Model,
		"prompt": &t.Prompt, "tool": &t.Tool, "version": &t.Version} {
		if f := fields[key]; f != nil {
			*into = c.Text(f, key)
		}
	}
	if f := fields["keep"]; f != nil {
		t.Keep = c.Bool(f, "keep")
	}
	if f := fields["temperature"]; f != nil {
		n := c.Number(f, "temperature", 0)
		t.Temperature = &n
	}
	if f := fields["seed"]; f != nil {
		t.Seed = c.Whole(f, "seed", 0)
	}
	if f := fields["key"]; f != nil {
		if t.Key = c.Text(f, "key"); !wholeVariable.MatchString(t.Key) {
			c.Report(f, "secret-in-file", "key: a secret must not stand in the file",
				"write ${NAME} of an environment variable that holds it")
			t.Key = ""
		}
	}
	c.headers(fields["headers"], t)
}

var (
	wholeVariable = pattern.Of(`^\$\{[A-Za-z_][A-Za-z0-9_]*\}$`)
	secretHeader  = pattern.Of(`(?i)auth|key|token|secret|cookie|password`)
)

// headers reads headers; those that hold secrets by their name take them from the environment.
func (c *config) headers(n yamldoc.Node, t *Translator) {
	for _, e := range c.Entries(n, "headers") {
		text := c.Text(e.Value, e.Key)
		if secretHeader.MatchString(e.Key) && !variable.MatchString(text) {
			c.Report(e.Value, "secret-in-file", fmt.Sprintf("the header %s looks like a secret, which must not stand in the "+
				"file", e.Key), "write ${NAME} of an environment variable that holds it")
			continue
		}
		if t.Headers == nil {
			t.Headers = map[string]string{}
		}
		t.Headers[e.Key] = text
	}
}

// webAddress is how the address of a service begins: also one that stands in an environment variable.
var webAddress = pattern.Of(`^(?i:https?://|\$\{)`)

// complete reports what a kind cannot do without.
func (c *config) complete(e yamldoc.Entry, t *Translator) {
	missing := func(code, what, remedy string) {
		c.Report(e.At, code, fmt.Sprintf("translator %s has no %s", e.Key, what), remedy)
	}
	switch {
	case t.Kind == "command" && len(t.Run) == 0:
		missing("run-missing", "command to run", "add run: [PROGRAM, ARGUMENT, …]")
	case t.Kind == "recorded" && t.File == "":
		missing("file-missing", "file of replies", "add file: PATH of a JSON Lines file")
	case (t.Kind == "http" || t.Kind == "chat") && t.URL == "":
		missing("url-missing", "address", "add url: http://…")
	case t.Kind == "mcp" && (t.URL == "") == (len(t.Run) == 0):
		missing("server-missing", "server, or two", "add run: [PROGRAM, …] or url: http://…")
	case t.URL != "" && !webAddress.MatchString(t.URL):
		c.Report(e.At, "bad-url", fmt.Sprintf("%q is no address of a service", t.URL), "write it with http:// or https://")
	case t.Kind == "chat" && t.Model == "":
		missing("model-missing", "model", "add model: NAME")
	}
}
