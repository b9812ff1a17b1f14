package upkeep

import (
	"context"
	"fmt"
	"slices"
	"strings"

	"tovrel/core/chart"
	"tovrel/core/feedback"
	"tovrel/core/golden"
	"tovrel/engine"
	"tovrel/expect"
	"tovrel/files"
	"tovrel/trouble"
	"tovrel/workspace"
)

// Held are the questions of golden sets, as rated ones are held against them; follow-ups are left out.
func Held(sets []*golden.Set) []feedback.Known {
	var out []feedback.Known
	for _, s := range sets {
		for _, q := range s.All() {
			if q.After == nil {
				out = append(out, feedback.Known{Name: s.QuestionName(q), Wordings: q.Wordings(), Rejected: q.Rejected})
			}
		}
	}
	return out
}

// Harvest takes users' rated questions over into golden sets. Sets are parsed anew after each change.
type Harvest struct {
	Taken  []Harvested
	before []*golden.Set // as they were read
	now    []*golden.Set // as they are
	pool   expect.Queries
}

// Harvested is what became of a rated question.
type Harvested struct {
	Question string // its name in a golden set
	Text     string
	State    string // draft, held, rejected added
	Asked    int
	Wordings int
	Query    string
	Rejected int // queries that were rated down, and are new
}

// NewHarvest begins a harvest into the last of some golden sets of one dataset; the others are looked at for what they hold.
func NewHarvest(sets []*golden.Set, pool expect.Queries) *Harvest {
	return &Harvest{before: sets, now: slices.Clone(sets), pool: pool}
}

// Take takes one candidate over: as a draft, or what is new of a question that is held already. The error is of a worker or the context, or
// says why a set cannot take it.
func (h *Harvest) Take(ctx context.Context, c feedback.Candidate) error {
	form := Harvested{Question: c.Holds, Text: c.Question, Asked: c.Asked, Wordings: len(c.AlsoAsked) + 1,
		Rejected: len(c.Rejected), State: "held"}
	if c.Holds != "" {
		defer func() { h.Taken = append(h.Taken, form) }()
		if len(c.Rejected) == 0 {
			return nil
		}
		form.State = "rejected added"
		return h.reject(c)
	}
	note := fmt.Sprintf("Asked %d times.", c.Asked)
	if c.Asked == 1 {
		note = "Asked once."
	}
	query := c.Query
	if query != "" {
		_, err := h.pool.Query(ctx, engine.Request{SQL: query})
		if _, failed := expect.Failure(err); failed {
			query = ""
			note += " The query that answered it does not run here."
		} else if err != nil {
			return err
		}
	}
	if query != "" && !c.RatedUp {
		note += " Nobody rated its query."
	}
	if c.Text != "" {
		note += "\n\nUsers took this reply for right:\n\n> " + golden.Escape(strings.Join(strings.Fields(c.Text), " "))
	}
	for _, comment := range c.Comments {
		note += "\n\n> " + golden.Escape(comment)
	}
	set := h.now[len(h.now)-1]
	id := set.FreeID(c.Question)
	form.Question, form.State, form.Query = set.Name+"/"+id, "draft", query
	h.Taken = append(h.Taken, form)
	return h.change(len(h.now)-1, func(set *golden.Set) ([]byte, error) {
		return set.Add(golden.New{ID: id, Text: c.Question, Note: note, Answered: golden.Answered{Query: query}, Settings: []golden.Setting{
			{Key: "draft", Value: "true"}, {Key: "also-asked", Value: golden.List(c.AlsoAsked)},
			{Key: "rejected", Value: golden.List(c.Rejected)}, {Key: "chart", Value: askedForm(c, query)}}})
	})
}

// askedForm is the form of a chart that was rated up, as settings ask for it; "" without a query that gives its data.
func askedForm(c feedback.Candidate, query string) string {
	spec, err := chart.Parse([]byte(c.Chart))
	if c.Chart == "" || query == "" || err != nil || spec.Beyond != "" {
		return ""
	}
	form := "{mark: " + spec.Mark
	for _, channel := range spec.Channels {
		if slices.Contains(chart.FieldChannels(), channel.Name) && channel.Aggregate == "" && channel.TimeUnit == "" && !channel.Bin {
			form += ", " + channel.Name + ": " + golden.Scalar(channel.Field)
		}
	}
	return form + "}"
}

// reject keeps queries that were rated down with a question that is there.
func (h *Harvest) reject(c feedback.Candidate) error {
	name, id, _ := strings.Cut(c.Holds, "/")
	for i, set := range h.now {
		if set.Name == name {
			return h.change(i, func(set *golden.Set) ([]byte, error) {
				q := set.QuestionOf(id)
				return set.EditQuestion(q, golden.Edit{Settings: []golden.Setting{{Key: "rejected",
					Value: golden.List(append(append([]string(nil), q.Rejected...), c.Rejected...))}}})
			})
		}
	}
	return nil
}

func (h *Harvest) change(at int, edit func(*golden.Set) ([]byte, error)) error {
	text, err := edit(h.now[at])
	if err != nil {
		return trouble.New(trouble.Usage, "%s cannot take it: %w", h.now[at].File, err)
	}
	h.now[at], _ = golden.Parse(h.now[at].File, text) // every edit is read back before
	return nil
}

// Changes are the files of all sets that changed; the last set's may be new.
func (h *Harvest) Changes(w *workspace.Workspace, isNew bool) []files.Change {
	var out []files.Change
	for i, set := range h.now {
		text := set.Text()
		switch {
		case string(text) == string(h.before[i].Text()):
		case i == len(h.now)-1 && isNew:
			out = append(out, files.Change{Path: w.Path(set.File), Text: text, New: true})
		default:
			out = append(out, w.SetFile(h.before[i], text))
		}
	}
	return out
}
