package match

import (
	"fmt"
	"maps"
	"slices"
	"strings"

	"tovrel/core/near"
)

// Choice is the value of one rule, with an argument where the value takes one: {ranked: [litres desc]} is the value
// "ranked" with the argument "litres desc".
type Choice struct {
	Value    string
	Argument string
}

// String is the form that --rules takes.
func (c Choice) String() string {
	if c.Argument == "" {
		return c.Value
	}
	return c.Value + ":" + c.Argument
}

// Rules are the matching rules that were set; what is not set has its default. The zero Rules are the defaults.
type Rules struct {
	choices  map[string]Choice
	byColumn map[string]map[string]Choice
}

// ruleValues describes one rule: its values with the default first, those that take an argument, and whether it may be
// narrowed to a column.
type ruleValues struct {
	values    []string
	argument  map[string]bool
	perColumn bool
}

var ruleTable = map[string]ruleValues{
	"rows":          {values: []string{"exact", "contains", "totals"}, argument: names("totals")},
	"order":         {values: []string{"auto", "any", "ranked", "strict"}, argument: names("ranked")},
	"columns":       {values: []string{"auto", "name", "position"}},
	"extra-columns": {values: []string{"note", "wrong"}},
	"numbers":       {values: []string{"shown", "exact", "rel", "abs", "digits"}, argument: names("rel", "abs", "digits"), perColumn: true},
	"scale":         {values: []string{"strict", "fraction", "percent"}, perColumn: true},
	"text":          {values: []string{"exact", "fold"}, perColumn: true},
	"format":        {values: []string{"read", "strict"}, perColumn: true},
	"null":          {values: []string{"strict", "zero", "blank"}, perColumn: true},
	"labels":        {values: []string{"briefing", "strict"}, perColumn: true},
	"layout":        {values: []string{"long", "any"}},
	"ties":          {values: []string{"fair", "strict"}},
}

func names(of ...string) map[string]bool {
	set := map[string]bool{}
	for _, n := range of {
		set[n] = true
	}
	return set
}

// RuleKeys lists the rules' names, sorted.
func RuleKeys() []string {
	keys := slices.Sorted(maps.Keys(ruleTable))
	return keys
}

// Set sets a rule. The error says which keys or values there are.
func (r *Rules) Set(key string, c Choice) error {
	if err := checkChoice(key, c); err != nil {
		return err
	}
	if r.choices == nil {
		r.choices = map[string]Choice{}
	}
	r.choices[key] = c
	return nil
}

// SetColumn narrows a rule to one expected column. It errs for an unknown rule or value.
func (r *Rules) SetColumn(column, key string, c Choice) error {
	if rule, ok := ruleTable[key]; ok && !rule.perColumn {
		return ruleError(BadValue, "the rule %q is for the whole table, not for one column", key)
	}
	if err := checkChoice(key, c); err != nil {
		return err
	}
	if known := r.spelling(column); known != column {
		return ruleError(BadValue, "the rules for %q and for %q are for one column: write them together under one name", known, column)
	}
	if r.byColumn == nil {
		r.byColumn = map[string]map[string]Choice{}
	}
	if r.byColumn[column] == nil {
		r.byColumn[column] = map[string]Choice{}
	}
	r.byColumn[column][key] = c
	return nil
}

// spelling is the name under which a column has rules already, which may differ in case, spaces or underscores; the name itself where it
// has none.
func (r Rules) spelling(column string) string {
	for known := range r.byColumn { // there is at most one
		if fold(known) == fold(column) {
			return known
		}
	}
	return column
}

// RuleError says why a rule cannot be set.
type RuleError struct {
	Problem RuleProblem
	Message string
}

func (e *RuleError) Error() string { return e.Message }

// RuleProblem is what is wrong with a rule.
type RuleProblem uint8

// The problems of rules.
const (
	UnknownRule RuleProblem = iota
	BadValue
)

func ruleError(problem RuleProblem, format string, args ...any) error {
	return &RuleError{problem, fmt.Sprintf(format, args...)}
}

func checkChoice(key string, c Choice) error {
	rule, ok := ruleTable[key]
	if !ok {
		return ruleError(UnknownRule, "unknown rule %q; %s", key, near.Hint(key, RuleKeys()))
	}
	known := false
	for _, v := range rule.values {
		known = known || v == c.Value
	}
	switch {
	case !known:
		return ruleError(BadValue, "rule %s has no value %q; its values are %s", key, c.Value, strings.Join(rule.values, ", "))
	case rule.argument[c.Value] && c.Argument == "":
		return ruleError(BadValue, "rule %s: the value %q needs an argument, such as %s", key, c.Value, exampleArgument[c.Value])
	case !rule.argument[c.Value] && c.Argument != "":
		return ruleError(BadValue, "rule %s: the value %q takes no argument", key, c.Value)
	}
	var err error
	switch c.Value {
	case "totals":
		if c.Argument != "note" {
			err = ruleError(BadValue, "rule %s: totals has no value %q; its value is note", key, c.Argument)
		}
	case "ranked":
		_, err = parseRanking(c.Argument)
	case "rel", "abs", "digits":
		_, err = parseAmount(c.Value, c.Argument)
	}
	return err
}

