package gallerytest

import (
	"fmt"
	"hash/fnv"
	"strings"
)

// Sums are many outputs in a few lines: for each name how many there are, and a sum over all of them. They tell that something changed, and
// where; what it is, a gallery of texts or the output itself tells.
type Sums struct {
	names  []string
	counts map[string]int
	sums   map[string]uint64
}

// Add adds an output under a name.
func (s *Sums) Add(name, output string) {
	if s.counts == nil {
		s.counts, s.sums = map[string]int{}, map[string]uint64{}
	}
	if s.counts[name]++; s.counts[name] == 1 {
		s.names = append(s.names, name)
	}
	h := fnv.New64a()
	_, _ = fmt.Fprintf(h, "%d %s", s.sums[name], output) // a hash takes everything
	s.sums[name] = h.Sum64()
}

// Text is a line for each name, in the order in which they came first.
func (s *Sums) Text() string {
	var b strings.Builder
	for _, name := range s.names {
		fmt.Fprintf(&b, "%08x of %d  %s\n", s.sums[name]>>32, s.counts[name], name)
	}
	return b.String()
}
