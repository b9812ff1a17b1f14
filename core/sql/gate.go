package sql

import (
	"fmt"
	"strings"

	"tovrel/core/sql/gate"
)

// Refusal says why a query may not run.
type Refusal = gate.Refusal

// Check refuses every tree that may do anything but read the dataset; has tells whether the engine has a function of a name. The error is
// *Refusal.
func (t *Tree) Check(has func(function string) bool) error { return gate.Check(t.root, has) }

// CheckText refuses a text that may not even be parsed. The error is *Refusal.
func CheckText(sql string) error {
	if len(sql) > MaxBytes {
		return &Refusal{Why: fmt.Sprintf("the query is %d bytes long; at most %d are taken", len(sql), MaxBytes)}
	}
	if strings.ContainsRune(sql, 0) {
		return &Refusal{Why: "the query holds a NUL character"}
	}
	return nil
}