var exampleArgument = map[string]string{"ranked": `"ranked:litres desc"`, "rel": `"rel:1e-6"`, "abs": `"abs:0.01"`, "digits": `"digits:0"`,
	"totals": `"totals:note"`}

// Over lays these rules over others: the nearer ones win, key by key.
func (r Rules) Over(base Rules) Rules {
	var out Rules
	for _, layer := range []Rules{base, r} {
		for k, c := range layer.choices {
			_ = out.Set(k, c) // checked when it was set first
		}
		for column, choices := range layer.byColumn {
			for k, c := range choices {
				_ = out.SetColumn(out.spelling(column), k, c)
			}
		}
	}
	return out
}

// get is a rule's choice for the whole table.
func (r Rules) get(key string) Choice {
	if c, ok := r.choices[key]; ok {
		return c
	}
	return Choice{Value: ruleTable[key].values[0]}
}

// column is a rule's choice for one expected column; column names are compared folded.
func (r Rules) column(name, key string) Choice {
	for column, choices := range r.byColumn {
		if c, ok := choices[key]; ok && fold(column) == fold(name) {
			return c
		}
	}
	return r.get(key)
}

// String lists what was set, sorted, in the form of --rules; the same rules give the same text.
func (r Rules) String() string {
	var parts []string
	for k, c := range r.choices {
		parts = append(parts, k+"="+c.String())
	}
	for column, choices := range r.byColumn {
		for k, c := range choices {
			parts = append(parts, column+"."+k+"="+c.String())
		}
	}
	slices.Sort(parts)
	return strings.Join(parts, "; ")
}

// ParseRule reads KEY=VALUE, KEY=VALUE:ARGUMENT or COLUMN.KEY=VALUE and sets it. It errs for an unknown rule or value, with the nearest.
func (r *Rules) ParseRule(text string) error {
	key, setting, ok := strings.Cut(text, "=")
	if !ok {
		return ruleError(BadValue, "%q is not KEY=VALUE, such as order=strict", text)
	}
	var c Choice
	c.Value, c.Argument, _ = strings.Cut(strings.TrimSpace(setting), ":")
	key = strings.TrimSpace(key)
	if at := strings.LastIndex(key, "."); at >= 0 {
		return r.SetColumn(unquoted(key[:at]), key[at+1:], c)
	}
	return r.Set(key, c)
}

// parseRanking reads "litres desc, district": column names with an optional asc or desc.
func parseRanking(text string) ([]Key, error) {
	var keys []Key
	for _, part := range outsideQuotes(text) {
		key := Key{Column: -1, Name: part}
		lower := strings.ToLower(part)
		if strings.HasSuffix(lower, " desc") {
			key.Name, key.Descending = strings.TrimSpace(part[:len(part)-5]), true
		} else if strings.HasSuffix(lower, " asc") {
			key.Name = strings.TrimSpace(part[:len(part)-4])
		}
		key.Name = unquoted(key.Name)
		if key.Name == "" {
			return nil, ruleError(BadValue, "rule order: %q is not a list of columns such as \"litres desc, district\"", text)
		}
		keys = append(keys, key)
	}
	return keys, nil
}

// outsideQuotes splits a list at the commas that do not stand in double quotes.
func outsideQuotes(text string) []string {
	var parts []string
	quoted, start := false, 0
	for i, r := range text {
		switch {
		case r == '"':
			quoted = !quoted
		case r == ',' && !quoted:
			parts = append(parts, strings.TrimSpace(text[start:i]))
			start = i + 1
		}
	}
	return append(parts, strings.TrimSpace(text[start:]))
}

// unquoted is a column's name without the double quotes that it may be written in.
func unquoted(name string) string {
	if len(name) > 1 && name[0] == '"' && name[len(name)-1] == '"' {
		return strings.ReplaceAll(name[1:len(name)-1], `""`, `"`)
	}
	return name
}

// fold is how column names are compared: without case, spaces and underscores.
func fold(name string) string {
	return strings.Map(func(r rune) rune {
		if r == ' ' || r == '_' {
			return -1
		}
		return r
	}, strings.ToLower(name))
}

// CheckColumns refuses rules that name columns which the expected table does not have.
func (r Rules) CheckColumns(expected []string) error {
	known := map[string]bool{}
	for _, n := range expected {
		known[fold(n)] = true
	}
	var named []string
	for column := range r.byColumn {
		named = append(named, column)
	}
	if c := r.get("order"); c.Value == "ranked" {
		keys, _ := parseRanking(c.Argument) // checked when it was set
		for _, k := range keys {
			named = append(named, k.Name)
		}
	}
	slices.Sort(named)
	for _, n := range named {
		if !known[fold(n)] {
			return ruleError(BadValue, "the rules name the column %q, which the expected table does not have; %s", n,
				near.Hint(n, expected))
		}
	}
	return nil
}

// Choice is a rule as it is set for a whole table, or its default.
func (r Rules) Choice(key string) Choice { return r.get(key) }

// Sets tells whether a rule is set for the whole table.
func (r Rules) Sets(key string) bool {
	_, set := r.choices[key]
	return set
}

// SetsAnywhere tells whether a rule is set for the whole table or for a column.
func (r Rules) SetsAnywhere(key string) bool {
	for _, column := range r.byColumn {
		if _, set := column[key]; set {
			return true
		}
	}
	return r.Sets(key)
}
