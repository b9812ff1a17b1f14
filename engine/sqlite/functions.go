package sqlite

import (
	"database/sql/driver"
	"fmt"
	"math"
	"sort"
	"strings"
	"time"

	"modernc.org/sqlite"
)

// register adds the functions that SQLite lacks: median, percentile and its kin, standard deviation and variance, parts of
// dates and their truncation.
func register(d *sqlite.Driver) {
	aggregate := func(name string, arguments int32, result func(values []float64, p float64) any) {
		whole := 1.0
		if name == "percentile" {
			whole = 100
		}
		d.MustRegisterFunction(name, &sqlite.FunctionImpl{NArgs: arguments, Deterministic: true,
			MakeAggregate: func(sqlite.FunctionContext) (sqlite.AggregateFunction, error) {
				return &numbers{name: name, whole: whole, result: result}, nil
			}})
	}
	aggregate("median", 1, func(v []float64, _ float64) any { return quantile(v, 0.5) })
	aggregate("percentile", 2, func(v []float64, p float64) any { return quantile(v, p/100) })
	aggregate("percentile_cont", 2, quantileOf)
	aggregate("quantile_cont", 2, quantileOf)
	// p is a share: checked in WindowValue
	aggregate("percentile_disc", 2, func(v []float64, p float64) any { return v[max(0, int(math.Ceil(p*float64(len(v))))-1)] })
	for _, name := range []string{"stddev", "stddev_samp"} {
		aggregate(name, 1, func(v []float64, _ float64) any { return root(variance(v, 1)) })
	}
	for _, name := range []string{"variance", "var_samp"} {
		aggregate(name, 1, func(v []float64, _ float64) any { return variance(v, 1) })
	}
	aggregate("stddev_pop", 1, func(v []float64, _ float64) any { return root(variance(v, 0)) })
	aggregate("var_pop", 1, func(v []float64, _ float64) any { return variance(v, 0) })
	for name, part := range map[string]func(time.Time) int{
		"year": time.Time.Year, "month": func(t time.Time) int { return int(t.Month()) }, "day": time.Time.Day,
		"quarter": func(t time.Time) int { return (int(t.Month()) + 2) / 3 },
	} {
		d.MustRegisterDeterministicScalarFunction(name, 1, func(_ *sqlite.FunctionContext, args []driver.Value) (driver.Value, error) {
			moment, ok := momentOf(args[0])
			if !ok {
				return nil, nil
			}
			return int64(part(moment)), nil
		})
	}
	d.MustRegisterDeterministicScalarFunction("date_trunc", 2, truncate)
}

// numbers gathers the numbers of a group; nulls do not count.
type numbers struct {
	name   string
	whole  float64 // the largest share: 1, or 100 for per cent
	values []float64
	p      float64
	result func(values []float64, p float64) any
}

func (n *numbers) Step(_ *sqlite.FunctionContext, args []driver.Value) error {
	if len(args) > 1 {
		p, ok := number(args[1])
		if !ok || !(p >= 0 && p <= n.whole) { // also what is no number
			return fmt.Errorf("%s takes a share from 0 to %g, not %v", n.name, n.whole, args[1])
		}
		n.p = p
	}
	if v, ok := number(args[0]); ok {
		n.values = append(n.values, v)
	}
	return nil
}

// WindowInverse takes the oldest number out of the window.
func (n *numbers) WindowInverse(_ *sqlite.FunctionContext, args []driver.Value) error {
	v, ok := number(args[0])
	for i := range n.values {
		if ok && n.values[i] == v {
			n.values = append(n.values[:i], n.values[i+1:]...)
			break
		}
	}
	return nil
}

func (n *numbers) WindowValue(*sqlite.FunctionContext) (driver.Value, error) {
	if len(n.values) == 0 {
		return nil, nil
	}
	sorted := append([]float64(nil), n.values...)
	sort.Float64s(sorted)
	return n.result(sorted, n.p), nil
}

func (n *numbers) Final(*sqlite.FunctionContext) {}

func number(v driver.Value) (float64, bool) {
	switch x := v.(type) {
	case int64:
		return float64(x), true
	case float64:
		return x, true
	}
	return 0, false
}

func quantileOf(v []float64, p float64) any { return quantile(v, p) }

// quantile interpolates linearly between the two nearest of sorted numbers, as SQL's percentile_cont does.
func quantile(v []float64, p float64) any {
	at := p * float64(len(v)-1)
	low := int(at)
	if low+1 >= len(v) {
		return v[len(v)-1]
	}
	return v[low] + (at-float64(low))*(v[low+1]-v[low])
}

// variance divides the squared distances from the mean by the count less ddof; null where that is nothing.
func variance(v []float64, ddof int) any {
	n := float64(len(v) - ddof)
	if n <= 0 {
		return nil
	}
	mean, sum := 0.0, 0.0
	for _, x := range v {
		mean += x / float64(len(v))
	}
	for _, x := range v {
		sum += (x - mean) * (x - mean)
	}
	return sum / n
}

func root(v any) any {
	if f, ok := v.(float64); ok {
		return math.Sqrt(f)
	}
	return nil
}

func momentOf(v driver.Value) (time.Time, bool) {
	if t, ok := v.(time.Time); ok {
		return t, true
	}
	text, ok := v.(string)
	if !ok {
		return time.Time{}, false
	}
	for _, layout := range []string{"2006-01-02", "2006-01-02 15:04:05", "2006-01-02T15:04:05", "2006-01-02 15:04"} {
		if t, err := time.Parse(layout, strings.TrimSuffix(text, "Z")); err == nil {
			return t, true
		}
	}
	return time.Time{}, false
}

// truncate is date_trunc('month', date): the first day of the date's period, as text.
func truncate(_ *sqlite.FunctionContext, args []driver.Value) (driver.Value, error) {
	unit, _ := args[0].(string)
	t, ok := momentOf(args[1])
	if !ok {
		return nil, nil
	}
	y, m, d := t.Date()
	switch strings.ToLower(unit) {
	case "year":
		m, d = 1, 1
	case "quarter":
		m, d = (m-1)/3*3+1, 1
	case "month":
		d = 1
	case "week":
		d -= (int(t.Weekday()) + 6) % 7
	case "day":
	default:
		return nil, fmt.Errorf("date_trunc knows year, quarter, month, week and day, not %q", unit)
	}
	return time.Date(y, m, d, 0, 0, 0, 0, time.UTC).Format("2006-01-02"), nil
}
