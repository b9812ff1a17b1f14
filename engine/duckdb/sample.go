package duckdb

import (
	"tovrel/core/value"
)

// Sample is a file that can be imported, with what is known of how it is written.
type Sample struct {
	File      string // as the user wrote it, for messages
	Path      string // of the file to read: the user's own, or a scratch file made from it
	Format    Format
	Inside    string // table in a database file; "" for the only one
	Delimiter byte
	Skip      int           // lines before the header line
	Names     []string      // of the columns; nil where the file brings them
	Known     []*value.Type // by column, nil where the type is to be inferred; nil for all. A known text may still be a date or time
	Rows      []int         // in a scratch file: by row, which row of the user's file it was made from; nil for the file itself
}

// Format is how a sample is read.
type Format string

// The formats.
const (
	CSV     Format = "csv"
	Parquet Format = "parquet"
	File    Format = "duckdb" // a database file
)

// Line is the line or row of the user's file that a line of the file to read stands for.
func (s *Sample) Line(line int) int {
	if at := line - s.Skip - 2; s.Rows != nil && at >= 0 && at < len(s.Rows) {
		return s.Rows[at]
	}
	return line
}
