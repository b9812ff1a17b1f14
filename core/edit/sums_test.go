package edit_test

import (
	"fmt"
	"testing"

	"tovrel/core/edit"
	"tovrel/gallerytest"
	"tovrel/sqltest"
)

// TestChangeSums holds every change of every query, and the changes of some of the changed queries: what each is called, what it names, and
// what becomes of the query.
func TestChangeSums(t *testing.T) {
	queries, trees := sqltest.Known(t)
	var sums gallerytest.Sums
	for i, tree := range trees {
		for k, other := range []int{i ^ 1, (i + 7) % len(trees)} {
			subject := edit.Subject{Tree: tree, Other: trees[other%len(trees)], Columns: sqltest.Columns(), Unseen: k == 1,
				Values: func(column string) []string { return []string{column + " x", "acc"} }}
			changes := edit.Changes(subject)
			for j, c := range changes {
				sums.Add(queries[i], fmt.Sprint(c.Words(), c.Edit.Name, c.Code, c.Mends, c.Before, c.After, c.Tree.Key()))
				if (i+j)%31 == 0 {
					subject.Tree = c.Tree
					for _, more := range edit.Changes(subject) {
						sums.Add(queries[i], fmt.Sprint(more.Words(), more.Code, more.Tree.Key()))
					}
				}
			}
		}
	}
	gallerytest.Holds(t, "change-sums.txt", sums.Text(), *update)
}
