package claim_test

import (
	"fmt"
	"testing"

	"github.com/stretchr/testify/require"

	"tovrel/claimtest"
	"tovrel/core/claim"
)

// TestDrawn judges drawn replies: no wrong one is called right, hardly a right one wrong, few are left to a person.
func TestDrawn(t *testing.T) {
	const count = 2000
	for _, seed := range []uint64{1, 20, 4711} {
		wrongOfRight, unsure, right := 0, 0, 0
		shown := 0
		for _, r := range claimtest.Draw(seed, count) {
			f := claim.Judge(r.Text, r.Expected)
			if r.Right {
				right++
			}
			bad := ""
			switch {
			case f.Verdict == claim.Unsure:
				unsure++
				bad = "unsure"
			case r.Right && f.Verdict == claim.Wrong:
				wrongOfRight++
				bad = "right called wrong"
			case !r.Right && f.Verdict == claim.Right:
				bad = "wrong called right"
				t.Errorf("wrong called right: %s", told(r, f))
			}
			if bad != "" && shown < 40 {
				shown++
				t.Logf("%s: %s", bad, told(r, f))
			}
		}
		t.Logf("seed %d: of %d right %d called wrong; of %d %d unsure", seed, right, wrongOfRight, count, unsure)
		require.LessOrEqual(t, wrongOfRight, right/100, "seed %d", seed)
		require.LessOrEqual(t, unsure, count*8/100, "seed %d", seed)
	}
}

func told(r claimtest.Reply, f claim.Finding) string {
	return fmt.Sprintf("%s (%s)\n  Q %s\n  E %v\n  T %q\n  %s", r.Kind, r.Made, r.Expected.Question, rowsIn(r.Expected), r.Text, f.Why)
}

func rowsIn(e claim.Expected) (out []string) {
	for row := range e.Table.Rows() {
		for _, v := range e.Table.Row(row) {
			out = append(out, v.String())
		}
	}
	return out
}
