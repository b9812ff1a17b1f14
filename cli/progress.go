package cli

import (
	"fmt"
	"time"

	"github.com/schollz/progressbar/v3"

	"tovrel/attempt"
	"tovrel/core/record"
	"tovrel/core/score"
	"tovrel/view"
)

// lineEvery is how often a line is written where there is no terminal for a bar.
const lineEvery = 5 * time.Second

// progress tells how a run goes: a bar on a terminal, a line now and then elsewhere, a line each with --verbose, nothing with --quiet.
type progress struct {
	a       *app
	name    string
	bar     *progressbar.ProgressBar
	counts  map[score.Verdict]int
	retries int
	cost    float64
	started time.Time
	first   int // attempts that were done before this start
	said    time.Time
}

func (a *app) progress(name string) *progress {
	now := time.Now()
	return &progress{a: a, name: name, counts: map[score.Verdict]int{}, started: now, said: now, first: -1}
}

func (p *progress) event(e attempt.Event) {
	p.counts[e.Attempt.Verdict]++
	p.cost += e.Attempt.Cost
	p.retries += retries(e.Attempt)
	if p.first < 0 {
		p.first = e.Done - 1
	}
	switch {
	case p.a.verbose:
		p.a.tell("%s %d/%d %s %s: %s%s", p.name, e.Done, e.Total, e.Attempt.Question, e.Attempt.Verdict, e.Attempt.Why,
			triedAgain(e.Attempt))
	case p.a.quiet:
	case p.a.Progress:
		p.draw(e)
	case time.Since(p.said) >= lineEvery:
		p.said = time.Now()
		p.a.tell("%s: %d of %d done, %s%s", p.name, e.Done, e.Total, p.words(), p.left(e))
	}
}

func (p *progress) draw(e attempt.Event) {
	if p.bar == nil {
		p.bar = progressbar.NewOptions(e.Total, progressbar.OptionSetWriter(p.a.Err), progressbar.OptionSetPredictTime(true),
			progressbar.OptionShowCount(), progressbar.OptionThrottle(50*time.Millisecond), progressbar.OptionClearOnFinish(),
			progressbar.OptionSetWidth(24), progressbar.OptionSetElapsedTime(false))
	}
	p.bar.Describe(p.name + "  " + p.words())
	_ = p.bar.Set(e.Done) // a bar that cannot be drawn is no reason to stop
}

// step shows that so many steps of something other than a run are done.
func (p *progress) step(done, total int) {
	switch {
	case p.a.quiet || p.a.verbose:
	case p.a.Progress:
		if p.bar == nil {
			p.bar = progressbar.NewOptions(total, progressbar.OptionSetWriter(p.a.Err),
				progressbar.OptionSetDescription(p.name), progressbar.OptionSetPredictTime(true),
				progressbar.OptionShowCount(), progressbar.OptionThrottle(50*time.Millisecond),
				progressbar.OptionClearOnFinish(), progressbar.OptionSetWidth(24))
		}
		_ = p.bar.Set(done) // a bar that cannot be drawn is no reason to stop
	case time.Since(p.said) >= lineEvery:
		p.said = time.Now()
		p.a.tell("%s: %d of %d done", p.name, done, total)
	}
}

func (p *progress) words() string {
	words := fmt.Sprintf("right %d, wrong %d, failed %d", p.counts[score.Right], p.counts[score.Wrong], p.counts[score.Failed])
	if n := p.counts[score.Unscored]; n > 0 {
		words += fmt.Sprintf(", unscored %d", n)
	}
	if p.retries > 0 {
		words += fmt.Sprintf(", retries %d", p.retries)
	}
	return words + fmt.Sprintf(", cost %.2f", p.cost)
}

// left says how long the rest will take, if it goes on as so far.
func (p *progress) left(e attempt.Event) string {
	done := e.Done - p.first
	if done == 0 || e.Done == e.Total {
		return ""
	}
	each := time.Since(p.started) / time.Duration(done)
	return ", about " + view.Milliseconds(float64((each * time.Duration(e.Total-e.Done)).Milliseconds())) + " left"
}

func (p *progress) finish() {
	if p.bar != nil {
		_ = p.bar.Finish()
	}
}

// retries counts the tries beyond the first of each ask.
func retries(a record.Attempt) int {
	n := 0
	for i, t := range a.Tries {
		if i > 0 && t.Ask == a.Tries[i-1].Ask {
			n++
		}
	}
	return n
}

func triedAgain(a record.Attempt) string {
	switch n := retries(a); n {
	case 0:
		return ""
	case 1:
		return " (tried twice)"
	default:
		return fmt.Sprintf(" (tried %d times)", n+1)
	}
}
