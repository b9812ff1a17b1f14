// Package fault names the causes of wrong and failed answers. It finds none; the engine, the matcher and
// the diagnosis do.
package fault

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

	Unexplained Code = "unexplained"
)

// Fault is a cause with its certainty and evidence that a person can check.
type Fault struct {
	Code      Code      `json:"code"`
	Certainty Certainty `json:"certainty"`
	Evidence  string    `json:"evidence"`
	Edit      string    `json:"edit,omitempty"`  // the edit in words, where one proved it
	Query     string    `json:"query,omitempty"` // the edited query, to copy
}

// Reason says why an attempt is unscored.
type Reason string

// The reasons. Every unscored attempt has one.
const (
	ReasonTransport       Reason = "transport"
	ReasonOverBudget      Reason = "over-budget"
	ReasonReferenceFailed Reason = "reference-failed"
	ReasonTextTooLong     Reason = "text-too-long"
	ReasonNotBuilt        Reason = "not-built"
)
