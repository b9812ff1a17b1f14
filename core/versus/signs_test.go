package versus

import (
	"math/rand/v2"
	"testing"

	"github.com/stretchr/testify/assert"
)

// Signs that are given to eight differences at once are those that each would take for itself.
func TestSignedSums(t *testing.T) {
	random := rand.New(rand.NewPCG(3, 5))
	for _, n := range []int{1, 7, 8, 9, 16, 63, 64, 65, 200} {
		differences := make([]float64, n)
		for i := range differences {
			differences[i] = random.Float64()*2 - 1
		}
		sums := signedSums(differences)
		for range 50 {
			bits := make([]uint8, len(sums))
			want, got := 0.0, 0.0
			for i := range bits {
				bits[i] = uint8(random.Uint32())
				got += sums[i][bits[i]]
			}
			for i, d := range differences {
				if bits[i/8]>>(i%8)&1 == 1 {
					d = -d
				}
				want += d
			}
			assert.InDelta(t, want, got, 1e-9, "%d differences", n)
		}
	}
}
