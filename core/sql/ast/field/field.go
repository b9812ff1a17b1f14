// Package field names the fields of the nodes of a syntax tree, as the engine's serialiser writes them: a name that is misspelt does not
// compile.
package field

// Field is the name of a field of a node.
type Field struct{ name string }

// String is the name as the serialiser writes it.
func (f Field) String() string { return f.name }

// Of is the field of a name, which may be one that is not listed here.
func Of(name string) Field { return Field{name} }

// The fields.
var (
	AggregateHandling          = Field{"aggregate_handling"}
	Alias                      = Field{"alias"}
	Aliases                    = Field{"aliases"}
	ArgOrders                  = Field{"arg_orders"}
	Arguments                  = Field{"arguments"}
	At                         = Field{"at_clause"}
	CaseChecks                 = Field{"case_checks"}
	Catalog                    = Field{"catalog"}
	CatalogName                = Field{"catalog_name"}
	Child                      = Field{"child"}
	Children                   = Field{"children"}
	Class                      = Field{"class"}
	Collation                  = Field{"collation"}
	ColumnNameAlias            = Field{"column_name_alias"}
	ColumnNames                = Field{"column_names"}
	Columns                    = Field{"columns"}
	ComparisonType             = Field{"comparison_type"}
	Condition                  = Field{"condition"}
	CteMap                     = Field{"cte_map"}
	CteName                    = Field{"cte_name"}
	DelimFlipped               = Field{"delim_flipped"}
	Distinct                   = Field{"distinct"}
	DistinctOnTargets          = Field{"distinct_on_targets"}
	DuplicateEliminatedColumns = Field{"duplicate_eliminated_columns"}
	ElseExpr                   = Field{"else_expr"}
	End                        = Field{"end"}
	EndExpr                    = Field{"end_expr"}
	ExcludeClause              = Field{"exclude_clause"}
	ExcludeList                = Field{"exclude_list"}
	ExportState                = Field{"export_state"}
	Expr                       = Field{"expr"}
	Expression                 = Field{"expression"}
	Filter                     = Field{"filter"}
	FilterExpr                 = Field{"filter_expr"}
	FromTable                  = Field{"from_table"}
	Function                   = Field{"function"}
	FunctionName               = Field{"function_name"}
	GroupExpressions           = Field{"group_expressions"}
	GroupSets                  = Field{"group_sets"}
	HasIgnoreNulls             = Field{"has_ignore_nulls"}
	Having                     = Field{"having"}
	IgnoreNulls                = Field{"ignore_nulls"}
	Input                      = Field{"input"}
	IsImplicit                 = Field{"is_implicit"}
	IsOperator                 = Field{"is_operator"}
	Join                       = Field{"join"}
	JoinType                   = Field{"join_type"}
	Key                        = Field{"key"}
	KeyTargets                 = Field{"key_targets"}
	Kind                       = Field{"kind"}
	Left                       = Field{"left"}
	LHS                        = Field{"lhs"}
	Limit                      = Field{"limit"}
	LimitType                  = Field{"limit_type"}
	Literal                    = Field{"literal"}
	Lower                      = Field{"lower"}
	Map                        = Field{"map"}
	Materialized               = Field{"materialized"}
	Modifiers                  = Field{"modifiers"}
	Name                       = Field{"name"}
	NamedParamMap              = Field{"named_param_map"}
	Node                       = Field{"node"}
	NullOrder                  = Field{"null_order"}
	Offset                     = Field{"offset"}
	OrderBys                   = Field{"order_bys"}
	Orders                     = Field{"orders"}
	Partitions                 = Field{"partitions"}
	Path                       = Field{"path"}
	QualifiedExcludeList       = Field{"qualified_exclude_list"}
	QualifiedName              = Field{"qualified_name"}
	Qualify                    = Field{"qualify"}
	Query                      = Field{"query"}
	QueryLocation              = Field{"query_location"}
	QueryLocationLength        = Field{"query_location_length"}
	QueryNode                  = Field{"query_node"}
	RefType                    = Field{"ref_type"}
	RelationName               = Field{"relation_name"}
	RenameList                 = Field{"rename_list"}
	ReplaceList                = Field{"replace_list"}
	Right                      = Field{"right"}
	Sample                     = Field{"sample"}
	Schema                     = Field{"schema"}
	SchemaName                 = Field{"schema_name"}
	SelectList                 = Field{"select_list"}
	SetopAll                   = Field{"setop_all"}
	SetopType                  = Field{"setop_type"}
	Source                     = Field{"source"}
	Start                      = Field{"start"}
	StartExpr                  = Field{"start_expr"}
	Statement                  = Field{"statement"}
	Subquery                   = Field{"subquery"}
	SubqueryType               = Field{"subquery_type"}
	SyntaxType                 = Field{"syntax_type"}
	TableName                  = Field{"table_name"}
	Text                       = Field{"text"}
	ThenExpr                   = Field{"then_expr"}
	TryCast                    = Field{"try_cast"}
	Type                       = Field{"type"}
	TypeExpr                   = Field{"type_expr"}
	TypeName                   = Field{"type_name"}
	UnionAll                   = Field{"union_all"}
	Upper                      = Field{"upper"}
	UsingColumns               = Field{"using_columns"}
	Value                      = Field{"value"}
	Values                     = Field{"values"}
	WhenExpr                   = Field{"when_expr"}
	Where                      = Field{"where_clause"}
	Window                     = Field{"window"}
	WithOrdinality             = Field{"with_ordinality"}
)
