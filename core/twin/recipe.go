package twin

import (
	"encoding/json"
	"fmt"
	"reflect"
)

// planned are the steps that plans hold; a view makes others.
var planned = func() map[string]reflect.Type {
	out := map[string]reflect.Type{}
	for _, s := range []Step{Deal{}, Jitter{}, Salt{}, Meet{}, Land{}, Swap{}, Extreme{}, Clear{}, Blank{}, Copy{}, Drop{}, Orphan{},
		Distinct{}} {
		out[nameOf(s)] = reflect.TypeOf(s)
	}
	return out
}()

func nameOf(s Step) string { return reflect.TypeOf(s).Name() }

// tablePlan is a TablePlan whose steps are written each under its name.
type tablePlan struct {
	Name  string
	Pins  []Pinned `json:",omitempty"`
	Order string   `json:",omitempty"`
	Steps []map[string]json.RawMessage
}

// MarshalJSON writes the steps under their names, so that a plan can be read again. It errs for a step that no plan holds.
func (t TablePlan) MarshalJSON() ([]byte, error) {
	out := tablePlan{Name: t.Name, Pins: t.Pins, Order: t.Order}
	for _, s := range t.Steps {
		if planned[nameOf(s)] == nil {
			return nil, fmt.Errorf("no plan holds the step %s", nameOf(s))
		}
		body, err := json.Marshal(s)
		if err != nil {
			return nil, err
		}
		out.Steps = append(out.Steps, map[string]json.RawMessage{nameOf(s): body})
	}
	return json.Marshal(out)
}

// UnmarshalJSON reads a plan of a table. It errs for a step that is not known.
func (t *TablePlan) UnmarshalJSON(body []byte) error {
	var in tablePlan
	if err := json.Unmarshal(body, &in); err != nil {
		return err
	}
	*t = TablePlan{Name: in.Name, Pins: in.Pins, Order: in.Order}
	for _, named := range in.Steps {
		for name, with := range named {
			kind := planned[name]
			if kind == nil {
				return fmt.Errorf("the step %q of a twin's plan is not known", name)
			}
			step := reflect.New(kind)
			if err := json.Unmarshal(with, step.Interface()); err != nil {
				return fmt.Errorf("the step %q of a twin's plan: %w", name, err)
			}
			made, _ := step.Elem().Interface().(Step) // all that are planned are steps
			t.Steps = append(t.Steps, made)
		}
	}
	return nil
}
