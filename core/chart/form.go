package chart

import (
	"fmt"
	"slices"
	"strings"

	"tovrel/core/fault"
	"tovrel/core/value"
)

// Form is what a question asks of a chart's form. What is left out does not count.
type Form struct {
	Marks  []string
	Fields map[string]string // by channel: the expected column that it shows; "none" for a channel that must not be there
	Sort   string            // x or y for rising, -x or -y for falling, by what the categories are ordered
	Zero   bool              // bars begin at zero
	Titles bool              // axes are named, with their units
}

// NoField is the field of a channel that must not be there.
const NoField = "none"

// Keys are those of a form.
func Keys() []string { return append([]string{"mark", "sort", "zero", "titles"}, FieldChannels()...) }

// FieldChannels are the channels whose column a form may name.
func FieldChannels() []string { return []string{"x", "y", "color", "theta", "size", "shape"} }

// Marks are the marks that there are.
func Marks() []string { return slices.Clone(marks) }

// Shown tells which expected column a drawn one is; "" for none.
type Shown func(column int) string

// Faults holds a chart's form against what is asked. Units are those of the expected columns, by name.
func (f Form) Faults(s Spec, d Drawn, shown Shown, units map[string]string) []fault.Fault {
	var out []fault.Fault
	add := func(code fault.Code, format string, args ...any) {
		out = append(out, fault.Fault{Code: code, Certainty: fault.Proved, Evidence: fmt.Sprintf(format, args...)})
	}
	if len(f.Marks) > 0 && !slices.Contains(f.Marks, s.Mark) {
		add(fault.ChartMark, "the chart is drawn as %s where %s is asked", s.Mark, strings.Join(f.Marks, " or "))
	}
	for _, name := range FieldChannels() {
		want, asked := f.Fields[name]
		if !asked {
			continue
		}
		if message := d.field(name, want, shown); message != "" {
			add(fault.ChartField, "%s", message)
		}
	}
	if f.Sort != "" {
		if message := f.order(s, d); message != "" {
			add(fault.ChartSort, "%s", message)
		}
	}
	if f.Zero && oneOf(s.Mark, "bar", "area") {
		for _, c := range s.Channels {
			if oneOf(c.Name, "x", "y") && c.FromZero != nil && !*c.FromZero {
				add(fault.ChartBaseline, "the %s axis does not begin at zero", c.Name)
			}
		}
	}
	if f.Titles {
		for i, name := range d.Channels {
			if c, _ := s.Channel(name); oneOf(name, "x", "y") {
				if message := c.untitled(shown(i), units[shown(i)]); message != "" {
					add(fault.ChartTitle, "%s", message)
				}
			}
		}
	}
	return out
}

// field says what is wrong with the column that a channel shows; "" for nothing.
func (d Drawn) field(channel, want string, shown Shown) string {
	at := slices.Index(d.Channels, channel)
	switch {
	case want == NoField && at < 0:
		return ""
	case want == NoField:
		return fmt.Sprintf("%s shows %s where it is to show nothing", channel, d.Table.Columns[at].Name)
	case at < 0:
		return fmt.Sprintf("%s shows nothing where %s is asked", channel, want)
	}
	got := shown(at)
	if strings.EqualFold(got, want) || got == "" && strings.EqualFold(d.Table.Columns[at].Name, want) {
		return ""
	}
	return fmt.Sprintf("%s shows %s where %s is asked", channel, d.Table.Columns[at].Name, want)
}

// untitled says what an axis lacks: a title, or the unit in it; "" for nothing. Without a title of its own an axis is named after its
// field.
func (c Channel) untitled(column, unit string) string {
	title := c.Field
	if c.Title != nil {
		title = strings.TrimSpace(*c.Title)
	}
	switch {
	case title == "":
		return fmt.Sprintf("the %s axis has no title", c.Name)
	case unit != "" && !unitIn(title, unit):
		return fmt.Sprintf("the title of the %s axis, %q, does not say the unit %s of %s", c.Name, title, unit, column)
	}
	return ""
}

// unitIn tells whether a title has a unit as a word, or under another of its names.
func unitIn(title, unit string) bool {
	names := map[string][]string{"l": {"litre", "liter"}, "eur": {"euro", "€"}, "usd": {"dollar", "$"}, "gbp": {"pound", "£"},
		"kg": {"kilogram"},
		"h":  {"hour"}, "min": {"minute"}, "%": {"percent", "per cent", "share"}, "fraction": {"share", "%", "percent"}, "km": {"kilomet"}}
	between := func(r rune) bool { return strings.ContainsRune(" ()[],;:/", r) }
	if slices.ContainsFunc(strings.FieldsFunc(title, between), func(w string) bool { return strings.EqualFold(w, unit) }) ||
		strings.ContainsAny(unit, " /") && strings.Contains(strings.ToLower(title), strings.ToLower(unit)) {
		return true
	}
	return slices.ContainsFunc(names[strings.ToLower(unit)], func(n string) bool { return strings.Contains(strings.ToLower(title), n) })
}

