package attempt

import (
	"context"
	"sync"
)

// Budget bounds what a run may cost. The zero Budget bounds nothing.
type Budget struct {
	Money  float64
	Tokens int64
}

func (b Budget) none() bool { return b.Money <= 0 && b.Tokens <= 0 }

// purse keeps a budget. Each ask in flight is reckoned at the largest cost seen so far, so that a run overshoots by no more than
// the asks that were in flight before any cost was known.
type purse struct {
	budget  Budget
	mu      sync.Mutex
	settled *sync.Cond
	spent   Budget
	largest Budget
	flying  int
}

func newPurse(b Budget, spent Budget) *purse {
	p := &purse{budget: b, spent: spent}
	p.settled = sync.NewCond(&p.mu)
	return p
}

// reserve waits until one more ask is within the budget; false when it never will be, or the context has ended.
func (p *purse) reserve(ctx context.Context) bool {
	if p.budget.none() {
		return true
	}
	p.mu.Lock()
	defer p.mu.Unlock()
	for {
		if ctx.Err() != nil || !p.fits(1) {
			return false
		}
		if p.fits(p.flying + 1) {
			p.flying++
			return true
		}
		p.settled.Wait() // until one in flight turns out cheaper than it was reckoned
	}
}

// fits tells whether a number of further asks at the largest cost seen stay within the budget. What is spent already does not.
func (p *purse) fits(asks int) bool {
	n := float64(asks)
	if p.budget.Money > 0 && (p.spent.Money >= p.budget.Money || p.spent.Money+n*p.largest.Money > p.budget.Money+1e-12) {
		return false
	}
	return p.budget.Tokens <= 0 || p.spent.Tokens < p.budget.Tokens && p.spent.Tokens+int64(asks)*p.largest.Tokens <= p.budget.Tokens
}

// settle books what a reserved ask cost.
func (p *purse) settle(cost Budget) {
	if p.budget.none() {
		return
	}
	p.mu.Lock()
	defer p.mu.Unlock()
	p.flying--
	p.spent.Money += cost.Money
	p.spent.Tokens += cost.Tokens
	p.largest.Money, p.largest.Tokens = max(p.largest.Money, cost.Money), max(p.largest.Tokens, cost.Tokens)
	p.settled.Broadcast()
}

// wake has those that wait look at their context again.
func (p *purse) wake() {
	p.mu.Lock()
	defer p.mu.Unlock()
	p.settled.Broadcast()
}
