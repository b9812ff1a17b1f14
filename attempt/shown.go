package attempt

import (
	"tovrel/core/record"
	"tovrel/core/sql"
)

// shown is what people are shown of a reference and of an answer's query, from their syntax trees: nil where one is missing or has a part
// without a form.
func shown(reference *sql.Tree, serialised []byte) *record.Shown {
	if reference == nil || len(serialised) == 0 {
		return nil
	}
	written, err := sql.Read(serialised)
	if err != nil {
		return nil
	}
	answer, known := written.Formatted()
	expected, alsoKnown := reference.Formatted()
	if !known || !alsoKnown {
		return nil
	}
	return &record.Shown{Query: answer, Reference: expected, Clauses: sql.Clauses(reference, written)}
}