// order says what is wrong with the order of the categories; "" for nothing. Ties may stand in any order.
func (f Form) order(s Spec, d Drawn) string {
	by, down := strings.CutPrefix(f.Sort, "-")
	other := map[string]string{"x": "y", "y": "x"}[by]
	sorted, ordered := slices.Index(d.Channels, by), slices.Index(d.Channels, other)
	if ordered < 0 || sorted < 0 {
		return fmt.Sprintf("the chart has no %s to be ordered by", by)
	}
	axis, _ := s.Channel(other)
	if c, _ := s.Channel(by); c.Type == "nominal" || c.Aggregate == "" && c.Type != "quantitative" &&
		!d.Table.Columns[sorted].Type.Kind.Number() {
		axis, ordered = c, sorted // the categories themselves are what is ordered
	}
	rows := d.displayed(axis, ordered)
	for k := 1; k < len(rows); k++ {
		n := value.Compare(d.Table.Columns[sorted].Value(rows[k-1]), d.Table.Columns[sorted].Value(rows[k]))
		if down && n < 0 || !down && n > 0 {
			direction := map[bool]string{true: "falling", false: "rising"}[down]
			return fmt.Sprintf("%s stands before %s, though the order is to be by %s, %s", d.Table.Columns[ordered].Value(rows[k-1]),
				d.Table.Columns[ordered].Value(rows[k]), d.Table.Columns[sorted].Name, direction)
		}
	}
	return ""
}

// Displayed is what is drawn with its rows in the order in which the axis of the categories shows them.
func (d Drawn) Displayed(s Spec) Drawn {
	label, _ := d.Axes()
	if label < 0 {
		return d
	}
	axis, _ := s.Channel(d.Channels[label])
	return Drawn{d.Table.Pick(d.displayed(axis, label)), d.Channels}
}

// displayed are the rows in the order in which an axis shows them.
func (d Drawn) displayed(axis Channel, shown int) []int {
	rows := places(d.Table)
	c := d.Table.Columns[shown]
	keyed := c
	switch axis.Sort.Kind {
	case "data":
		return rows
	case "list":
		slices.SortStableFunc(rows, func(a, b int) int {
			return place(axis.Sort.List, c.Value(a).String()) - place(axis.Sort.List, c.Value(b).String())
		})
		return rows
	case "by":
		if at := slices.Index(d.Channels, axis.Sort.By); at >= 0 {
			keyed = d.Table.Columns[at]
		} else if found := column(d.Table, axis.Sort.By); found != nil {
			keyed = found
		}
	}
	slices.SortStableFunc(rows, func(a, b int) int {
		n := value.Compare(keyed.Value(a), keyed.Value(b))
		if axis.Sort.Descending {
			return -n
		}
		return n
	})
	return rows
}

func place(list []string, text string) int {
	if at := slices.Index(list, text); at >= 0 {
		return at
	}
	return len(list)
}

func formatDay(year, month, day int) string { return fmt.Sprintf("%04d-%02d-%02d", year, month, day) }

// Words say what a chart shows, in a sentence.
func (s Spec) Words() string {
	parts := []string{"A " + s.Mark + " chart"}
	for _, c := range s.Channels {
		if oneOf(c.Name, "tooltip", "detail", "order", "href", "url", "key", "description") {
			continue
		}
		shows := c.Field
		if c.Aggregate != "" {
			shows = strings.TrimSpace(c.Aggregate + " of " + shows)
			shows = strings.TrimSuffix(shows, " of")
		}
		if c.TimeUnit != "" {
			shows += " by " + c.TimeUnit
		}
		if c.Bin {
			shows += " in intervals"
		}
		if c.Sort.Kind == "by" {
			shows += ", ordered by " + c.Sort.By + map[bool]string{true: " falling", false: " rising"}[c.Sort.Descending]
		}
		if c.Title != nil && *c.Title != "" {
			shows += fmt.Sprintf(", titled %q", *c.Title)
		}
		if c.FromZero != nil && !*c.FromZero {
			shows += ", not from zero"
		}
		parts = append(parts, c.Name+" shows "+shows)
	}
	return strings.Join(parts, "; ") + "."
}

// Axes are the columns by which a drawing names its marks, and that it draws; -1 for none.
func (d Drawn) Axes() (label, number int) {
	label, number = -1, -1
	for i, c := range d.Table.Columns {
		switch {
		case c.Type.Kind.Number() && number < 0 && (d.Channels[i] != "x" || len(d.Table.Columns) == 1 ||
			!d.Table.Columns[1].Type.Kind.Number()):
			number = i
		case label < 0:
			label = i
		}
	}
	return label, number
}
