package value

import "strings"

// sqlKinds are the beginnings of SQL type names, the longer ones before those that they begin with.
var sqlKinds = []struct {
	name string
	kind Kind
}{
	{"timestamp with time zone", TimestampTZ}, {"timestamptz", TimestampTZ}, {"timestamp", Timestamp}, {"datetime", Timestamp},
	{"date", Date}, {"time", Time},
	{"interval", Interval}, {"bool", Bool}, {"bigint", Int}, {"smallint", Int}, {"tinyint", Int}, {"mediumint", Int},
	{"hugeint", Int}, {"int", Int},
	{"ubigint", Int}, {"usmallint", Int}, {"utinyint", Int}, {"uhugeint", Int}, {"uinteger", Int}, {"decimal", Decimal},
	{"numeric", Decimal},
	{"double", Float}, {"float", Float}, {"real", Float}, {"varchar", Text}, {"character", Text}, {"char", Text},
	{"text", Text}, {"string", Text}, {"clob", Text}, {"nvarchar", Text},
	{"nchar", Text}, {"uuid", Text}, {"enum", Text}, {"blob", Blob}, {"bytea", Blob}, {"binary", Blob}, {"varbinary", Blob},
	{"json", JSON}, {"struct", JSON}, {"map", JSON}, {"union", JSON}, {"null", Null},
}

// KindOfSQL is the kind of an SQL type such as "DECIMAL(18,2)", or of a list of one; false for a name that is not known.
func KindOfSQL(name string) (Kind, bool) {
	name = strings.ToLower(strings.TrimSpace(name))
	if strings.HasSuffix(name, "]") {
		return JSON, true
	}
	for _, k := range sqlKinds {
		if rest, ok := strings.CutPrefix(name, k.name); ok && !startsWithLetter(rest, k.name) {
			return k.kind, true
		}
	}
	return Null, false
}

// startsWithLetter tells that a type's name goes on: INTERVAL is no INT. "integer", "boolean" and "int8" are longer forms of the same.
func startsWithLetter(rest, of string) bool {
	switch of + rest {
	case "integer", "boolean":
		return false
	}
	return rest != "" && rest[0] >= 'a' && rest[0] <= 'z'
}

// SQLWord names an SQL type by the word for its kind, such as "decimal"; a type that is not known by its own name.
func SQLWord(name string) string {
	if kind, known := KindOfSQL(name); known {
		return kind.String()
	}
	return strings.ToLower(name)
}
