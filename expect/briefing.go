package expect

import (
	"strings"

	"tovrel/core/briefing"
	"tovrel/core/sql"
)

// brief adds what a briefing (nil for none) says of the expected columns: units, the labels of codes, synonyms. A column is the
// one that the reference's select item shows, else the only one of the header's name.
func (e *Expectation) brief(b *briefing.Briefing) {
	if b == nil {
		return
	}
	e.Known.Units = make([]string, len(e.Table.Columns))
	e.Known.Labels = make([]map[string]string, len(e.Table.Columns))
	e.Known.Synonyms = map[string][]string{}
	for i, c := range e.Table.Columns {
		item := sql.Item{}
		if i < len(e.items) {
			item = e.items[i]
		}
		if item.Name == "" {
			item = sql.Item{Column: sql.Column{Name: c.Name}, Values: true, Unit: item == sql.Item{} && len(e.items) == 0}
		}
		said := find(b, item.Column, anyColumn)
		if said != nil && item.Unit {
			e.Known.Units[i] = said.Unit
		}
		if said != nil {
			e.Known.Synonyms[c.Name] = append(append([]string(nil), said.Synonyms...), said.Name)
		}
		if said == nil || !coded(said) {
			said = find(b, sql.Column{Name: c.Name}, coded)
		}
		if said != nil && item.Values && coded(said) {
			e.Known.Labels[i] = labelsOf(said)
		}
	}
}

func anyColumn(*briefing.Column) bool { return true }

func coded(c *briefing.Column) bool { return len(c.Codes) > 0 }

func labelsOf(c *briefing.Column) map[string]string {
	labels := map[string]string{}
	for _, code := range c.Codes {
		labels[code.Value] = code.Label
	}
	return labels
}

// find is what a briefing says of a column; without its table, of the only fitting column of that name.
func find(b *briefing.Briefing, c sql.Column, fits func(*briefing.Column) bool) *briefing.Column {
	var found *briefing.Column
	for ti, t := range b.Tables {
		if c.Table != "" && !strings.EqualFold(t.Name, c.Table) {
			continue
		}
		for ci, said := range t.Columns {
			if !strings.EqualFold(said.Name, c.Name) || !fits(&t.Columns[ci]) {
				continue
			}
			if found != nil {
				return nil
			}
			found = &b.Tables[ti].Columns[ci]
		}
	}
	return found
}
