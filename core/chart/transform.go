package chart

import (
	"encoding/json"
	"fmt"
	"maps"
	"slices"
	"strconv"
	"strings"

	"tovrel/core/pattern"
	"tovrel/core/table"
	"tovrel/core/value"
)

// Transform is a step that changes a chart's data. It is one of Aggregate, BinField, UnitField, Filter, SortRows.
type Transform interface {
	apply(*table.Table) *table.Table
}

// Aggregate groups rows.
type Aggregate struct {
	By       []string
	Measures []Measure
}

// Measure is an aggregate of a field under a name.
type Measure struct{ Op, Field, As string }

// BinField adds a column with the beginning of the interval in which a number lies.
type BinField struct {
	Field, As string
	Step      float64 // 0 where about ten intervals are wanted
}

// UnitField adds a column with the part of time in which a date lies.
type UnitField struct{ Unit, Field, As string }

// Filter keeps the rows that all conditions hold for.
type Filter struct{ All []Condition }

// Condition compares a field.
type Condition struct {
	Field  string
	Op     string // =, !=, <, <=, >, >=, in, range, valid
	Values []string
}

// SortRows orders rows by fields.
type SortRows struct{ By []SortField }

// SortField is a field by which rows are ordered.
type SortField struct {
	Field      string
	Descending bool
}

func (r *reader) transforms(raw json.RawMessage) {
	var all []json.RawMessage
	if json.Unmarshal(raw, &all) != nil {
		r.fail("transform", "it must be a list")
		return
	}
	for i, one := range all {
		at := fmt.Sprintf("transform[%d]", i)
		def := r.object(one, at)
		var t Transform
		switch {
		case def == nil:
			return
		case def["aggregate"] != nil:
			t = r.aggregateStep(def, at)
		case def["bin"] != nil:
			t = r.binStep(def, at)
		case def["timeUnit"] != nil:
			t = UnitField{r.timeUnit(def["timeUnit"], at+".timeUnit"), plainField(r.text(def["field"], at+".field")), r.text(def["as"],
				at+".as")}
		case def["filter"] != nil:
			t = r.filterStep(def["filter"], at+".filter")
		case def["sort"] != nil:
			t = r.sortStep(def["sort"], at+".sort")
		default:
			r.beyond("it has the transform %s", strings.Join(slices.Sorted(maps.Keys(def)), ", "))
			continue
		}
		r.spec.Transform = append(r.spec.Transform, t)
	}
}

func (r *reader) aggregateStep(def map[string]json.RawMessage, at string) Transform {
	var a Aggregate
	if by, has := def["groupby"]; has && json.Unmarshal(by, &a.By) != nil {
		r.fail(at+".groupby", "it must be a list of fields")
	}
	var all []map[string]string
	if json.Unmarshal(def["aggregate"], &all) != nil {
		r.fail(at+".aggregate", "it must be a list of objects with op, field and as")
		return a
	}
	for i, m := range all {
		where := fmt.Sprintf("%s.aggregate[%d].op", at, i)
		op, _ := json.Marshal(m["op"]) // a text always encodes
		one := Measure{r.oneOf(op, where, "aggregate", aggregates, others), plainField(m["field"]), m["as"]}
		if one.As == "" {
			one.As = strings.TrimSuffix(one.Op+"_"+one.Field, "_")
		}
		a.Measures = append(a.Measures, one)
	}
	return a
}

func (r *reader) binStep(def map[string]json.RawMessage, at string) Transform {
	b := BinField{Field: plainField(r.text(def["field"], at+".field"))}
	var several []string
	if json.Unmarshal(def["as"], &several) == nil && len(several) > 0 {
		b.As = several[0]
	} else {
		b.As = r.text(def["as"], at+".as")
	}
	var options struct{ Step float64 }
	if json.Unmarshal(def["bin"], &options) == nil {
		b.Step = options.Step
	}
	return b
}

func (r *reader) sortStep(raw json.RawMessage, at string) Transform {
	var all []struct{ Field, Order string }
	if json.Unmarshal(raw, &all) != nil {
		r.fail(at, "it must be a list of objects with field and order")
	}
	var s SortRows
	for _, f := range all {
		s.By = append(s.By, SortField{plainField(f.Field), f.Order == "descending"})
	}
	return s
}

// filterStep reads comparisons of fields; anything else is beyond what is judged.
func (r *reader) filterStep(raw json.RawMessage, at string) Transform {
	var text string
	if json.Unmarshal(raw, &text) == nil {
		return r.expression(text)
	}
	def := r.object(raw, at)
	var f Filter
	if parts, has := def["and"]; has {
		var all []json.RawMessage
		if json.Unmarshal(parts, &all) != nil {
			r.fail(at+".and", "it must be a list")
		}
		for i, one := range all {
			if inner, ok := r.filterStep(one, fmt.Sprintf("%s.and[%d]", at, i)).(Filter); ok {
				f.All = append(f.All, inner.All...)
			}
		}
		return f
	}
	field, has := def["field"]
	if !has {
		r.beyond("it has a filter that compares no field")
		return f
	}
	c := Condition{Field: plainField(r.text(field, at+".field"))}
	for key, op := range map[string]string{"equal": "=", "lt": "<", "lte": "<=", "gt": ">", "gte": ">=", "oneOf": "in", "range": "range",
		"valid": "valid"} {
		if operand, has := def[key]; has {
			c.Op, c.Values = op, operands(operand)
		}
	}
	if c.Op == "" || def["timeUnit"] != nil {
		r.beyond("it has a filter that is no comparison of a field")
	}
	f.All = append(f.All, c)
	return f
}

