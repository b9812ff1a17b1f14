package versus

import (
	"fmt"
	"math"

	"gonum.org/v1/gonum/stat/distuv"

	"tovrel/core/score"
)

// nights are how often in a year a gate is asked that is asked every night.
const nights = 365

// nightlyZ is the normal quantile beyond which a breach is no noise: one night in a year goes beyond it though nothing has changed.
var nightlyZ = distuv.UnitNormal.Quantile(1 - 1.0/nights)

// nightly judges a value that has an interval for a gate that is asked every night. A breach that noise may explain is no alarm: at the
// usual level a gate with a value near its limit cries wolf all year. Half is the half width of the 95 % interval towards the limit.
func (e *evaluation) nightly(j Judged, value, half float64) Judged {
	if !e.gate.Nightly || j.Verdict == NotEnough {
		return j
	}
	noise := math.Max(half/score.Z, 1e-9)
	beyond := value - j.Limit // how far the value is on the wrong side of its limit
	if j.Least {
		beyond = -beyond
	}
	if j.Verdict == NotMet && beyond <= nightlyZ*noise {
		j.Verdict = Met
		j.Why = fmt.Sprintf("beyond the limit by no more than noise may be (%.1f points on one night in a year); %s", 100*nightlyZ*noise,
			j.Why)
	}
	usual, strict := alarms(beyond/noise), alarms(beyond/noise-nightlyZ)
	if j.Name == GateDrop { // nothing has changed: there is no drop
		usual, strict = alarms(-j.Limit/noise), alarms(-j.Limit/noise-nightlyZ)
	}
	j.FalseAlarms = &strict
	j.Why += fmt.Sprintf("; if nothing changes, not met on about %s a year (%s at the usual level)", nightsWords(strict),
		nightsWords(usual))
	return j
}

// alarms is in how many of a year's nights a value drawn anew is beyond its limit, which lies so many standard errors before it.
func alarms(beyond float64) float64 { return nights * distuv.UnitNormal.CDF(beyond) }

func nightsWords(n float64) string {
	switch rounded := math.Round(n); {
	case n < 0.05:
		return "no night"
	case n < 1:
		return fmt.Sprintf("%.1f nights", n)
	case rounded == 1:
		return "1 night"
	default:
		return fmt.Sprintf("%.0f nights", rounded)
	}
}
