package match

import (
	"cmp"
	"encoding/json"
	"math"
	"strings"

	"golang.org/x/text/cases"
	"golang.org/x/text/unicode/norm"

	"tovrel/core/table"
	"tovrel/core/value"
)

// class is the form in which the cells of two aligned columns meet.
type class uint8

const (
	classTicks class = iota // booleans, dates, times, timestamps, integers and decimals as whole 64-bit numbers
	classFloat
	classText
)

// lane is a column's cells in the form of a class.
type lane struct {
	class  class
	scale  int    // of ticks: digits after the point
	nulls  []bool // nil while there is none
	ticks  []int64
	floats []float64
	texts  []string
}

func (l *lane) null(row int) bool { return l.nulls != nil && l.nulls[row] }

// meet brings an expected and an answer column to one form, as people would read their types: numbers by value (never
// through floats where both are exact), a date and a timestamp at midnight, text in canonical form and what it
// spells. Columns whose types do not meet are compared as texts that never agree.
func meet(expected, answer *table.Column, r columnRules) (lane, lane) {
	e, a := expected, answer
	if e.Type.Kind == value.Text && a.Type.Kind != value.Text {
		e = reread(e, a.Type, r)
	} else if a.Type.Kind == value.Text && e.Type.Kind != value.Text {
		a = reread(a, e.Type, r)
	}
	le, la := lanes(e, a, r)
	if r.null == "zero" && e.Type.Kind.Number() && a.Type.Kind.Number() {
		le.nullsToZero()
		la.nullsToZero()
	}
	return le, la
}

// nullsToZero makes nulls noughts. The vectors of numbers hold noughts there already.
func (l *lane) nullsToZero() {
	for i := range l.texts {
		if l.null(i) {
			l.texts[i] = "0"
		}
	}
	l.nulls = nil
}

// position is a number that orders cells so that equal ones lie close.
func (l *lane) position(row int) float64 {
	switch {
	case l.null(row):
		return math.Inf(1)
	case l.class == classFloat && math.IsNaN(l.floats[row]):
		return math.MaxFloat64
	case l.class == classFloat:
		return l.floats[row]
	case l.class == classTicks:
		return float64(l.ticks[row])
	}
	return 0
}

// unit is how many positions one whole number spans: more than 1 where decimals are kept as whole ticks.
func (l *lane) unit() float64 { return math.Pow10(l.scale) }

// order compares the cells of two lanes of one class: nulls last, ticks exactly.
func order(x *lane, i int, y *lane, j int) int {
	if x.class == classTicks && !x.null(i) && !y.null(j) {
		return cmp.Compare(x.ticks[i], y.ticks[j])
	}
	return cmp.Compare(x.position(i), y.position(j))
}

func lanes(e, a *table.Column, r columnRules) (lane, lane) {
	ek, ak := e.Type.Kind, a.Type.Kind
	switch {
	case ek.Number() && ak.Number():
		if ek == value.Float || ak == value.Float {
			return floatLane(e), floatLane(a)
		}
		if le, la, ok := exactLanes(e, a); ok {
			return le, la
		}
		return numberTexts(e), numberTexts(a)
	case ek == value.Bool && ak.Number() && zeroOne(a):
		return ticksLane(e), ticksLane(rescaled(a))
	case instant(ek) && instant(ak):
		return instantLane(e), instantLane(a)
	case ek == ak && (ek == value.Bool || ek == value.Time):
		return ticksLane(e), ticksLane(a)
	case ek == ak && ek == value.Interval:
		return intervalLane(e), intervalLane(a)
	}
	return textLane(e, ak, r), textLane(a, ek, r)
}

func instant(k value.Kind) bool {
	return k == value.Date || k == value.Timestamp || k == value.TimestampTZ
}

// reread gives a text column as another type when every cell is in that type's canonical form, else as it is.
func reread(c *table.Column, t value.Type, r columnRules) *table.Column {
	cells := make([]table.Cell, c.Len())
	for i, s := range c.Texts() {
		text := strings.TrimSpace(s)
		cells[i] = table.Cell{Text: text, Null: c.IsNull(i) || r.null == "blank" && text == ""}
	}
	inferred := table.Infer(cells)
	if t.Kind == value.Bool && inferred.Kind == value.Int || inferred.Kind.Number() && t.Kind.Number() ||
		instant(inferred.Kind) && instant(t.Kind) || inferred.Kind == t.Kind {
		return table.FromCells(c.Name, cells)
	}
	for _, cell := range cells {
		if !cell.Null {
			return c
		}
	}
	return nullColumn(c, t)
}

func nullColumn(c *table.Column, t value.Type) *table.Column {
	out := table.NewColumn(c.Name, t, c.Len())
	for range c.Len() {
		out.AppendNull()
	}
	return out
}

func ticksLane(c *table.Column) lane {
	return lane{class: classTicks, nulls: c.Nulls(), ticks: c.Ints()}
}

func instantLane(c *table.Column) lane {
	if c.Type.Kind != value.Date {
		return ticksLane(c)
	}
	ticks := make([]int64, c.Len())
	for i := range ticks {
		ticks[i] = c.Value(i).Micros()
	}
	return lane{class: classTicks, nulls: c.Nulls(), ticks: ticks}
}

