package attempt

import (
	"tovrel/core/record"
	"tovrel/core/sql"
)

// shown is what people are shown of a reference and of an answer's query: nil where one has no syntax tree, or a part without a form.
func shown(reference, answer *sql.Tree) *record.Shown {
	if reference == nil || answer == nil {
		return nil
	}
	query, known := answer.Formatted()
	expected, alsoKnown := reference.Formatted()
	if !known || !alsoKnown {
		return nil
	}
	return &record.Shown{Query: query, Reference: expected, Clauses: sql.Clauses(reference, answer)}
}
