package attempt

import (
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"slices"

	"tovrel/core/golden"
	"tovrel/core/record"
	"tovrel/core/wording"
	"tovrel/expect"
	"tovrel/workspace"
)

// remember notes in a run what its questions rest on and are about, so that a later comparison can say what differs.
func remember(r *record.Run, p Plan, all []*task) {
	r.Datasets, r.Weights, r.Grounds, r.About = map[string]string{}, map[string]float64{}, map[string]record.Ground{},
		map[string]record.About{}
	r.Twins = map[string][]string{}
	for name, place := range p.Places {
		for _, t := range place.Twins {
			r.Twins[name] = append(r.Twins[name], t.Fingerprint)
		}
	}
	r.Wordings = map[string][]string{}
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
		for _, old := range q.Formerly {
			about.Formerly = append(about.Formerly, t.chosen.Set.Name+"/"+old)
		}
		r.About[t.name] = about
	}
}

// GroundOf digests what the judgement of a question rests on under a plan.
func GroundOf(p Plan, c workspace.Chosen) record.Ground {
	place := p.Places[c.Set.Dataset]
	q := c.Question
	said := []string{wording.Fold(q.Text)}
	for before := q.After; before != nil; before = before.After {
		said = append(said, wording.Fold(before.Text))
	}
	return record.Ground{
		Question: digest(said), Expected: digest(acceptedOf(place, c)), Rules: digest(q.Rules.Over(c.Set.Rules.Over(p.Rules)).String()),
		Data: place.Fingerprint, Briefing: place.told(p.Options.Brief), Engine: place.Engine,
	}
}

// acceptedOf is what is accepted, without what is only its display: a table beside a reference query does not count.
func acceptedOf(place *Place, c workspace.Chosen) any {
	q := c.Question
	accepted := []any{q.Expect, q.Mentions, q.Then}
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
