package attempt

import (
	"tovrel/core/briefing"
	"tovrel/core/match"
	"tovrel/core/sql"
)

// hidden lists the hidden columns that a query reads.
func hidden(b *briefing.Briefing, tree *sql.Tree) []string {
	if tree == nil {
		return nil
	}
	var names []string
	for _, p := range b.Hidden() {
		if tree.Reads(p.Table, p.Column) {
			names = append(names, p.String())
		}
	}
	return names
}

// hiddenRemark tells a right answer that reads hidden columns.
const hiddenRemark = match.Remark("hidden-column")
