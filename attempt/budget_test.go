package attempt

import (
	"context"
	"math/rand/v2"
	"sync"
	"testing"
	"time"
	"tovrel/core/fault"
	"tovrel/core/record"
	"tovrel/core/score"
	"tovrel/translator"

	"github.com/stretchr/testify/require"
)

// TestPurse: with any costs and any number of asks at once, what is spent goes beyond the budget by no more than what was in flight
// before any
// cost was known; nothing is refused that would have fitted; nothing waits for ever.
func TestPurse(t *testing.T) {
	random := rand.New(rand.NewPCG(2, 3))
	for round := range 300 {
		budget := Budget{}
		if round%3 != 0 {
			budget.Money = float64(random.IntN(50))
		}
		if round%3 != 1 {
			budget.Tokens = int64(random.IntN(500))
		}
		at := 1 + random.IntN(4)
		costly := 1 + random.IntN(9)
		p := newPurse(budget, Budget{})
		var wg sync.WaitGroup
		var mu sync.Mutex
		asked, refused := 0, 0
		for range at {
			wg.Go(func() {
				for {
					if !reserved(context.Background(), p) {
						mu.Lock()
						refused++
						mu.Unlock()
						return
					}
					mu.Lock()
					asked++
					enough := asked > 50
					mu.Unlock()
					require.NoError(t, p.Settle(Budget{float64(costly), int64(10 * costly)}))
					if budget.None() && enough {
						return
					}
				}
			})
		}
		done := make(chan struct{})
		go func() { wg.Wait(); close(done) }()
		select {
		case <-done:
		case <-time.After(10 * time.Second):
			require.FailNow(t, "the purse waits for ever", "%+v", budget)
		}
		if budget.None() {
			require.Zero(t, refused)
			continue
		}
		require.Equal(t, at, refused)
		beyond := float64(at * costly)
		if budget.Money > 0 {
			require.LessOrEqual(t, p.spent.Money, budget.Money+beyond)
		}
		if budget.Tokens > 0 {
			require.LessOrEqual(t, float64(p.spent.Tokens), float64(budget.Tokens)+10*beyond)
		}
		most := asked
		fits := (budget.Money <= 0 || float64((most+1)*costly) <= budget.Money) &&
			(budget.Tokens <= 0 || int64((most+1)*10*costly) <= budget.Tokens)
		require.False(t, fits, "one more would have fitted: %d asks of %d in %+v", asked, costly, budget)
	}
}

// TestPurseListens: what waits for money ends with the context.
func TestPurseListens(t *testing.T) {
	p := newPurse(Budget{Money: 10}, Budget{})
	require.True(t, reserved(context.Background(), p))
	require.NoError(t, p.Settle(Budget{Money: 4}))
	require.True(t, reserved(context.Background(), p)) // in flight
	ctx, cancel := context.WithCancel(context.Background())
	ended := make(chan bool)
	go func() { ended <- reserved(ctx, p) }()
	select {
	case <-ended:
		require.FailNow(t, "two of 4 do not fit into the 6 that are left, but may when the first turns out cheaper")
	case <-time.After(20 * time.Millisecond):
	}
	cancel()
	p.Wake()
	require.False(t, <-ended)
}

// TestBudgetOfARun: what the budget does not allow is unscored with its reason, and the run is stopped.
func TestBudgetOfARun(t *testing.T) {
	p := planOf(setOf(t, "a", "b", "c", "d"), replying(func(translator.Request) (translator.Reply, error) {
		return translator.Reply{Query: "1", Usage: translator.Usage{Cost: 1}}, nil
	}), numbered)
	p.Parallel, p.Budget = 1, Budget{Money: 2.5}
	r, attempts, err := Run(context.Background(), p, newMemory(), silent)
	require.NoError(t, err)
	require.Equal(t, record.Stopped, r.State)
	require.Equal(t, []score.Verdict{score.Right, score.Right, score.Unscored, score.Unscored}, verdicts(attempts))
	require.Equal(t, fault.ReasonOverBudget, attempts[3].Reason)
}

// reserved tells whether one more ask is within a purse's budget; a purse of one machine never errs.
func reserved(ctx context.Context, p *purse) bool {
	has, err := p.Reserve(ctx)
	return has && err == nil
}
