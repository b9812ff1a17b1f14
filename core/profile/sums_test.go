package profile_test

import (
	"flag"
	"fmt"
	"math/rand/v2"
	"testing"

	"tovrel/core/profile"
	"tovrel/gallerytest"
)

var update = flag.Bool("update", false, "rewrite what is held; read what changed")

// TestProfileSums holds what is told of drawn tables: roles with their reasons, likely joins, parts of the range, units, and what will
// hurt.
func TestProfileSums(t *testing.T) {
	var sums gallerytest.Sums
	for n := range 600 {
		r := rand.New(rand.NewPCG(uint64(n), 13)) //nolint:gosec // a test's
		d := gallerytest.Dataset(r)
		d.Links = profile.Candidates(d)
		for i := range d.Links {
			d.Links[i].Rows, d.Links[i].Orphans, d.Links[i].PerKey = int64(r.IntN(20)), int64(r.IntN(6)), r.Float64()*4
			if r.IntN(2) == 0 {
				d.Links[i].Examples = []string{"7"}
			}
			sums.Add("joins", fmt.Sprint(d.Links[i]))
		}
		for _, table := range d.Tables {
			for _, c := range table.Columns {
				role, why := profile.RoleOf(d, table, c)
				sums.Add("role "+string(role), fmt.Sprint(table.Name, c.Name, why, c.Unique(), c.Complete(), c.Filled()))
				sums.Add("parts", fmt.Sprint(profile.BinsOf(c, 8), profile.UnitIn(c.Name), profile.Quoted(c.Name)))
			}
		}
		for _, f := range profile.Inspect(d) {
			sums.Add(f.Code, fmt.Sprintf("%+v", f))
		}
	}
	gallerytest.Holds(t, "profile-sums.txt", sums.Text(), *update)
}
