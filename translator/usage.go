package translator

import (
	"encoding/json"
	"fmt"
	"math"
	"strconv"

	"tovrel/core/record"
)

// Usage is what an ask used. What a translator says of it is not believed where it cannot be: then it counts as unknown, which is zero,
// and Unknown says why.
type Usage struct {
	InputTokens  int64   `json:"input_tokens"`
	OutputTokens int64   `json:"output_tokens"`
	Cost         float64 `json:"cost"`
	Unknown      string  `json:"unknown,omitempty"`
}

// UnmarshalJSON reads a usage; it never fails: an unbelievable one is a note, not a broken reply.
func (u *Usage) UnmarshalJSON(body []byte) error {
	*u = Usage{}
	var fields map[string]json.RawMessage
	if err := json.Unmarshal(body, &fields); err != nil {
		u.doubt("usage", body)
		return nil
	}
	for _, f := range []struct {
		key  string
		into *int64
	}{{"input_tokens", &u.InputTokens}, {"output_tokens", &u.OutputTokens}} {
		n, ok := amount(fields[f.key], record.MostTokens)
		if !ok {
			u.doubt(f.key, fields[f.key])
		}
		*f.into = int64(n)
	}
	cost, ok := amount(fields["cost"], record.MostCost)
	if !ok {
		u.doubt("cost", fields["cost"])
	}
	u.Cost = cost
	if why, kept := fields["unknown"]; kept && u.Unknown == "" {
		_ = json.Unmarshal(why, &u.Unknown) // this program's own, or no text
	}
	return nil
}

func (u *Usage) doubt(what string, said []byte) {
	u.Unknown = fmt.Sprintf("the translator's %s of %.40s cannot be: it counts as unknown", what, said)
}

// amount reads a number that is finite, not negative and below a bound; one that is not there is 0.
func amount(text json.RawMessage, most float64) (float64, bool) {
	if len(text) == 0 || string(text) == "null" {
		return 0, true
	}
	n, err := strconv.ParseFloat(string(text), 64)
	if err != nil || math.IsNaN(n) || n < 0 || n > most {
		return 0, false
	}
	return n, true
}

// Believable is a usage within the bounds, for one that did not come as JSON.
func (u Usage) Believable() Usage {
	for _, f := range []struct {
		key  string
		into *int64
	}{{"input_tokens", &u.InputTokens}, {"output_tokens", &u.OutputTokens}} {
		if *f.into < 0 || *f.into > record.MostTokens {
			u.doubt(f.key, []byte(strconv.FormatInt(*f.into, 10)))
			*f.into = 0
		}
	}
	if math.IsNaN(u.Cost) || u.Cost < 0 || u.Cost > record.MostCost {
		u.doubt("cost", []byte(strconv.FormatFloat(u.Cost, 'g', -1, 64)))
		u.Cost = 0
	}
	return u
}
