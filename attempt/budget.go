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

// None tells a budget that bounds nothing.
func (b Budget) None() bool { return b.Money <= 0 && b.Tokens <= 0 }

// Purse keeps the budget of a run.
type Purse interface {
	// Reserve waits until one more ask is within the budget; false when it never will be, or the context has ended.
	Reserve(ctx context.Context) (bool, error)
	// Settle books what a reserved ask cost.
	Settle(cost Budget) error
	// Wake has those that wait look at their context again.
	Wake()
}

// purse keeps a budget of one machine. Each ask in flight is reckoned at the largest cost seen so far, so that a run overshoots by no more
// than the asks that were in flight before any cost was known.
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

// Reserve waits as Purse says. It never errs.
func (p *purse) Reserve(ctx context.Context) (bool, error) {
	if p.budget.None() {
		return true, nil
	}
	p.mu.Lock()
	defer p.mu.Unlock()
	for {
		if ctx.Err() != nil || !p.fits(1) {
			return false, nil
		}
		if p.fits(p.flying + 1) {
			p.flying++
			return true, nil
		}
		p.settled.Wait() // until one in flight turns out cheaper than it was reckoned
	}
}

// fits tells whether a number of further asks at the largest cost seen stay within the budget. What is spent already does not.
func (p *purse) fits(asks int) bool { return p.budget.Fits(p.spent, p.largest, asks) }

// Fits tells whether so many further asks, at the largest cost that was seen, stay within a budget of which something is spent.
func (b Budget) Fits(spent, largest Budget, asks int) bool {
	n := float64(asks)
	if b.Money > 0 && (spent.Money >= b.Money || spent.Money+n*largest.Money > b.Money+1e-12) {
		return false
	}
	return b.Tokens <= 0 || spent.Tokens < b.Tokens && spent.Tokens+int64(asks)*largest.Tokens <= b.Tokens
}

// Settle books as Purse says. It never errs.
func (p *purse) Settle(cost Budget) error {
	if p.budget.None() {
		return nil
	}
	p.mu.Lock()
	defer p.mu.Unlock()
	p.flying--
	p.spent.Money += cost.Money
	p.spent.Tokens += cost.Tokens
	p.largest.Money, p.largest.Tokens = max(p.largest.Money, cost.Money), max(p.largest.Tokens, cost.Tokens)
	p.settled.Broadcast()
	return nil
}

// Wake has those that wait look at their context again.
func (p *purse) Wake() {
	p.mu.Lock()
	defer p.mu.Unlock()
	p.settled.Broadcast()
}
