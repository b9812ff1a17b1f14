package sqltext

import (
	"fmt"
	"strings"
)

// Link is a reference from a table's column to another's.
type Link struct{ From, FromColumn, To, ToColumn string }

// Referring counts the values of the referring column, and the distinct ones.
func (l Link) Referring() string {
	c := Name(l.FromColumn)
	return fmt.Sprintf("SELECT count(%s), count(DISTINCT %s) FROM %s", c, c, Name(l.From))
}

// Orphans are the values that no parent has, with how often they occur, the commonest first.
func (l Link) Orphans() string {
	c, key := Name(l.FromColumn), Name(l.ToColumn)
	return fmt.Sprintf("SELECT %s, count(*) FROM %s WHERE %s IS NOT NULL AND %s NOT IN (SELECT %s FROM %s WHERE %s IS NOT NULL) "+
		"GROUP BY 1 ORDER BY 2 DESC, 1", c, Name(l.From), c, c, key, Name(l.To), key)
}

// Childless counts the parents that nothing refers to.
func (l Link) Childless() string { return "SELECT count(*) FROM " + l.childless() }

// FirstChildless is the least key of the parents that nothing refers to.
func (l Link) FirstChildless() string {
	return "SELECT min(" + Name(l.ToColumn) + ") FROM " + l.childless()
}

func (l Link) childless() string {
	c := Name(l.FromColumn)
	return fmt.Sprintf("%s WHERE %s NOT IN (SELECT %s FROM %s WHERE %s IS NOT NULL)", Name(l.To), Name(l.ToColumn), c, Name(l.From), c)
}

// Joined are some of the referring rows, one in so many, beside the rows that they refer to.
func (l Link) Joined(oneIn int64) string {
	return fmt.Sprintf("SELECT c.*, p.* FROM (%s) c JOIN %s p ON c.%s = p.%s", Some(l.From, oneIn, 0), Name(l.To), Name(l.FromColumn),
		Name(l.ToColumn))
}

// Sums are some of the parents, one in so many, beside what their children come to.
func (l Link) Sums(oneIn int64, items []string) string {
	return fmt.Sprintf("SELECT p.*, s.* EXCLUDE (k) FROM (%s) p LEFT JOIN (SELECT %s AS k, %s FROM %s GROUP BY 1) s ON s.k = p.%s",
		Some(l.To, oneIn, 0), Name(l.FromColumn), strings.Join(items, ", "), Name(l.From), Name(l.ToColumn))
}
