// Package fault names the causes of wrong and failed answers. It finds none; the engine, the matcher and
// the diagnosis do.
package fault

import "slices"

// Code names a cause. Codes are stable: outputs, histories and gates use them.
type Code string

// Certainty says how well a fault is shown.
type Certainty string

// The certainties, the strongest first.
const (
	Proved   Certainty = "proved"
	Likely   Certainty = "likely"
	Possible Certainty = "possible"
)

// The codes that the present build can find.
const (
	NoReply        Code = "no-reply"
	Transport      Code = "transport"
	MalformedReply Code = "malformed-reply"

	OverBudget Code = "over-budget"

	AskedNeedlessly    Code = "asked-needlessly"
	Guessed            Code = "guessed"
	MissedAmbiguity    Code = "missed-ambiguity"
	DeclinedNeedlessly Code = "declined-needlessly"
	Overreached        Code = "overreached"

	Syntax          Code = "syntax"
	UnknownTable    Code = "unknown-table"
	UnknownColumn   Code = "unknown-column"
	UnknownFunction Code = "unknown-function"
	AmbiguousColumn Code = "ambiguous-column"
	UngroupedColumn Code = "ungrouped-column"
	TypeMismatch    Code = "type-mismatch"
	Forbidden       Code = "forbidden"
	Catalogue       Code = "catalogue"
	TooSlow         Code = "too-slow"
	TooBig          Code = "too-big"
	EngineError     Code = "engine-error"
	HiddenColumn    Code = "hidden-column"

	FilterMissing Code = "filter-missing"
	FilterExtra   Code = "filter-extra"
	FilterValue   Code = "filter-value"
	Boundary      Code = "boundary"
	TimeWindow    Code = "time-window"

	JoinMissing   Code = "join-missing"
	JoinKey       Code = "join-key"
	JoinFanOut    Code = "join-fan-out"
	JoinRowsLost  Code = "join-rows-lost"
	JoinRowsAdded Code = "join-rows-added"

	WrongMeasure      Code = "wrong-measure"
	AggregateFunction Code = "aggregate-function"
	Distinct          Code = "distinct"
	Formula           Code = "formula"
	RatioOfAverages   Code = "ratio-of-averages"
	NullHandling      Code = "null-handling"
	OffByFactor       Code = "off-by-factor"
	Rounding          Code = "rounding"

	GroupKeyMissing Code = "group-key-missing"
	GroupKeyExtra   Code = "group-key-extra"
	Having          Code = "having"

	Limit           Code = "limit"
	ColumnMissing   Code = "column-missing"
	ColumnForbidden Code = "column-forbidden"
	ColumnsSwapped  Code = "columns-swapped"
	WrongOrder      Code = "wrong-order"
	Label           Code = "label"
	WrongLayout     Code = "wrong-layout"
	TotalRow        Code = "total-row"

	ChartMark      Code = "chart-mark"
	ChartField     Code = "chart-field"
	ChartAggregate Code = "chart-aggregate"
	ChartSort      Code = "chart-sort"
	ChartBaseline  Code = "chart-baseline"
	ChartTitle     Code = "chart-title"

	FactMissing      Code = "fact-missing"
	FactContradicted Code = "fact-contradicted"

	Unexplained Code = "unexplained"
)

// Family names a group of codes.
type Family string

// families in the order in which they are shown, with their codes.
var families = []struct {
	name  Family
	codes []Code
}{
	{"delivery", []Code{NoReply, Transport, MalformedReply, OverBudget}},
	{"stance", []Code{AskedNeedlessly, Guessed, MissedAmbiguity, DeclinedNeedlessly, Overreached}},
	{"query", []Code{Syntax, UnknownTable, UnknownColumn, UnknownFunction, AmbiguousColumn, HiddenColumn, UngroupedColumn,
		TypeMismatch, Forbidden, Catalogue, TooSlow, TooBig, EngineError}},
	{"scope", []Code{FilterMissing, FilterExtra, FilterValue, Boundary, TimeWindow}},
	{"join", []Code{JoinMissing, JoinKey, JoinFanOut, JoinRowsLost, JoinRowsAdded}},
	{"measure", []Code{WrongMeasure, AggregateFunction, Distinct, Formula, RatioOfAverages, NullHandling, OffByFactor, Rounding}},
	{"grouping", []Code{GroupKeyMissing, GroupKeyExtra, Having}},
	{"presentation", []Code{ColumnMissing, ColumnForbidden, ColumnsSwapped, WrongOrder, Limit, Label, WrongLayout, TotalRow}},
	{"chart", []Code{ChartMark, ChartField, ChartAggregate, ChartSort, ChartBaseline, ChartTitle}},
	{"facts", []Code{FactMissing, FactContradicted}},
	{"other", []Code{Unexplained}},
}

// Families lists the families in the order in which they are shown.
func Families() []Family {
	var out []Family
	for _, f := range families {
		out = append(out, f.name)
	}
	return out
}

// FamilyOf is the family of a code; "other" for one that has none.
func FamilyOf(c Code) Family {
	for _, f := range families {
		if slices.Contains(f.codes, c) {
			return f.name
		}
	}
	return "other"
}

// Known tells whether a code exists.
func Known(c Code) bool { return c == Unexplained || FamilyOf(c) != "other" }

// Codes lists all codes in the order of their families.
func Codes() []Code {
	var out []Code
	for _, f := range families {
		out = append(out, f.codes...)
	}
	return out
}

// Fault is a cause with its certainty and evidence that a person can check.
type Fault struct {
	Code      Code      `json:"code"`
	Certainty Certainty `json:"certainty"`
	Evidence  string    `json:"evidence"`
	Edit      string    `json:"edit,omitempty"`  // the edit in words, where one proved it
	Query     string    `json:"query,omitempty"` // the edited query, to copy
	Rows      *Rows     `json:"rows,omitempty"`  // of the data, that make the difference
}

// Rows are rows of a table of the data that make a difference: those that only one of two queries takes.
type Rows struct {
	Table   string      `json:"table"`
	Count   int64       `json:"count"`
	Columns []string    `json:"columns"`
	First   [][]*string `json:"first"` // some of them, as texts; null for nothing
}

// Reason says why an attempt is unscored.
type Reason string

// The reasons. Every unscored attempt has one.
const (
	ReasonTransport       Reason = "transport"
	ReasonOverBudget      Reason = "over-budget"
	ReasonReferenceFailed Reason = "reference-failed"
	ReasonTextTooLong     Reason = "text-too-long"
	ReasonNeedsALook      Reason = "needs-a-look"  // no rule decides: a person must
	ReasonOtherDialect    Reason = "other-dialect" // what it says in its dialect cannot be said, or told for sure, in the engine's
	ReasonNotBuilt        Reason = "not-built"
	ReasonInternalError   Reason = "internal-error"
)
