package clickhouse

import (
	"bytes"
	"encoding/json"
	"fmt"
	"reflect"
	"slices"
	"strings"
	"time"

	"github.com/ClickHouse/clickhouse-go/v2/lib/driver"
	"github.com/shopspring/decimal"

	"tovrel/core/table"
	"tovrel/core/value"
	"tovrel/engine"
	"tovrel/engine/server"
)

// result reads the rows of a query. The error is of the server, or *engine.Failure where they are too many.
func result(rows driver.Rows, limits engine.Limits) (*table.Table, error) {
	var names, types []string
	var kinds []value.Kind
	var into []any
	for _, c := range rows.ColumnTypes() {
		of := inner(c.DatabaseTypeName())
		names, types, kinds = append(names, c.Name()), append(types, of), append(kinds, kindOf(of))
		into = append(into, reflect.New(c.ScanType()).Interface())
	}
	reader := server.NewReader(names, kinds, limits)
	for rows.Next() {
		if err := rows.Scan(into...); err != nil {
			return nil, err
		}
		row := make([][]byte, len(into))
		for i, cell := range into {
			if text, null := written(reflect.ValueOf(cell).Elem(), types[i]); !null {
				row[i] = []byte(text)
			}
		}
		if err := reader.Add(row); err != nil {
			return nil, err
		}
	}
	if err := rows.Err(); err != nil {
		return nil, err
	}
	return reader.Table(), nil
}

// inner is a type without what says that it may be null, or how it is stored.
func inner(of string) string {
	for _, around := range []string{"LowCardinality(", "Nullable("} {
		if within, is := strings.CutPrefix(of, around); is {
			of = strings.TrimSuffix(within, ")")
		}
	}
	return of
}

// kindOf is the kind of a type without its Nullable.
func kindOf(of string) value.Kind {
	name, _, _ := strings.Cut(of, "(")
	switch {
	case strings.HasPrefix(name, "Int") && !strings.HasPrefix(name, "Interval"), strings.HasPrefix(name, "UInt"):
		return value.Int
	case strings.HasPrefix(name, "Float"):
		return value.Float
	case strings.HasPrefix(name, "Decimal"):
		return value.Decimal
	case strings.HasPrefix(name, "DateTime"):
		return value.Timestamp
	case strings.HasPrefix(name, "Date"):
		return value.Date
	case name == "Bool":
		return value.Bool
	case name == "Array", name == "Tuple", name == "Map", name == "Nested":
		return value.JSON
	}
	return value.Text
}

// written is a value of a type as a text, and whether it is null.
func written(v reflect.Value, of string) (text string, null bool) {
	for v.Kind() == reflect.Pointer || v.Kind() == reflect.Interface {
		if v.IsNil() {
			return "", true
		}
		v = v.Elem()
	}
	switch x := v.Interface().(type) {
	case string:
		if strings.HasPrefix(of, "FixedString") {
			x = strings.TrimRight(x, "\x00")
		}
		return x, false
	case time.Time:
		if kindOf(of) == value.Date {
			return x.Format(time.DateOnly), false
		}
		return x.Format("2006-01-02 15:04:05.999999"), false
	case decimal.Decimal:
		return x.StringFixed(max(0, -x.Exponent())), false
	case float32:
		return server.Float(float64(x), 32), false
	case float64:
		return server.Float(x, 64), false
	case fmt.Stringer: // addresses, identities, large whole numbers
		return x.String(), false
	}
	switch v.Kind() {
	case reflect.Slice, reflect.Array, reflect.Map:
		return listed(v), false
	case reflect.Struct: // large whole numbers are pointers, which know how they are written
		if v.CanAddr() {
			if s, is := v.Addr().Interface().(fmt.Stringer); is {
				return s.String(), false
			}
		}
	}
	return fmt.Sprint(v.Interface()), false
}

// listed writes an array, a tuple or a map as JSON.
func listed(v reflect.Value) string {
	cell := func(v reflect.Value) string {
		for v.Kind() == reflect.Interface && !v.IsNil() {
			v = v.Elem()
		}
		text, null := written(v, "")
		switch v.Kind() {
		case reflect.String, reflect.Struct:
			return quoted(text)
		}
		if null {
			return "null"
		}
		return text
	}
	var all []string
	if v.Kind() == reflect.Map {
		for _, key := range v.MapKeys() {
			name, _ := written(key, "")
			all = append(all, quoted(name)+":"+cell(v.MapIndex(key)))
		}
		slices.Sort(all)
		return "{" + strings.Join(all, ",") + "}"
	}
	for i := range v.Len() {
		all = append(all, cell(v.Index(i)))
	}
	return "[" + strings.Join(all, ",") + "]"
}

// quoted is a text in JSON.
func quoted(text string) string {
	var out bytes.Buffer
	e := json.NewEncoder(&out)
	e.SetEscapeHTML(false)
	_ = e.Encode(text) // a text never fails
	return strings.TrimSuffix(out.String(), "\n")
}
