package attempt

import (
	"slices"
	"strings"

	"tovrel/core/match"
	"tovrel/core/sql"
)

// hidden lists the hidden columns and tables that a query reads.
func hidden(p *Place, tree *sql.Tree) []string {
	if tree == nil {
		return nil
	}
	var names []string
	for _, table := range tree.TablesRead() {
		if slices.Contains(p.Hides, strings.ToLower(table)) {
			names = append(names, table)
		}
	}
	for _, p := range p.Briefing.Hidden() {
		if tree.Reads(p.Table, p.Column) {
			names = append(names, p.String())
		}
	}
	return names
}

// hiddenRemark tells a right answer that reads hidden columns.
const hiddenRemark = match.Remark("hidden-column")
