package versus

import "tovrel/core/record"

// prepared is a side with what many comparisons need of it.
type prepared struct {
	Side
	summary *record.Summary // nil where it is to be made
	all     []asked         // nil where they are to be found
}

// prepare makes ready a side that is compared with several others.
func prepare(s Side, summary *record.Summary) prepared { return prepared{s, summary, s.asks(nil)} }

// with is the side with other attempts: what was made ready of the first is gone.
func (p prepared) with(attempts []record.Light) prepared {
	if len(attempts) > 0 && &attempts[0] != &p.Lights[0] {
		p.Lights, p.summary, p.all = attempts, nil, nil
	}
	return p
}

// sum is the summary of the side.
func (p prepared) sum() record.Summary {
	if p.summary != nil {
		return *p.summary
	}
	return record.SummariseLight(p.Run, p.Lights)
}

// asked are the side's questions, under the names that the other side has for some of them.
func (p prepared) asked(names map[string]string) []asked {
	if p.all != nil && len(names) == 0 {
		return p.all
	}
	return p.asks(names)
}