// intervalLane takes a month as 30 days and a day as 24 hours, as the engine's own comparison does.
func intervalLane(c *table.Column) lane {
	ticks := make([]int64, c.Len())
	for i := range ticks {
		months, days, us := c.Value(i).IntervalParts()
		ticks[i] = (int64(months)*30+int64(days))*86_400_000_000 + us
	}
	return lane{class: classTicks, nulls: c.Nulls(), ticks: ticks}
}

func floatLane(c *table.Column) lane {
	l := lane{class: classFloat, nulls: c.Nulls(), floats: c.Floats()}
	if c.Type.Kind == value.Float {
		return l
	}
	l.floats = make([]float64, c.Len())
	for i := range l.floats {
		l.floats[i], _ = c.Value(i).Float64()
	}
	return l
}

// exactLanes brings two exact columns to one scale; false where a cell is too wide for that.
func exactLanes(e, a *table.Column) (lane, lane, bool) {
	scale := max(e.Type.Scale, a.Type.Scale)
	te, okE := scaledTicks(e, scale)
	ta, okA := scaledTicks(a, scale)
	return lane{class: classTicks, scale: scale, nulls: e.Nulls(), ticks: te},
		lane{class: classTicks, scale: scale, nulls: a.Nulls(), ticks: ta}, okE && okA
}

func scaledTicks(c *table.Column, scale int) ([]int64, bool) {
	ints := c.Ints()
	if ints == nil && c.Len() > 0 || scale-c.Type.Scale > 18 {
		return nil, false
	}
	if scale == c.Type.Scale {
		return ints, true
	}
	unit := int64(math.Pow10(scale - c.Type.Scale))
	out := make([]int64, len(ints))
	for i, v := range ints {
		if v > math.MaxInt64/unit || v < math.MinInt64/unit {
			return nil, false
		}
		out[i] = v * unit
	}
	return out, true
}

// numberTexts gives exact numbers of any size as texts without trailing zeros.
func numberTexts(c *table.Column) lane {
	texts := make([]string, c.Len())
	for i := range texts {
		texts[i] = c.Value(i).String()
		if strings.Contains(texts[i], ".") {
			texts[i] = strings.TrimRight(strings.TrimRight(texts[i], "0"), ".")
		}
	}
	return lane{class: classText, nulls: c.Nulls(), texts: texts}
}

func zeroOne(c *table.Column) bool {
	for i := range c.Len() {
		if c.IsNull(i) {
			continue
		}
		if f, _ := c.Value(i).Float64(); f != 0 && f != 1 {
			return false
		}
	}
	return true
}

// rescaled gives a column of noughts and ones as integers.
func rescaled(c *table.Column) *table.Column {
	out := table.NewColumn(c.Name, value.Type{Kind: value.Int}, c.Len())
	for i := range c.Len() {
		if c.IsNull(i) {
			out.AppendNull()
			continue
		}
		f, _ := c.Value(i).Float64()
		out.AppendInt(int64(f))
	}
	return out
}

// textLane gives cells as texts. Cells of a kind that does not meet the other side's carry their kind, so that they
// never agree with text that only looks the same.
func textLane(c *table.Column, other value.Kind, r columnRules) lane {
	l := lane{class: classText, nulls: c.Nulls()}
	if c.Type.Kind == value.Text && other != value.JSON && !r.fold && r.null != "blank" && trimmed(c.Texts()) {
		l.texts = c.Texts()
		return l
	}
	l.texts = make([]string, c.Len())
	blanks := make([]bool, c.Len())
	for i := range l.texts {
		text := textOf(c.Value(i), other)
		if r.fold {
			text = foldText(text)
		}
		blanks[i] = l.null(i) || text == ""
		l.texts[i] = text
	}
	if r.null == "blank" {
		l.nulls = blanks
	}
	return l
}

// trimmed tells whether no text has outer spaces, so that the column's own vector can be compared.
func trimmed(texts []string) bool {
	for _, s := range texts {
		if s != "" && (s[0] <= ' ' || s[0] >= 0x80 || s[len(s)-1] <= ' ' || s[len(s)-1] >= 0x80) && strings.TrimSpace(s) != s {
			return false
		}
	}
	return true
}

// foldText folds case, the composition of accents and runs of space.
func foldText(s string) string {
	return strings.Join(strings.Fields(cases.Fold().String(norm.NFC.String(s))), " ")
}

func textOf(v value.Value, other value.Kind) string {
	switch {
	case v.Kind() == value.Text && other == value.JSON:
		return canonicalJSON(strings.TrimSpace(v.Str()))
	case v.Kind() == value.Text:
		return strings.TrimSpace(v.Str())
	case v.Kind() == value.JSON && (other == value.JSON || other == value.Text):
		return canonicalJSON(v.Str())
	case v.Kind() == other, other == value.Text:
		return v.String()
	}
	return v.Kind().String() + ":" + v.String()
}

// canonicalJSON is a list or struct with sorted keys and no spaces, so that it compares by value.
func canonicalJSON(s string) string {
	decoder := json.NewDecoder(strings.NewReader(s))
	decoder.UseNumber()
	var v any
	if decoder.Decode(&v) != nil {
		return s
	}
	b, err := json.Marshal(v)
	if err != nil {
		return s
	}
	return string(b)
}
