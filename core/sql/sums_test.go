package sql_test

import (
	"fmt"
	"strings"
	"testing"

	"tovrel/core/edit"
	"tovrel/core/sql"
	"tovrel/gallerytest"
	"tovrel/sqltest"
)

// TestEditedSums holds what is read of queries and of edited ones, and how they differ from the query clause by clause.
func TestEditedSums(t *testing.T) {
	queries, trees := sqltest.Known(t)
	var sums gallerytest.Sums
	for i, tree := range trees {
		sums.Add(queries[i], strings.Join(facts(t, tree), "\n"))
		for j, c := range edit.Changes(edit.Subject{Tree: tree, Other: trees[(i+1)%len(trees)], Columns: sqltest.Columns()}) {
			if j%2 == i%2 {
				sums.Add(queries[i], fmt.Sprintln(c.Words(), strings.Join(facts(t, c.Tree), "\n"), sql.Clauses(tree, c.Tree),
					c.Tree.ColumnNames()))
			}
		}
		other := trees[(i*7+3)%len(trees)]
		sums.Add(queries[i], fmt.Sprintln(sql.Clauses(tree, other), tree.SameFeatures(other), tree.Compared()))
	}
	gallerytest.Holds(t, "edited-sums.txt", sums.Text(), *update)
}
