package team

import (
	"context"
	"time"

	"github.com/jackc/pgx/v5"

	"tovrel/attempt"
)

// Pace spaces asks out, as translator.Pace says.
type Pace interface {
	Wait(ctx context.Context) error
}

// pace spaces the asks of a translator out over all machines: each takes the next place in one row.
type pace struct {
	desk  *Desk
	name  string
	every time.Duration
}

// Pace spaces asks out, so many a second, over all machines that ask under a name.
func (d *Desk) Pace(name string, rate float64) Pace {
	return &pace{d, name, time.Duration(float64(time.Second) / rate)}
}

// Wait waits for the turn of one ask.
func (p *pace) Wait(ctx context.Context) error {
	var wait time.Duration
	err := p.desk.insist(ctx, func() error {
		return p.desk.pool.QueryRow(ctx, `INSERT INTO pace (name, next) VALUES ($1, clock_timestamp() + $2::interval)
			ON CONFLICT (name) DO UPDATE SET next = greatest(pace.next, clock_timestamp()) + $2::interval
			RETURNING next - $2::interval - clock_timestamp()`, p.name, p.every).Scan(&wait)
	})
	if err != nil {
		return err
	}
	select {
	case <-time.After(max(0, wait)):
		return nil
	case <-ctx.Done():
		return ctx.Err()
	}
}

// purse keeps the budget of a run over all machines, as attempt.Purse says. An ask of a machine that died is in flight no longer than asks
// may take.
type purse struct {
	desk   *Desk
	run    int
	budget attempt.Budget
	long   time.Duration // an ask may take
}

// Purse keeps the budget of a run that is posted.
func (d *Desk) Purse(run int, budget attempt.Budget, long time.Duration) attempt.Purse {
	return &purse{d, run, budget, long}
}

// Reserve waits as attempt.Purse says.
func (p *purse) Reserve(ctx context.Context) (bool, error) {
	if p.budget.None() {
		return true, nil
	}
	for {
		has, never := false, false
		err := p.desk.insist(ctx, func() error {
			return pgx.BeginFunc(ctx, p.desk.pool, func(tx pgx.Tx) (err error) {
				has, never, err = p.reserve(ctx, tx)
				return err
			})
		})
		switch {
		case ctx.Err() != nil || never:
			return false, nil
		case err != nil:
			return false, err
		case has:
			return true, nil
		}
		select {
		case <-time.After(50 * time.Millisecond): // until one in flight turns out cheaper than it was reckoned
		case <-ctx.Done():
			return false, nil
		}
	}
}

func (p *purse) reserve(ctx context.Context, tx pgx.Tx) (has, never bool, err error) {
	var spent, largest attempt.Budget
	err = tx.QueryRow(ctx, "SELECT spent_money, spent_tokens, largest_money, largest_tokens FROM offer WHERE run = $1 FOR UPDATE", p.run).
		Scan(&spent.Money, &spent.Tokens, &largest.Money, &largest.Tokens)
	if err != nil {
		return false, false, err
	}
	flying := 0
	if err := tx.QueryRow(ctx, "SELECT count(*) FROM flight WHERE queue = $1 AND until > now()", queueOf(p.run)).Scan(&flying); err != nil {
		return false, false, err
	}
	if !p.budget.Fits(spent, largest, 1) {
		return false, true, nil
	}
	if !p.budget.Fits(spent, largest, flying+1) {
		return false, false, nil
	}
	_, err = tx.Exec(ctx, "INSERT INTO flight (queue, worker, until) VALUES ($1, $2, now() + $3::interval)", queueOf(p.run),
		p.desk.name, p.long)
	return true, false, err
}

// Settle books as attempt.Purse says.
func (p *purse) Settle(cost attempt.Budget) error {
	if p.budget.None() {
		return nil
	}
	ctx := context.Background() // what was paid is booked, also when the worker is being ended
	return p.desk.insist(ctx, func() error {
		return pgx.BeginFunc(ctx, p.desk.pool, func(tx pgx.Tx) error {
			if _, err := tx.Exec(ctx, `UPDATE offer SET spent_money = spent_money + $2, spent_tokens = spent_tokens + $3,
				largest_money = greatest(largest_money, $2), largest_tokens = greatest(largest_tokens, $3) WHERE run = $1`, p.run,
				cost.Money, cost.Tokens); err != nil {
				return err
			}
			_, err := tx.Exec(ctx, `DELETE FROM flight WHERE id =
				(SELECT id FROM flight WHERE queue = $1 AND worker = $2 ORDER BY id LIMIT 1)`, queueOf(p.run), p.desk.name)
			return err
		})
	})
}

// Wake does nothing: who waits looks at its context again and again.
func (*purse) Wake() {}
