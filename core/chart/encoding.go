package chart

import (
	"encoding/json"
	"maps"
	"slices"
	"strings"
)

// encoding reads the channels.
func (r *reader) encoding(raw json.RawMessage) {
	all := r.object(raw, "encoding")
	for _, name := range slices.Sorted(maps.Keys(all)) {
		if !slices.Contains(channelNames, name) {
			r.drop("encoding." + name)
		}
	}
	for _, name := range channelNames {
		value, has := all[name]
		if !has || string(value) == "null" {
			continue
		}
		if value[0] == '[' { // several fields of a tooltip or detail draw nothing
			continue
		}
		path := "encoding." + name
		if oneOf(name, "column", "row", "facet") {
			r.beyond("it is made of several views (%s)", path)
			continue
		}
		if c, shows := r.channel(name, r.object(value, path)); shows {
			r.spec.Channels = append(r.spec.Channels, c)
		}
	}
}

func oneOf(text string, all ...string) bool { return slices.Contains(all, text) }

// channel reads a channel; false where it shows no data, such as a constant colour.
func (r *reader) channel(name string, def map[string]json.RawMessage) (Channel, bool) {
	path := "encoding." + name
	c := Channel{Name: name}
	for _, key := range slices.Sorted(maps.Keys(def)) {
		at, value := path+"."+key, def[key]
		switch key {
		case "field":
			if len(value) > 0 && value[0] == '{' {
				r.beyond("it repeats a field (%s)", at)
				continue
			}
			c.Field = plainField(r.text(value, at))
		case "type":
			c.Type = r.oneOf(value, at, "type", types, nil)
		case "aggregate":
			r.aggregate(value, at, &c)
		case "timeUnit":
			c.TimeUnit = r.timeUnit(value, at)
		case "bin":
			c.Bin = string(value) != "false" && string(value) != "null"
		case "sort":
			c.Sort = r.sort(value, at)
		case "title":
			c.Title = r.title(value, at)
		case "axis", "legend", "header":
			r.axis(value, at, &c)
		case "scale":
			r.scale(value, at, &c)
		case "stack", "value", "datum", "condition", "impute", "band", "bandPosition", "format", "formatType":
		default:
			r.drop(at)
		}
	}
	return c, c.Field != "" || c.Aggregate != ""
}

// plainField takes the escapes of a field's name off.
func plainField(name string) string {
	return strings.NewReplacer(`\.`, ".", `\[`, "[", `\]`, "]").Replace(strings.Trim(name, "[]'"))
}

func (r *reader) aggregate(value json.RawMessage, at string, c *Channel) {
	switch {
	case string(value) == "null":
	case len(value) > 0 && value[0] == '{':
		r.beyond("it has an aggregate that takes another row (%s)", at)
	default:
		c.Aggregate = r.oneOf(value, at, "aggregate", aggregates, others)
	}
}

func (r *reader) title(value json.RawMessage, at string) *string {
	if string(value) == "null" {
		return new(string)
	}
	var lines []string
	if json.Unmarshal(value, &lines) == nil {
		return new(strings.Join(lines, " "))
	}
	return new(r.text(value, at))
}

// axis reads the title of an axis or a legend; one that is taken away has none.
func (r *reader) axis(value json.RawMessage, at string, c *Channel) {
	if oneOf(string(value), "null", "false") {
		c.Title = new(string)
		return
	}
	if title, has := r.object(value, at)["title"]; has && c.Title == nil {
		c.Title = r.title(title, at+".title")
	}
}

// scale reads whether an axis begins at zero.
func (r *reader) scale(value json.RawMessage, at string, c *Channel) {
	if string(value) == "null" {
		return
	}
	s := r.object(value, at)
	if zero, has := s["zero"]; has {
		var from bool
		if json.Unmarshal(zero, &from) != nil {
			r.fail(at+".zero", "it must be true or false")
			return
		}
		c.FromZero = &from
	}
	var domain []float64
	if json.Unmarshal(s["domain"], &domain) == nil && len(domain) > 1 {
		c.FromZero = new(min(domain[0], domain[1]) <= 0 && max(domain[0], domain[1]) >= 0)
	}
	var least float64
	if raw, has := s["domainMin"]; has && json.Unmarshal(raw, &least) == nil {
		c.FromZero = new(least <= 0)
	}
}

// sort reads the order of a channel's values.
func (r *reader) sort(value json.RawMessage, at string) Sort {
	var text string
	var list []json.RawMessage
	switch {
	case string(value) == "null":
		return Sort{Kind: "data"}
	case json.Unmarshal(value, &text) == nil:
		return r.sortText(text, at)
	case json.Unmarshal(value, &list) == nil:
		s := Sort{Kind: "list"}
		for _, one := range list {
			s.List = append(s.List, strings.Trim(string(one), `"`))
		}
		return s
	}
	def := r.object(value, at)
	s := Sort{Kind: "by"}
	if f, has := def["field"]; has {
		s.By = plainField(r.text(f, at+".field"))
	}
	if f, has := def["encoding"]; has {
		s.By = r.text(f, at+".encoding")
	}
	if f, has := def["op"]; has {
		s.Op = r.oneOf(f, at+".op", "aggregate", aggregates, others)
	}
	if f, has := def["order"]; has {
		s.Descending = r.oneOf(f, at+".order", "order", []string{"ascending", "descending"}, nil) == "descending"
	}
	if s.By == "" {
		s.Kind = ""
	}
	return s
}

func (r *reader) sortText(text, at string) Sort {
	if oneOf(text, "ascending", "descending") {
		return Sort{Descending: text == "descending"}
	}
	name, down := strings.CutPrefix(text, "-")
	if !slices.Contains(channelNames, name) {
		r.fail(at, "there is no order %q; write \"ascending\", \"descending\", or a channel such as \"-y\"", text)
	}
	return Sort{Kind: "by", By: name, Descending: down}
}

var timeUnits = []string{"year", "quarter", "month", "date", "day", "hours", "yearquarter", "yearmonth", "yearmonthdate"}

func (r *reader) timeUnit(value json.RawMessage, at string) string {
	if len(value) > 0 && value[0] == '{' {
		def := r.object(value, at)
		unit, has := def["unit"]
		if !has {
			r.fail(at+".unit", "a time unit has a unit, such as \"yearmonth\"")
			return ""
		}
		value, at = unit, at+".unit"
	}
	unit := strings.TrimPrefix(r.text(value, at), "utc")
	if r.problem == nil && !slices.Contains(timeUnits, unit) {
		r.beyond("it has the time unit %s", unit)
	}
	return unit
}
