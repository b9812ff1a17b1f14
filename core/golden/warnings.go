package golden

import (
	"fmt"
	"slices"
	"strings"

	"tovrel/core/pattern"
	"tovrel/core/source"
	"tovrel/core/wording"
)

// Warnings finds what is well-formed in golden sets and still likely a mistake: it needs no data. Dated tells whether a dataset has an
// as-of.
func Warnings(sets []*Set, dated func(dataset string) bool) source.Problems {
	w := &warner{asked: map[string]asked{}, similarTo: map[string][]weighed{}, tags: map[string][]asked{}}
	for _, s := range sets {
		for _, q := range s.All() {
			w.wordings(s, q)
			w.readings(s, q)
			w.clock(s, q, dated(s.Dataset))
			w.trivial(s, q)
			for _, tag := range append(append([]string(nil), s.Tags...), q.Tags...) {
				w.tags[tag] = append(w.tags[tag], asked{s, q})
			}
		}
	}
	w.similar()
	w.loneTags(sets)
	w.problems.Sort()
	return w.problems
}

type asked struct {
	set      *Set
	question *Question
}

type warner struct {
	problems source.Problems
	asked    map[string]asked // by dataset and folded wording
	tags     map[string][]asked

	similarTo map[string][]weighed // by dataset: the questions with the words of their first wordings
}

type weighed struct {
	asked
	words wording.Weighed
}

func (w *warner) warn(s *Set, at source.Position, code, message, remedy string) {
	w.say(source.Warning, s, at, code, message, remedy)
}

func (w *warner) say(severity source.Severity, s *Set, at source.Position, code, message, remedy string) {
	w.problems = append(w.problems, source.Problem{Position: at, Code: code, Severity: severity, Message: message,
		Remedy: remedy, Excerpt: source.Line(s.text, at.Line)})
}

// wordings finds wordings that are the same but for case and punctuation, within a question and between two.
func (w *warner) wordings(s *Set, q *Question) {
	own := map[string]bool{}
	for _, text := range q.Wordings() {
		folded := wording.Fold(text)
		if own[folded] {
			w.warn(s, q.At, "same-wording", fmt.Sprintf("the wording %q is there twice but for case and punctuation", text),
				"remove one of them")
			continue
		}
		own[folded] = true
		if q.After != nil {
			continue // "And a year before?" may follow any question
		}
		key := s.Dataset + " " + folded
		if other, known := w.asked[key]; known {
			w.warn(s, q.At, "same-question", fmt.Sprintf("%s asks the same: %q", other.set.QuestionName(other.question), text),
				"keep one of them, or make one a reading of the other")
			continue
		}
		w.asked[key] = asked{s, q}
	}
	if q.After == nil {
		w.similarTo[s.Dataset] = append(w.similarTo[s.Dataset], weighed{asked{s, q}, wording.Weigh(q.Text)})
	}
}

// similar finds questions that ask nearly the same under two ids.
func (w *warner) similar() {
	for _, all := range w.similarTo {
		for i, one := range all {
			for _, before := range all[:i] {
				if one.words.Similar(before.words) && wording.Fold(one.question.Text) != wording.Fold(before.question.Text) {
					w.warn(one.set, one.question.At, "similar-question",
						fmt.Sprintf("%s asks nearly the same: %q", before.set.QuestionName(before.question),
							before.question.Text),
						"keep one of them with the other's words under also-asked:, or say in the words what differs")
					break
				}
			}
		}
	}
}

// readings finds readings that accept what is accepted already.
func (w *warner) readings(s *Set, q *Question) {
	known := map[string]string{}
	note := func(a Answer, name string) string {
		key := strings.Join(strings.Fields(a.Query), " ")
		if key == "" && a.Table != nil {
			key = string(s.text[a.Table.start:a.Table.end])
		}
		if key == "" {
			return ""
		}
		before := known[key]
		known[key] = name
		return before
	}
	note(q.Answer, "the question's own answer")
	for _, r := range q.Readings {
		if before := note(r.Answer, fmt.Sprintf("the reading %q", r.Title)); before != "" {
			w.warn(s, r.At, "same-reading", fmt.Sprintf("this reading accepts the same as %s", before), "remove it")
		}
	}
}

var readsClock = pattern.Of(`(?i)\b(current_date|current_timestamp|localtimestamp|now\s*\(|today\s*\(|get_current_timestamp\s*\()`)

// clock finds queries that depend on the day that they run on.
func (w *warner) clock(s *Set, q *Question, dated bool) {
	answers := []Answer{q.Answer}
	for _, r := range q.Readings {
		answers = append(answers, r.Answer)
	}
	for _, a := range answers {
		if found := readsClock.FindString(a.Query); found != "" && !dated {
			w.warn(s, a.QueryAt, "clock-without-as-of",
				fmt.Sprintf("the query reads the clock (%s), and the dataset %s has no as-of: its answer is another one "+
					"tomorrow", strings.TrimSpace(found), s.Dataset), "set as-of: for the dataset in tovrel.yaml")
		}
	}
}

// trivial finds written answers that a wrong query gives as easily as a right one.
func (w *warner) trivial(s *Set, q *Question) {
	t := q.Answer.Table
	if t == nil || q.Expect == ExpectDecline {
		return
	}
	if len(t.Cells) == 0 && q.Answer.Query != "" {
		return // looked at where its query runs
	}
	if len(t.Cells) == 0 {
		w.warn(s, t.At, "empty-answer", "the expected answer is empty: any query that finds nothing is right",
			"add a row to the sample data that fills it, or ask for another period")
		return
	}
	if len(t.Cells) > 1 || len(t.Names) > 1 {
		return
	}
	if cell := t.Cells[0][0]; cell.Null || cell.Text == "" || cell.Text == "0" || cell.Text == "1" {
		w.warn(s, t.At, "trivial-answer", "the expected answer is one trivial cell, which many wrong queries give too",
			"ask so that the answer says more, or change the sample data")
	}
}

// loneTags finds tags that one question alone has, where there are many questions: mostly a slip of the pen.
func (w *warner) loneTags(sets []*Set) {
	var names []string
	for tag, has := range w.tags {
		if len(has) == 1 && !inFront(sets, tag) {
			names = append(names, tag)
		}
	}
	slices.Sort(names)
	for _, tag := range names {
		one := w.tags[tag][0]
		w.say(source.Advice, one.set, one.question.At, "lone-tag", fmt.Sprintf("the tag %q is used once", tag),
			"use it for more questions, correct it, or leave it out")
	}
}

// inFront tells tags of a whole set.
func inFront(sets []*Set, tag string) bool {
	for _, s := range sets {
		if slices.Contains(s.Tags, tag) {
			return true
		}
	}
	return false
}
