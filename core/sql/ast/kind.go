package ast

// Kind is what a node is: the class of an expression, or its type, as the serialiser writes it.
type Kind struct{ name string }

// String is the kind as the serialiser writes it; "" for none.
func (k Kind) String() string { return k.name }

// KindOf is the kind of a name, which may be one that is not listed here.
func KindOf(name string) Kind { return Kind{name} }

// None is the kind of what has none.
var None = Kind{}

// The kinds that something is made of them: others pass as they are.
var (
	ArrayConstructor       = Kind{"ARRAY_CONSTRUCTOR"}
	ArrayExtract           = Kind{"ARRAY_EXTRACT"}
	ArraySlice             = Kind{"ARRAY_SLICE"}
	Ascending              = Kind{"ASCENDING"}
	BaseTable              = Kind{"BASE_TABLE"}
	Between                = Kind{"BETWEEN"}
	Case                   = Kind{"CASE"}
	Cast                   = Kind{"CAST"}
	Collate                = Kind{"COLLATE"}
	ColumnData             = Kind{"COLUMN_DATA"}
	ColumnRef              = Kind{"COLUMN_REF"}
	CompareBetween         = Kind{"COMPARE_BETWEEN"}
	CompareDistinctFrom    = Kind{"COMPARE_DISTINCT_FROM"}
	CompareEqual           = Kind{"COMPARE_EQUAL"}
	CompareGreater         = Kind{"COMPARE_GREATERTHAN"}
	CompareGreaterEqual    = Kind{"COMPARE_GREATERTHANOREQUALTO"}
	CompareIn              = Kind{"COMPARE_IN"}
	CompareLess            = Kind{"COMPARE_LESSTHAN"}
	CompareLessEqual       = Kind{"COMPARE_LESSTHANOREQUALTO"}
	CompareNotDistinctFrom = Kind{"COMPARE_NOT_DISTINCT_FROM"}
	CompareNotEqual        = Kind{"COMPARE_NOTEQUAL"}
	CompareNotIn           = Kind{"COMPARE_NOT_IN"}
	Comparison             = Kind{"COMPARISON"}
	Conjunction            = Kind{"CONJUNCTION"}
	ConjunctionAnd         = Kind{"CONJUNCTION_AND"}
	ConjunctionOr          = Kind{"CONJUNCTION_OR"}
	Constant               = Kind{"CONSTANT"}
	CteNode                = Kind{"CTE_NODE"}
	DelimGet               = Kind{"DELIM_GET"}
	Descending             = Kind{"DESCENDING"}
	DistinctModifier       = Kind{"DISTINCT_MODIFIER"}
	Empty                  = Kind{"EMPTY"}
	EmptyFrom              = Kind{"EMPTY_FROM"}
	ExpressionList         = Kind{"EXPRESSION_LIST"}
	Function               = Kind{"FUNCTION"}
	GroupingFunction       = Kind{"GROUPING_FUNCTION"}
	Join                   = Kind{"JOIN"}
	Lambda                 = Kind{"LAMBDA"}
	LambdaRef              = Kind{"LAMBDA_REF"}
	LimitModifier          = Kind{"LIMIT_MODIFIER"}
	LimitPercentModifier   = Kind{"LIMIT_PERCENT_MODIFIER"}
	Operator               = Kind{"OPERATOR"}
	OperatorCast           = Kind{"OPERATOR_CAST"}
	OperatorCoalesce       = Kind{"OPERATOR_COALESCE"}
	OperatorIsNotNull      = Kind{"OPERATOR_IS_NOT_NULL"}
	OperatorIsNull         = Kind{"OPERATOR_IS_NULL"}
	OperatorNot            = Kind{"OPERATOR_NOT"}
	OperatorTry            = Kind{"OPERATOR_TRY"}
	OrderModifier          = Kind{"ORDER_MODIFIER"}
	Pivot                  = Kind{"PIVOT"}
	PositionalReference    = Kind{"POSITIONAL_REFERENCE"}
	RecursiveCteNode       = Kind{"RECURSIVE_CTE_NODE"}
	SelectNode             = Kind{"SELECT_NODE"}
	SetOperationNode       = Kind{"SET_OPERATION_NODE"}
	ShowRef                = Kind{"SHOW_REF"}
	Star                   = Kind{"STAR"}
	Subquery               = Kind{"SUBQUERY"}
	Summarize              = Kind{"SUMMARIZE"}
	TableFunction          = Kind{"TABLE_FUNCTION"}
	TypeExpression         = Kind{"TYPE"}
	ValueConstant          = Kind{"VALUE_CONSTANT"}
	Window                 = Kind{"WINDOW"}
	WindowRowNumber        = Kind{"WINDOW_ROW_NUMBER"}
	WindowRank             = Kind{"WINDOW_RANK"}
	WindowRankDense        = Kind{"WINDOW_RANK_DENSE"}
)
