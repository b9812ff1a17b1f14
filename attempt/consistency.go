package attempt

import (
	"tovrel/core/match"
	"tovrel/core/record"
	"tovrel/core/score"
	"tovrel/core/table"
	"tovrel/core/wording"
	"tovrel/expect"
)

// settle notes in a run what is known only when it ends: what the reference queries are made of and read, and how far attempts of a
// question agree.
func (w *running) settle(r *record.Run, all []*task) error {
	byQuestion := map[string][]*task{}
	for _, t := range all {
		if _, made := w.made[t.order]; made {
			byQuestion[t.name] = append(byQuestion[t.name], t)
		}
	}
	r.Consistency = map[string]record.Consistency{}
	for name, tasks := range byQuestion {
		if about, known := r.About[name]; known {
			about.Features = tasks[0].place.features(name)
			r.About[name] = about
			ground := r.Grounds[name]
			ground.Tables = tasks[0].place.TablesOf(name)
			r.Grounds[name] = ground
		}
		if len(tasks) < 2 {
			continue
		}
		c, err := w.consistency(tasks)
		if err != nil {
			return err
		}
		r.Consistency[name] = c
	}
	return nil
}

// expectedOf is what a question accepts; nil where that was not needed yet.
func (p *Place) expectedOf(name string) []expect.Expectation {
	p.mu.Lock()
	e := p.expected[name]
	p.mu.Unlock()
	if e == nil || !e.found.Load() {
		return nil
	}
	return e.expectations
}

// TablesOf digests the fingerprints of the tables that a question's reference queries read; "" where one of its accepted answers is no
// query, and where that was not needed yet.
func (p *Place) TablesOf(name string) string {
	read := map[string]string{}
	accepted := p.expectedOf(name)
	for _, e := range accepted {
		if e.Tree == nil {
			return ""
		}
		for _, table := range e.Tree.TablesRead() {
			fingerprint, known := p.OfTables[table]
			if !known { // a view, or a table within the query
				continue
			}
			read[table] = fingerprint
		}
	}
	if len(accepted) == 0 || len(p.OfTables) == 0 {
		return ""
	}
	return digest(read)
}

// features are what a question's reference query is made of; nil where it has none or was not needed.
func (p *Place) features(name string) []string {
	for _, expectation := range p.expectedOf(name) {
		if expectation.Tree != nil {
			return expectation.Tree.Kinds()
		}
	}
	return nil
}

// consistency compares the results of a question's attempts pair by pair. Two that gave no result are left out; one that gave none
// beside one that did does not agree.
func (w *running) consistency(tasks []*task) (record.Consistency, error) {
	var out record.Consistency
	tables := map[string]*table.Table{}
	same := map[[2]string]bool{}
	agree := func(t *task, x, y record.Attempt) (bool, error) {
		a, b := x.Answer, y.Answer
		if x.Whole != "" || y.Whole != "" { // more rows than are stored: by the digest of all of them
			return x.Whole == y.Whole, nil
		}
		if a == b || a == "" || b == "" {
			return a == b, nil
		}
		key := [2]string{min(a, b), max(a, b)}
		if known, ok := same[key]; ok {
			return known, nil
		}
		for _, digest := range key {
			if tables[digest] == nil {
				stored, err := w.store.Table(digest)
				if err != nil {
					return false, err
				}
				tables[digest] = stored.Table
			}
		}
		same[key] = match.Same(tables[key[0]], tables[key[1]], t.rules)
		return same[key], nil
	}
	for i, x := range tasks {
		for _, y := range tasks[i+1:] {
			a, b := w.made[x.order], w.made[y.order]
			if a.Answer == "" && b.Answer == "" || unheard(a) || unheard(b) {
				continue
			}
			isSame, err := agree(x, a, b)
			if err != nil {
				return out, err
			}
			pairs := &out.Wordings
			if wording.Fold(x.wording) == wording.Fold(y.wording) {
				pairs = &out.Repeats
			}
			pairs.Of++
			if isSame {
				pairs.Agree++
			}
		}
	}
	return out, nil
}

// unheard tells whether an attempt has no result for a reason that is not the translator's: it agrees with nothing and differs from
// nothing.
func unheard(a record.Attempt) bool { return a.Verdict == score.Unscored && a.Answer == "" }
