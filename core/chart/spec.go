// Package chart reads the charts of replies (specifications of Vega-Lite, an open format), computes the data that one draws, and holds
// its form against what a question asks. A specification is untrusted: it is read into a Spec, what is not known is dropped and listed,
// and nothing of it is passed on or loaded.
package chart

import (
	"encoding/json"
	"fmt"
	"maps"
	"slices"

	"tovrel/core/near"
	"tovrel/core/table"
)

// Spec is a chart of one view.
type Spec struct {
	Mark      string
	Channels  []Channel // in the order of channelNames
	Transform []Transform
	Values    *table.Table // its own data; nil where the reply's query gives them
	Dropped   []string     // keys that are not known, with their place
	// why it cannot be judged, though it may be sound: it has layers, facets, another transform, data at an address; "" where it can
	Beyond string
}

// Channel is what a visual channel shows.
type Channel struct {
	Name      string // x, y, color, …
	Field     string // "" for a count
	Type      string // quantitative, nominal, ordinal, temporal; "" where it is not said
	Aggregate string
	TimeUnit  string
	Bin       bool
	Sort      Sort
	Title     *string // of its axis or legend; nil where none is given, "" where it is taken away
	FromZero  *bool   // the scale begins at zero; nil where it is not said
}

// Sort is the order of a channel's values.
type Sort struct {
	Kind       string // "" by value, "data" as the rows stand, "by" by another channel or field, "list" as listed
	By         string // a channel, such as y, or a field
	Op         string // aggregate of the field
	Descending bool
	List       []string
}

// Problem is what is wrong with a specification, with the key and its place in it.
type Problem struct {
	Path    string // such as encoding.y.aggregate
	Message string
}

func (p *Problem) Error() string { return fmt.Sprintf("chart, at %s: %s", p.Path, p.Message) }

var (
	marks = []string{"arc", "area", "bar", "boxplot", "circle", "errorband", "errorbar", "geoshape", "image", "line", "point", "rect",
		"rule",
		"square", "text", "tick", "trail"}
	channelNames = []string{"x", "y", "color", "theta", "radius", "size", "shape", "opacity", "strokeDash", "detail", "column", "row",
		"facet",
		"text", "fill", "stroke", "x2", "y2", "xOffset", "yOffset", "tooltip", "order", "url", "href", "key", "description", "angle",
		"latitude",
		"longitude", "theta2", "radius2", "fillOpacity", "strokeOpacity", "strokeWidth", "xError", "yError"}
	types      = []string{"quantitative", "nominal", "ordinal", "temporal", "geojson"}
	aggregates = []string{"count", "valid", "distinct", "sum", "mean", "average", "median", "min", "max"}
	// others are aggregates of the format that are not computed here.
	others = []string{"missing", "product", "variance", "variancep", "stdev", "stdevp", "stderr", "q1", "q3", "ci0", "ci1", "argmin",
		"argmax", "values"}
	// composed are the keys of views that are made of several.
	composed = []string{"layer", "facet", "hconcat", "vconcat", "concat", "repeat"}
	// plainKeys say nothing of data or form that is judged.
	plainKeys = []string{"$schema", "title", "description", "name", "width", "height", "autosize", "background", "padding", "config",
		"usermeta", "view"}
)

// reader reads a specification and notes the first problem.
type reader struct {
	spec    Spec
	problem *Problem
}

func (r *reader) fail(path, format string, args ...any) {
	if r.problem == nil {
		r.problem = &Problem{path, fmt.Sprintf(format, args...)}
	}
}

func (r *reader) beyond(format string, args ...any) {
	if r.spec.Beyond == "" {
		r.spec.Beyond = fmt.Sprintf(format, args...)
	}
}

func (r *reader) drop(path string) { r.spec.Dropped = append(r.spec.Dropped, path) }

// Parse reads a specification. The error is a *Problem.
func Parse(raw []byte) (Spec, error) {
	r := &reader{}
	top := r.object(raw, "chart")
	for _, key := range composed {
		if _, has := top[key]; has {
			r.beyond("it is made of several views (%s)", key)
			return r.spec, r.err()
		}
	}
	for _, key := range slices.Sorted(maps.Keys(top)) {
		switch value := top[key]; key {
		case "mark":
			r.mark(value)
		case "encoding":
			r.encoding(value)
		case "transform":
			r.transforms(value)
		case "data":
			r.data(value)
		default:
			if !slices.Contains(plainKeys, key) {
				r.drop(key)
			}
		}
	}
	if _, has := top["mark"]; !has && r.problem == nil {
		r.fail("mark", "a chart has a mark, such as \"bar\"")
	}
	if _, has := top["encoding"]; !has && r.problem == nil {
		r.fail("encoding", "a chart has an encoding, such as {\"x\": {\"field\": \"district\"}}")
	}
	return r.spec, r.err()
}

func (r *reader) err() error {
	if r.problem == nil {
		return nil
	}
	return r.problem
}

// object reads a JSON object; nil with a problem for anything else.
func (r *reader) object(raw json.RawMessage, path string) map[string]json.RawMessage {
	var out map[string]json.RawMessage
	if json.Unmarshal(raw, &out) != nil || out == nil {
		r.fail(path, "it must be an object")
		return nil
	}
	return out
}

func (r *reader) text(raw json.RawMessage, path string) string {
	var out string
	if json.Unmarshal(raw, &out) != nil {
		r.fail(path, "it must be a text")
	}
	return out
}

// oneOf reads a text that must be one of some; beyond are those of the format that are not judged.
func (r *reader) oneOf(raw json.RawMessage, path, what string, known, beyond []string) string {
	text := r.text(raw, path)
	switch {
	case r.problem != nil || slices.Contains(known, text):
	case slices.Contains(beyond, text):
		r.beyond("it has the %s %s", what, text)
	default:
		r.fail(path, "there is no %s %q; %s", what, text, near.Hint(text, known))
	}
	return text
}

func (r *reader) mark(raw json.RawMessage) {
	if len(raw) > 0 && raw[0] == '{' {
		m := r.object(raw, "mark")
		kind, has := m["type"]
		if !has {
			r.fail("mark.type", "a mark has a type, such as \"bar\"")
			return
		}
		r.spec.Mark = r.oneOf(kind, "mark.type", "mark", marks, nil)
		return
	}
	r.spec.Mark = r.oneOf(raw, "mark", "mark", marks, nil)
}

// data reads the chart's own values.
func (r *reader) data(raw json.RawMessage) {
	if string(raw) == "null" {
		return
	}
	d := r.object(raw, "data")
	values, has := d["values"]
	if !has {
		if _, address := d["url"]; address {
			r.beyond("its data stand at an address, which is not loaded")
		}
		return
	}
	var rows []json.RawMessage
	if json.Unmarshal(values, &rows) != nil {
		r.fail("data.values", "it must be a list of objects")
		return
	}
	t, problem := tableOf(rows)
	if problem != nil {
		r.fail(problem.Path, "%s", problem.Message)
		return
	}
	r.spec.Values = t
}

// Channel is the channel of a name; false where the chart has none.
func (s Spec) Channel(name string) (Channel, bool) {
	for _, c := range s.Channels {
		if c.Name == name {
			return c, true
		}
	}
	return Channel{}, false
}
