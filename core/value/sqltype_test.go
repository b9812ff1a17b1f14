package value_test

import (
	"testing"

	"github.com/stretchr/testify/require"

	"tovrel/core/value"
)

func TestSQLTypes(t *testing.T) {
	for name, want := range map[string]string{
		"BIGINT": "integer", "INTEGER": "integer", "INT": "integer", "INT8": "integer", "UTINYINT": "integer",
		"HUGEINT": "integer", "int unsigned": "integer",
		"DECIMAL(18,2)": "decimal", "NUMERIC": "decimal", "DOUBLE": "float", "double precision": "float", "REAL": "float", "FLOAT": "float",
		"VARCHAR": "text", "VARCHAR(30)": "text", "TEXT": "text", "ENUM('a', 'b')": "text", "UUID": "text", "CHARACTER VARYING": "text",
		"DATE": "date", "DATETIME": "timestamp", "TIME": "time", "TIMESTAMP": "timestamp", "TIMESTAMP_S": "timestamp",
		"TIMESTAMP WITH TIME ZONE": "timestamptz", "TIMESTAMPTZ": "timestamptz",
		"INTERVAL": "interval", "BOOLEAN": "boolean", "bool": "boolean", "BLOB": "blob", "JSON": "json", "INTEGER[]": "json",
		"STRUCT(a INTEGER)": "json", "MAP(VARCHAR, INTEGER)": "json",
		"GEOMETRY": "geometry", "": "",
	} {
		require.Equal(t, want, value.SQLWord(name), name)
	}
}
