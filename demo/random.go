package demo

// random is the splitmix64 generator (Steele, Lea, Flood: Fast splittable pseudorandom number generators, 2014). The demo
// has its own, so that its data stay the same with every version of Go.
type random struct{ state uint64 }

func (r *random) next() uint64 {
	r.state += 0x9e3779b97f4a7c15
	z := r.state
	z = (z ^ z>>30) * 0xbf58476d1ce4e5b9
	z = (z ^ z>>27) * 0x94d049bb133111eb
	return z ^ z>>31
}

// below gives a whole number from 0 to n-1.
func (r *random) below(n int) int { return int(r.next() % uint64(n)) }

// between gives a whole number from low to high.
func (r *random) between(low, high int) int { return low + r.below(high-low+1) }

// chance is true in so many of a thousand cases.
func (r *random) chance(perMille int) bool { return r.below(1000) < perMille }
