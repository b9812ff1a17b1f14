package attempt

import (
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"fmt"
	"slices"

	"tovrel/core/briefing"
	"tovrel/core/golden"
	"tovrel/core/record"
	"tovrel/core/wording"
	"tovrel/expect"
	"tovrel/history"
	"tovrel/workspace"
)

// remember notes in a run what its questions rest on and are about, so that a later comparison can say what differs.
func remember(r *record.Run, p Plan, all []*task) {
	r.Datasets, r.Weights, r.Grounds, r.About = map[string]string{}, map[string]float64{}, map[string]record.Ground{},
		map[string]record.About{}
	r.Twins, r.Recipes = map[string][]string{}, map[string]json.RawMessage{}
	for name, place := range p.Places {
		for _, t := range place.Twins {
			r.Twins[name] = append(r.Twins[name], t.Fingerprint)
			r.Recipes[t.Fingerprint] = t.Recipe
		}
	}
	r.Wordings = map[string][]string{}
	followed := map[*golden.Question]bool{}
	for _, t := range all {
		if before := t.chosen.Question.After; before != nil {
			followed[first(before)] = true
		}
	}
	for _, t := range all {
		if t.repeat == 0 {
			r.Wordings[t.name] = append(r.Wordings[t.name], wordingDigest(t.wording))
		}
		if _, known := r.Grounds[t.name]; known {
			continue
		}
		q := t.chosen.Question
		r.Datasets[t.chosen.Set.Dataset] = t.place.Fingerprint
		r.Weights[t.name] = q.Weight
		r.Grounds[t.name] = GroundOf(p, t.chosen)
		about := record.About{Dataset: t.chosen.Set.Dataset, Tags: tagsOf(t.chosen), KnownWrong: q.KnownWrong}
		if root := first(q); root.Base != nil {
			about.Thread = t.chosen.Set.QuestionName(root.Base) // the answers for several roles are not independent
		} else if followed[q] || q.After != nil {
			about.Thread = t.chosen.Set.QuestionName(root)
		}
		for _, old := range q.Formerly {
			about.Formerly = append(about.Formerly, t.chosen.Set.Name+"/"+old)
		}
		r.About[t.name] = about
	}
}

// first is the question that began a question's thread.
func first(q *golden.Question) *golden.Question {
	for q.After != nil {
		q = q.After
	}
	return q
}

// under notes in a run what it is made under on each dataset, and gives what its translator is told, as tables to keep.
func under(r *record.Run, p Plan) []history.Stored {
	r.Under = map[string]record.Under{}
	var told []history.Stored
	for name := range r.Datasets {
		place := p.Places[name]
		lines := briefing.Lines(place.Told, place.Beyond)
		if most := p.TellAtMost; most > 0 && most < len(place.Told.Tables) {
			lines = append(lines, fmt.Sprintf("each question is told %d of %d tables", most, len(place.Told.Tables)))
		}
		kept := history.KeepLines(lines)
		told = append(told, kept)
		r.Under[name] = record.Under{Told: kept.Digest, Judge: JudgeOf(place.Briefing), Tables: place.OfTables}
	}
	return told
}

// JudgeOf digests what of a briefing answers are judged by.
func JudgeOf(b *briefing.Briefing) string { return digest(b.Judging()) }

// GroundOf digests what the judgement of a question rests on under a plan.
func GroundOf(p Plan, c workspace.Chosen) record.Ground {
	place := p.Places[c.Set.Dataset]
	q := c.Question
	said := []string{wording.Fold(q.Text)}
	for before := q.After; before != nil; before = before.After {
		said = append(said, wording.Fold(before.Text))
	}
	var asked any = said
	if len(q.User) > 0 {
		asked = []any{said, q.User}
	}
	return record.Ground{
		Question: digest(asked), Expected: digest(acceptedOf(place, c)), Rules: digest(q.Rules.Over(c.Set.Rules.Over(p.Rules)).String()),
		Data: place.Fingerprint, Briefing: place.told(p.Options.Brief), Engine: place.Engine,
	}
}

// acceptedOf is what is accepted, without what is only its display: a table beside a reference query does not count.
func acceptedOf(place *Place, c workspace.Chosen) any {
	q := c.Question
	accepted := []any{q.Expect, q.Mentions, q.Then}
	if len(q.States) > 0 || q.Chart != nil {
		accepted = append(accepted, factsOf(q), q.Chart)
	}
	answers := []golden.Answer{q.Answer}
	for _, r := range q.Readings {
		answers = append(answers, r.Answer)
	}
	for _, a := range answers {
		if a.Query != "" {
			accepted = append(accepted, a.Query)
		} else if !a.Empty() {
			if t, err := expect.Written(place.read, c.Set, a); err == nil { // else the set is not sound, and is not run
				accepted = append(accepted, t)
			}
		}
	}
	return accepted
}

// factsOf are the facts that a question lists, without where they stand.
func factsOf(q *golden.Question) []any {
	out := []any{q.Enough, q.Avoids, q.About}
	for _, f := range q.States {
		for _, way := range f.Ways {
			out = append(out, []any{way.Words, way.SQL, way.About})
		}
		out = append(out, "")
	}
	return out
}

// told digests what translators are told of a dataset beyond its rows.
func (p *Place) told(level string) string {
	told := p.Told
	tables := append(told.Tables[:0:0], told.Tables...)
	for i := range tables {
		tables[i].Rows = 0 // of the data
	}
	told.Tables = tables
	return digest([]any{level, told, p.Beyond})
}

func digest(v any) string {
	body, err := json.Marshal(v)
	if err != nil {
		return "" // cannot be told: taken as the same
	}
	sum := sha256.Sum256(body)
	return hex.EncodeToString(sum[:8])
}

// tagsOf are a question's tags with those of its set, sorted.
func tagsOf(c workspace.Chosen) []string {
	seen := map[string]bool{}
	var out []string
	for _, tag := range append(append([]string(nil), c.Set.Tags...), c.Question.Tags...) {
		if !seen[tag] {
			seen[tag] = true
			out = append(out, tag)
		}
	}
	slices.Sort(out)
	return out
}
