package twin

import (
	"cmp"
	"slices"
)

// Spans are rows of a table by their numbers: of each pair those from the first number up to before the second. They are in order and
// apart.
type Spans [][2]int64

// AllRows are so many rows.
func AllRows(n int64) Spans {
	if n <= 0 {
		return nil
	}
	return Spans{{0, n}}
}

// SpansOf are the rows of some numbers.
func SpansOf(numbers []int64) Spans {
	var out Spans
	for _, n := range numbers {
		out = append(out, [2]int64{n, n + 1})
	}
	return out.joined()
}

// Rows is how many there are.
func (s Spans) Rows() int64 {
	n := int64(0)
	for _, span := range s {
		n += span[1] - span[0]
	}
	return n
}

// And are the rows of both.
func (s Spans) And(o Spans) Spans { return slices.Concat(s, o).joined() }

// Without are the rows but for n of them, from the at-th on.
func (s Spans) Without(at, n int64) Spans {
	var out Spans
	for _, span := range s {
		size := span[1] - span[0]
		from, to := span[0]+min(max(at, 0), size), span[0]+min(max(at+n, 0), size)
		if from > span[0] {
			out = append(out, [2]int64{span[0], from})
		}
		if to < span[1] {
			out = append(out, [2]int64{to, span[1]})
		}
		at -= size
	}
	return out.joined()
}

// Less are the rows that are not among others.
func (s Spans) Less(o Spans) Spans {
	var out Spans
	for _, span := range s {
		at := span[0]
		for _, other := range o {
			if other[1] <= at || other[0] >= span[1] {
				continue
			}
			if other[0] > at {
				out = append(out, [2]int64{at, other[0]})
			}
			at = max(at, other[1])
		}
		if at < span[1] {
			out = append(out, [2]int64{at, span[1]})
		}
	}
	return out
}

// joined puts pairs in order, and those that meet together.
func (s Spans) joined() Spans {
	ordered := slices.Clone(s)
	slices.SortFunc(ordered, func(a, b [2]int64) int { return cmp.Compare(a[0], b[0]) })
	var out Spans
	for _, span := range ordered {
		if last := len(out) - 1; last >= 0 && out[last][1] >= span[0] {
			out[last][1] = max(out[last][1], span[1])
			continue
		}
		out = append(out, span)
	}
	return out
}

// Smallest leaves out of some rows as many as it can, first all, then half of them, and in the end one by one, while the rest still
// differs. It gives up when differs says stop: what it has by then is given. The error is of differs.
func Smallest(rows Spans, differs func(Spans) (differs, stop bool, err error)) (Spans, error) {
	if still, stop, err := differs(nil); still || stop || err != nil {
		if still {
			rows = nil
		}
		return rows, err
	}
	for size := (rows.Rows() + 1) / 2; size >= 1; size = (min(size, rows.Rows()) + 1) / 2 {
		for at := int64(0); at < rows.Rows() && size < rows.Rows(); {
			less := rows.Without(at, size)
			still, stop, err := differs(less)
			if stop || err != nil {
				return rows, err
			}
			if still {
				rows = less
			} else {
				at += size
			}
		}
		if size == 1 {
			break
		}
	}
	return rows, nil
}
