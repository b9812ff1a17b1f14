package workspace

import (
	"cmp"
	"fmt"
	"slices"

	"tovrel/core/fault"
	"tovrel/core/near"
	"tovrel/core/versus"
	"tovrel/core/yamldoc"
)

// gateKeys are the conditions of a gate, and how they are judged.
var gateKeys = yamldoc.Keys{Known: []string{"accuracy", "drop", "regressions", "unstable", "wrong", "failed", "unscored",
	"must-pass", "faults", "flaky", "latency-p95",
	"cost-per-right", "strength", "tags", "drift", "asked", "confident", "thin-evidence"}}

// leastConditions are those that a value must reach; the others are limits from above.
var leastConditions = map[string]bool{"accuracy": true, "strength": true}

// shares are the conditions whose value is a share. Those that take a number too, such as unscored, are none.
var shares = map[string]bool{"accuracy": true, "drop": true, "wrong": true, "failed": true, "flaky": true, "strength": true,
	"drift": true}

// gate reads the conditions that a run must meet, in the order of the documented keys.
func (c *config) gate(n yamldoc.Node) {
	if n == nil {
		return
	}
	fields := c.Fields(n, "gate", gateKeys)
	g := &c.w.Gate
	for _, name := range gateKeys.Known {
		f := fields[name]
		if f == nil {
			continue
		}
		switch name {
		case "confident":
			g.Confident = c.Bool(f, name)
		case "asked":
			g.Nightly = c.oneOf(f, name, []string{"once", "nightly"}) == "nightly"
		case "thin-evidence":
			g.ThinPasses = c.oneOf(f, name, []string{"fail", "pass"}) == "pass"
		case "must-pass":
			g.Conditions = append(g.Conditions, versus.Condition{Name: name, Names: c.namesUnder(f, name, "tags")})
		case "faults":
			g.Conditions = append(g.Conditions, versus.Condition{Name: name, Names: c.codes(f)})
		case "tags":
			g.Conditions = append(g.Conditions, c.tagConditions(f)...)
		case "latency-p95":
			if limit := c.limitOf(f, name); limit != nil {
				g.Conditions = append(g.Conditions, versus.Condition{Name: name, Limit: float64(c.Duration(limit, name).Milliseconds())})
			}
		default:
			g.Conditions = append(g.Conditions, c.condition(f, name))
		}
	}
}

// limitOf is the value of a condition's one key.
func (c *config) limitOf(n yamldoc.Node, name string) yamldoc.Node {
	key := "at-most"
	if leastConditions[name] {
		key = "at-least"
	}
	limit := c.Fields(n, "gate: "+name, yamldoc.Keys{Known: []string{key}})[key]
	if limit == nil {
		c.Report(n, "limit-missing", fmt.Sprintf("gate: %s has no limit", name), fmt.Sprintf("write it as %s: {%s: …}", name, key))
	}
	return limit
}

func (c *config) condition(n yamldoc.Node, name string) versus.Condition {
	out := versus.Condition{Name: name, Least: leastConditions[name]}
	if limit := c.limitOf(n, name); limit != nil {
		out.Limit = c.Number(limit, name, 0)
		if shares[name] && out.Limit > 1 {
			c.Report(limit, "bad-share", fmt.Sprintf("gate: %s is a share from 0 to 1, not %g", name, out.Limit),
				fmt.Sprintf("write %g for %g %%", out.Limit/100, out.Limit))
		}
	}
	return out
}

// namesUnder reads a list under a condition's one key.
func (c *config) namesUnder(n yamldoc.Node, name, key string) []string {
	f := c.Fields(n, "gate: "+name, yamldoc.Keys{Known: []string{key}})[key]
	names := c.Texts(f, key)
	if len(names) == 0 {
		c.Report(n, "limit-missing", fmt.Sprintf("gate: %s names nothing", name), fmt.Sprintf("write it as %s: {%s: [ … ]}", name, key))
	}
	return names
}

func (c *config) codes(n yamldoc.Node) []string {
	codes := c.namesUnder(n, "faults", "none-of")
	var known []string
	for _, code := range fault.Codes() {
		known = append(known, string(code))
	}
	for _, code := range codes {
		if !fault.Known(fault.Code(code)) {
			c.Report(n, "unknown-fault", fmt.Sprintf("there is no fault %q", code), near.Hint(code, known))
		}
	}
	return codes
}

// tagConditions read the accuracy that the questions of each tag must reach.
func (c *config) tagConditions(n yamldoc.Node) []versus.Condition {
	var out []versus.Condition
	for _, e := range c.Entries(n, "gate: tags") {
		fields := c.Fields(e.Value, "gate: the tag "+e.Key, yamldoc.Keys{Known: []string{"accuracy"}})
		if fields["accuracy"] == nil {
			c.Report(e.At, "limit-missing", fmt.Sprintf("gate: the tag %s has no limit", e.Key), "write it as {accuracy: {at-least: …}}")
			continue
		}
		condition := c.condition(fields["accuracy"], "accuracy")
		condition.Name, condition.Names = "tags", []string{e.Key}
		out = append(out, condition)
	}
	slices.SortStableFunc(out, func(a, b versus.Condition) int { return cmp.Compare(a.Names[0], b.Names[0]) })
	return out
}
