package cli

import (
	"fmt"
	"time"

	"github.com/schollz/progressbar/v3"

	"tovrel/core/score"
	"tovrel/runner"
)

// progress tells how a run goes: a bar on a terminal, a line each with --verbose, nothing with --quiet.
type progress struct {
	a      *app
	name   string
	bar    *progressbar.ProgressBar
	counts map[score.Verdict]int
	cost   float64
}

func (a *app) progress(name string) *progress {
	return &progress{a: a, name: name, counts: map[score.Verdict]int{}}
}

func (p *progress) event(e runner.Event) {
	p.counts[e.Attempt.Verdict]++
	p.cost += e.Attempt.Cost
	if p.a.verbose {
		fmt.Fprintf(p.a.Err, "%s %d/%d %s %s: %s\n", p.name, e.Done, e.Total, e.Attempt.Question, e.Attempt.Verdict, e.Attempt.Why)
		return
	}
	if p.a.quiet || !p.a.Progress {
		return
	}
	if p.bar == nil {
		p.bar = progressbar.NewOptions(e.Total, progressbar.OptionSetWriter(p.a.Err), progressbar.OptionSetPredictTime(true),
			progressbar.OptionShowCount(), progressbar.OptionThrottle(50*time.Millisecond), progressbar.OptionClearOnFinish(),
			progressbar.OptionSetWidth(24), progressbar.OptionSetElapsedTime(false))
	}
	p.bar.Describe(fmt.Sprintf("%s  right %d, wrong %d, failed %d, cost %.2f", p.name, p.counts[score.Right], p.counts[score.Wrong], p.counts[score.Failed], p.cost))
	_ = p.bar.Add(1) // a bar that cannot be drawn must not stop a run
}

func (p *progress) finish() {
	if p.bar != nil {
		_ = p.bar.Finish()
	}
}
