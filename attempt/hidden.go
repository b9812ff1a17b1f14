package attempt

import (
	"tovrel/core/briefing"
	"tovrel/core/match"
	"tovrel/core/sql"
)

// hidden lists the hidden columns that a query reads.
func hidden(b *briefing.Briefing, tree []byte) []string {
	places := b.Hidden()
	if len(places) == 0 || len(tree) == 0 {
		return nil
	}
	t, err := sql.Read(tree)
	if err != nil {
		return nil
	}
	var names []string
	for _, p := range places {
		if t.Reads(p.Table, p.Column) {
			names = append(names, p.String())
		}
	}
	return names
}

// hiddenRemark tells a right answer that reads hidden columns.
const hiddenRemark = match.Remark("hidden-column")