// operands are a JSON value, or those of a list, as texts.
func operands(raw json.RawMessage) []string {
	var list []json.RawMessage
	if json.Unmarshal(raw, &list) != nil {
		list = []json.RawMessage{raw}
	}
	var out []string
	for _, one := range list {
		out = append(out, table.CellFromJSON(one).Text)
	}
	return out
}

var comparison = pattern.Of(`^\s*datum(?:\.(\w+)|\[['"]([^'"]+)['"]\])\s*(===?|!==?|<=|>=|<|>)\s*(?:'([^']*)'|"([^"]*)"` +
	`|(-?[\d.]+|true|false))\s*$`)

// expression reads "datum.x > 5 && datum.y == 'a'".
func (r *reader) expression(text string) Transform {
	var f Filter
	for part := range strings.SplitSeq(text, "&&") {
		m := comparison.FindStringSubmatch(strings.Trim(strings.TrimSpace(part), "()"))
		if m == nil {
			r.beyond("it has a filter that is no comparison of a field")
			return f
		}
		op := map[string]string{"==": "=", "===": "=", "!=": "!=", "!==": "!="}[m[3]]
		if op == "" {
			op = m[3]
		}
		f.All = append(f.All, Condition{m[1] + m[2], op, []string{m[4] + m[5] + m[6]}})
	}
	return f
}

// tableOf reads rows that are objects; the columns are all their keys, in the order in which they first stand.
func tableOf(rows []json.RawMessage) (*table.Table, *Problem) {
	var names []string
	index := map[string]int{}
	cells := make([][]table.Cell, len(rows))
	for i, raw := range rows {
		at := fmt.Sprintf("data.values[%d]", i)
		keys, object, err := ordered(raw)
		if err != nil {
			return nil, &Problem{at, "it must be an object"}
		}
		for _, key := range keys {
			if _, known := index[key]; !known {
				index[key] = len(names)
				names = append(names, key)
			}
		}
		cells[i] = make([]table.Cell, 0, len(names))
		for _, name := range names {
			if value, has := object[name]; has {
				cells[i] = append(cells[i], table.CellFromJSON(value))
			} else {
				cells[i] = append(cells[i], table.Cell{Null: true})
			}
		}
	}
	for i := range cells {
		for len(cells[i]) < len(names) {
			cells[i] = append(cells[i], table.Cell{Null: true})
		}
	}
	t, err := table.FromRows(names, cells)
	if err != nil {
		return nil, &Problem{"data.values", err.Error()}
	}
	return t, nil
}

// ordered reads an object with its keys in their order.
func ordered(raw json.RawMessage) ([]string, map[string]json.RawMessage, error) {
	var object map[string]json.RawMessage
	if err := json.Unmarshal(raw, &object); err != nil || object == nil {
		return nil, nil, fmt.Errorf("no object")
	}
	decoder := json.NewDecoder(strings.NewReader(string(raw)))
	var keys []string
	if _, err := decoder.Token(); err != nil {
		return nil, nil, err
	}
	for decoder.More() {
		key, err := decoder.Token()
		if err != nil {
			return nil, nil, err
		}
		name, _ := key.(string) // a key of an object is one
		if !slices.Contains(keys, name) {
			keys = append(keys, name)
		}
		var skip json.RawMessage
		if err := decoder.Decode(&skip); err != nil {
			return nil, nil, err
		}
	}
	return keys, object, nil
}

// holds tells whether a condition holds for a cell.
func (c Condition) holds(v value.Value) bool {
	if c.Op == "valid" {
		return !v.IsNull()
	}
	if v.IsNull() || len(c.Values) == 0 {
		return false
	}
	switch c.Op {
	case "in":
		return slices.ContainsFunc(c.Values, func(text string) bool { return compare(v, text) == 0 })
	case "range":
		return len(c.Values) == 2 && compare(v, c.Values[0]) >= 0 && compare(v, c.Values[1]) <= 0
	}
	n := compare(v, c.Values[0])
	return map[string]bool{"=": n == 0, "!=": n != 0, "<": n < 0, "<=": n <= 0, ">": n > 0, ">=": n >= 0}[c.Op]
}

// compare compares a cell with a text that is read as the cell's kind.
func compare(v value.Value, text string) int {
	if x, ok := v.Float64(); ok && v.Kind().Number() {
		if y, err := strconv.ParseFloat(text, 64); err == nil {
			switch {
			case x < y:
				return -1
			case x > y:
				return 1
			}
			return 0
		}
	}
	return strings.Compare(v.String(), text)
}
