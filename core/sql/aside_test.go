package sql_test

import (
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"tovrel/core/sql"
	"tovrel/gallerytest"
	"tovrel/sqltest"
)

// TestAsideGallery holds what known queries are without their limits and their conditions on groups, and how they aggregate.
func TestAsideGallery(t *testing.T) {
	queries, trees := sqltest.Known(t)
	var out []string
	for i, tree := range trees {
		out = append(out, "# "+queries[i])
		for kind, name := range []string{"limits", "groups"} {
			without := tree.SetAside(sql.Aside(kind)) //nolint:gosec // of two
			require.Equal(t, without.Key(), without.SetAside(sql.Aside(kind)).Key(), "none is left")
			if without.Key() != tree.Key() {
				text, _ := without.Formatted()
				out = append(out, name+": "+strings.Join(strings.Fields(text), " "))
			}
		}
		if tree.Cuts() || tree.Nested() || tree.Recursive() {
			out = append(out, fmt.Sprintf("cuts %t, nested %t, recursive %t", tree.Cuts(), tree.Nested(), tree.Recursive()))
		}
		if of := tree.LargestOf(); len(of) > 0 {
			out = append(out, "largest of: "+strings.Join(of, ", "))
		}
		for _, a := range tree.Aggregates() {
			out = append(out, fmt.Sprintf("%+v", a))
		}
	}
	gallerytest.Holds(t, "asides.txt", strings.Join(out, "\n")+"\n", *update)
}
