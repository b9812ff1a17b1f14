package briefing

import (
	"strings"

	"tovrel/core/profile"
)

// Level is how much a translator is told.
type Level string

// The levels: names and types; also meanings, roles, units, synonyms, codes and joins; also terms, notes and examples.
const (
	None   Level = "none"
	Schema Level = "schema"
	Full   Level = "full"
)

// Levels lists the levels.
func Levels() []string { return []string{string(None), string(Schema), string(Full)} }

// Dataset is what a translator is told of the tables, in the form of the protocol.
type Dataset struct {
	Name   string      `json:"name"`
	About  string      `json:"about,omitempty"`
	Tables []ToldTable `json:"tables"`
	Joins  []string    `json:"joins,omitempty"`
}

// ToldTable is one table of it.
type ToldTable struct {
	Name    string       `json:"name"`
	Rows    int64        `json:"rows"`
	About   string       `json:"about,omitempty"`
	Columns []ToldColumn `json:"columns"`
}

// ToldColumn is one column of it.
type ToldColumn struct {
	Name     string            `json:"name"`
	Type     string            `json:"type"`
	Role     profile.Role      `json:"role,omitempty"`
	About    string            `json:"about,omitempty"`
	Unit     string            `json:"unit,omitempty"`
	Synonyms []string          `json:"synonyms,omitempty"`
	Values   map[string]string `json:"values,omitempty"` // codes with their labels; a shared value is its own label
}

// Beyond is what a translator is told beyond the tables.
type Beyond struct {
	Terms    map[string]string `json:"terms"`
	Notes    []string          `json:"notes"`
	Examples []ToldExample     `json:"examples"`
}

// ToldExample is a worked example.
type ToldExample struct {
	Question string `json:"question"`
	Query    string `json:"query"`
}

// Values gives the distinct values of a column that may be shared; nil for too many.
type Values func(profile.Place) []string

// Tell puts a schema and a briefing (nil for none) into the form of the protocol at a level. Hidden columns are never told;
// values of columns only where the dataset or the column shares them.
func Tell(schema Dataset, b *Briefing, level Level, share bool, values Values) (Dataset, *Beyond) {
	out := Dataset{Name: schema.Name}
	if b != nil && level != None {
		out.About = b.About
	}
	for _, t := range schema.Tables {
		told := ToldTable{Name: t.Name, Rows: t.Rows}
		if said := b.Table(t.Name); said != nil && level != None {
			told.About = said.About
		}
		for _, c := range t.Columns {
			place := profile.Place{Table: t.Name, Column: c.Name}
			said := b.Column(place)
			if said != nil && said.Hide {
				continue
			}
			told.Columns = append(told.Columns, tellColumn(c, place, said, level, share, values))
		}
		out.Tables = append(out.Tables, told)
	}
	if b == nil || level == None {
		return out, nil
	}
	for _, j := range b.Joins {
		if !b.hides(j.From) && !b.hides(j.To) {
			out.Joins = append(out.Joins, j.Text)
		}
	}
	if level != Full {
		return out, nil
	}
	return out, b.beyond()
}

func (b *Briefing) hides(p profile.Place) bool {
	c := b.Column(p)
	return c != nil && c.Hide
}

func tellColumn(c ToldColumn, place profile.Place, said *Column, level Level, share bool, values Values) ToldColumn {
	told := ToldColumn{Name: c.Name, Type: c.Type}
	if level == None {
		return told
	}
	if said != nil {
		told.Role, told.About, told.Unit, told.Synonyms = said.Role, said.About, said.Unit, said.Synonyms
		for _, code := range said.Codes {
			told.value(code.Value, code.Label)
		}
		if said.ShareValues != nil {
			share = *said.ShareValues
		}
	}
	if share {
		for _, v := range values(place) {
			if _, coded := told.Values[v]; !coded {
				told.value(v, v)
			}
		}
	}
	return told
}

func (c *ToldColumn) value(code, label string) {
	if c.Values == nil {
		c.Values = map[string]string{}
	}
	c.Values[code] = label
}

func (b *Briefing) beyond() *Beyond {
	out := &Beyond{Terms: map[string]string{}, Notes: append([]string{}, b.Notes...), Examples: []ToldExample{}}
	for _, t := range b.Terms {
		out.Terms[t.Name] = t.Definition
	}
	for _, e := range b.Examples {
		out.Examples = append(out.Examples, ToldExample{e.Question, strings.TrimSpace(e.Query)})
	}
	return out
}
