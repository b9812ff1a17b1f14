package main

import (
	"fmt"
	"math/rand/v2"
	"slices"
)

// reply is a query with its label.
type reply struct {
	ID, SQL, Shape, Mistake string
	Codes                   []string // that a fair expert gives; none for a right one
	Two                     bool     // mistakes
	Lucky                   bool     // wrong, but right on this data
}

// question is what is asked, with its reference and its replies.
type question struct {
	ID, SQL string
	Replies []reply
}

// lot is what is asked on a world.
type lot struct {
	Name      string
	Questions []question
	world     *world // nil for one that was kept
}

// discards count what the generator made and did not take: it must never hide what is wrong with a label.
type discards struct{ fails, unequal, same int }

const (
	// rights and wrongs are how many replies a question has at most.
	rights, wrongs, twos = 11, 7, 2
	// mostRows bounds what a reference gives.
	mostRows = 400
)

// generate makes a lot of a world: so many questions.
func generate(w *world, count int, dropped *discards) (lot, error) {
	engine, err := open(w)
	if err != nil {
		return lot{}, err
	}
	defer engine.close()
	out := lot{Name: w.name, world: w}
	for tries := 0; len(out.Questions) < count && tries < 12*count; tries++ {
		a := w.question()
		q, ok := w.questionOf(engine, a, dropped)
		if ok {
			q.ID = fmt.Sprintf("q%d", len(out.Questions)+1)
			for i := range q.Replies {
				q.Replies[i].ID = fmt.Sprintf("%s-%d", q.ID, i+1)
			}
			out.Questions = append(out.Questions, q)
		}
	}
	return out, nil
}

// questionOf writes a question in all ways; false for one whose answer says nothing.
func (w *world) questionOf(engine *engine, a ask, dropped *discards) (question, bool) {
	q := question{SQL: write(w, a, plain)}
	want, err := engine.everywhere(q.SQL)
	if err != nil {
		panic(fmt.Sprintf("a reference does not run: %v\n%s", err, q.SQL)) // a mistake of the generator
	}
	if want[0].rows == 0 || want[0].rows > mostRows || want[0].void {
		return question{}, false
	}
	seen := map[string]bool{q.SQL: true}
	var fit []style // the styles in which the right query is right everywhere
	for range 3 * rights {
		s := drawStyle(a.form, w.dice)
		text := write(w, a, s)
		if seen[text] {
			continue
		}
		seen[text] = true
		got, err := engine.everywhere(text)
		switch {
		case err != nil:
			dropped.fails++
			complain("does not run: %v\n%s", err, text)
		case !same(want, got, true):
			dropped.unequal++
			complain("is not equal to\n%s\n%s", q.SQL, text)
		default:
			fit = append(fit, s)
			if len(q.Replies) < rights {
				q.Replies = append(q.Replies, reply{SQL: text, Shape: s.name(a.form)})
			}
		}
	}
	if len(fit) == 0 {
		return question{}, false
	}
	w.plant(engine, a, &q, want, fit, seen, dropped)
	return q, true
}

// plant adds replies with one mistake and with two, each in a style in which the right query is right.
func (w *world) plant(engine *engine, a ask, q *question, want []result, fit []style, seen map[string]bool, dropped *discards) {
	all := w.mistakes(a)
	w.dice.Shuffle(len(all), func(i, j int) { all[i], all[j] = all[j], all[i] })
	singles := len(all)
	for range 3 * twos {
		if m, ok := w.two(a); ok {
			all = append(all, m)
		}
	}
	got := [2]int{}
	for i, m := range all {
		kind, most := 0, wrongs
		if i >= singles {
			kind, most = 1, twos
		}
		if got[kind] >= most {
			continue
		}
		s := pick(w.dice, fit)
		text := write(w, m.ask, s)
		if seen[text] {
			dropped.same++ // the shape cannot hold this mistake
			continue
		}
		seen[text] = true
		results, err := engine.everywhere(text)
		if err != nil {
			dropped.fails++
			complain("%s does not run: %v\n%s", m.name, err, text)
			continue
		}
		if results[0].rows == want[0].rows && len(results[0].names) > len(want[0].names) {
			dropped.same++ // a key that has one value everywhere: a further column, and no mistake
			continue
		}
		r := reply{SQL: text, Shape: s.name(a.form), Mistake: m.name, Codes: m.codes, Two: kind == 1}
		if same(want[:1], results[:1], !ordered(m)) {
			if same(want, results, true) {
				dropped.same++
				continue
			}
			r.Lucky = true
		} else {
			got[kind]++
		}
		q.Replies = append(q.Replies, r)
	}
}

// ordered tells mistakes that may change the order alone.
func ordered(m mistake) bool { return slices.Contains(m.codes, "wrong-order") }

// newLots draws worlds and makes their questions.
func newLots(seed uint64, worlds, questions int) ([]lot, discards, error) {
	var out []lot
	var dropped discards
	for i := range worlds {
		dice := rand.New(rand.NewPCG(seed, uint64(i)))
		l, err := generate(newWorld(families[i%len(families)], i/len(families)+1, dice), questions, &dropped)
		if err != nil {
			return nil, dropped, err
		}
		out = append(out, l)
	}
	return out, dropped, nil
}
