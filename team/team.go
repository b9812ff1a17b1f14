// Package team has the parts of a run made by several machines at once. They lie in a queue in the database of the history: River keeps it.
// A worker takes parts, and holds them as long as it gives a sign of itself; those of one that gives none go back.
//
// Errors are of kind trouble.Unreachable where the database cannot be read or written.
package team

import (
	"context"
	"errors"
	"fmt"
	"io"
	"log/slog"
	"os"
	"time"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"
	"github.com/jackc/pgx/v5/pgxpool"
	"github.com/riverqueue/river"
	"github.com/riverqueue/river/riverdriver/riverpgxv5"
	"github.com/riverqueue/river/rivermigrate"
	"github.com/riverqueue/river/rivertype"

	"tovrel/attempt"
	"tovrel/history"
	"tovrel/trouble"
)

const (
	// beat is how often a worker gives a sign of itself, and lease how long one that gives none keeps its parts.
	beat  = 2 * time.Second
	lease = 15 * time.Second
	// tries is how often a part may be taken: each time its worker died or was cut off.
	tries = 10000
)

// Desk is where a team's work lies.
type Desk struct {
	pool   *pgxpool.Pool
	schema string
	name   string // of this process among the workers
}

// Open opens the desk of a history's server, making what it lacks. The history was opened before.
func Open(ctx context.Context, dsn string) (*Desk, error) {
	config, err := pgxpool.ParseConfig(dsn)
	if err != nil {
		return nil, trouble.New(trouble.Unreachable, "the history's DSN cannot be read")
	}
	config.MaxConns = history.Connections
	schema := history.SchemaOf(config.ConnConfig.RuntimeParams)
	pool, err := pgxpool.NewWithConfig(ctx, config)
	if err != nil {
		return nil, unreachable(err)
	}
	host, _ := os.Hostname() // "" is no worse a name
	d := &Desk{pool: pool, schema: schema, name: fmt.Sprintf("%s-%d-%s", host, os.Getpid(), uuid.NewString()[:8])}
	if err := d.migrate(ctx); err != nil {
		pool.Close()
		return nil, unreachable(err)
	}
	return d, nil
}

// Close closes the desk.
func (d *Desk) Close() { d.pool.Close() }

func unreachable(err error) error {
	return trouble.New(trouble.Unreachable, "the team's database cannot be used: %w", history.Worded(err))
}

// migrate brings the queue's tables to their present form, one process at a time.
func (d *Desk) migrate(ctx context.Context) error {
	conn, err := d.pool.Acquire(ctx)
	if err != nil {
		return err
	}
	defer conn.Release()
	const name = "tovrel queue"
	if _, err := conn.Exec(ctx, "SELECT pg_advisory_lock(hashtext($1))", name); err != nil {
		return err
	}
	defer func() { // it would end with the connection too
		_, _ = conn.Exec(context.WithoutCancel(ctx), "SELECT pg_advisory_unlock(hashtext($1))", name)
	}()
	m, err := rivermigrate.New(riverpgxv5.New(d.pool), &rivermigrate.Config{Schema: d.schema, Logger: silent})
	if err != nil {
		return err
	}
	_, err = m.Migrate(ctx, rivermigrate.DirectionUp, nil)
	return err
}

var silent = slog.New(slog.NewTextHandler(io.Discard, nil))

// partArgs are a part as the queue keeps it.
type partArgs struct {
	Run int `json:"run"`
	attempt.Part
}

// Kind is the queue's name of such a job.
func (partArgs) Kind() string { return "part" }

// Offer is a run whose parts are to be taken.
type Offer struct {
	Run      int
	Budget   attempt.Budget
	Diagnose int // queries that the search for one cause may run
}

func queueOf(run int) string { return fmt.Sprintf("run_%d", run) }

// Post lays the parts of a run out, with its budget: from then on workers take them.
func (d *Desk) Post(ctx context.Context, o Offer, parts []attempt.Part, spent attempt.Budget) error {
	client, err := river.NewClient(riverpgxv5.New(d.pool), &river.Config{Schema: d.schema, Logger: silent})
	if err != nil {
		return err
	}
	jobs := make([]river.InsertManyParams, len(parts))
	for i, p := range parts {
		jobs[i] = river.InsertManyParams{Args: partArgs{o.Run, p}, InsertOpts: &river.InsertOpts{Queue: queueOf(o.Run), MaxAttempts: tries}}
	}
	return d.insist(ctx, func() error { return d.post(ctx, client, o, jobs, spent) })
}

func (d *Desk) post(ctx context.Context, client *river.Client[pgx.Tx], o Offer, jobs []river.InsertManyParams, spent attempt.Budget) error {
	return pgx.BeginFunc(ctx, d.pool, func(tx pgx.Tx) error {
		for _, statement := range []string{"DELETE FROM river_job WHERE queue = $1", "DELETE FROM flight WHERE queue = $1"} {
			if _, err := tx.Exec(ctx, statement, queueOf(o.Run)); err != nil {
				return err
			}
		}
		if _, err := tx.Exec(ctx, `INSERT INTO offer (run, money, tokens, spent_money, spent_tokens, diagnose)
			VALUES ($1, $2, $3, $4, $5, $6) ON CONFLICT (run) DO UPDATE SET money = $2, tokens = $3, spent_money = $4, spent_tokens = $5,
			diagnose = $6`, o.Run, o.Budget.Money, o.Budget.Tokens, spent.Money, spent.Tokens, o.Diagnose); err != nil {
			return err
		}
		if len(jobs) == 0 {
			return nil
		}
		_, err := client.InsertManyFastTx(ctx, tx, jobs)
		return err
	})
}

// Withdraw takes back what nobody has taken yet.
func (d *Desk) Withdraw(ctx context.Context, run int) error {
	return d.exec(ctx, "DELETE FROM river_job WHERE queue = $1 AND state <> $2", queueOf(run), rivertype.JobStateRunning)
}

// Done takes a run's work off the desk, finished or not.
func (d *Desk) Done(ctx context.Context, run int) error {
	for _, statement := range []string{"DELETE FROM offer WHERE run = $1::bigint",
		"DELETE FROM river_job WHERE queue = 'run_' || $1::bigint",
		"DELETE FROM flight WHERE queue = 'run_' || $1::bigint"} {
		if err := d.exec(ctx, statement, run); err != nil {
			return err
		}
	}
	return nil
}

// Offers are the runs whose parts lie on the desk.
func (d *Desk) Offers(ctx context.Context) ([]Offer, error) {
	var offers []Offer
	err := d.insist(ctx, func() error {
		rows, _ := d.pool.Query(ctx, "SELECT run, money, tokens, diagnose FROM offer ORDER BY run") // CollectRows tells the error
		var err error
		offers, err = pgx.CollectRows(rows, func(row pgx.CollectableRow) (o Offer, err error) {
			err = row.Scan(&o.Run, &o.Budget.Money, &o.Budget.Tokens, &o.Diagnose)
			return o, err
		})
		return err
	})
	return offers, err
}

// Standing is how far the parts of a run are.
type Standing struct {
	Open, Taken int // parts that nobody has, and that workers have
	Workers     int // that have any
}

// Standing tells how far a run's parts are; what dead workers had is given back first.
func (d *Desk) Standing(ctx context.Context, run int) (Standing, error) {
	var s Standing
	if err := d.giveBack(ctx); err != nil {
		return s, err
	}
	err := d.insist(ctx, func() error {
		return d.pool.QueryRow(ctx, `SELECT count(*) FILTER (WHERE state <> $2), count(*) FILTER (WHERE state = $2),
		count(DISTINCT attempted_by[array_upper(attempted_by, 1)]) FILTER (WHERE state = $2)
		FROM river_job WHERE queue = $1 AND finalized_at IS NULL`, queueOf(run), rivertype.JobStateRunning).
			Scan(&s.Open, &s.Taken, &s.Workers)
	})
	return s, err
}

// giveBack gives the parts of workers back that have given no sign of themselves for a lease.
func (d *Desk) giveBack(ctx context.Context) error {
	return d.exec(ctx, `UPDATE river_job j SET state = $1, scheduled_at = now() WHERE j.state = $2 AND j.kind = $3 AND NOT EXISTS
		(SELECT 1 FROM worker w WHERE w.name = j.attempted_by[array_upper(j.attempted_by, 1)] AND w.seen > now() - $4::interval)`,
		rivertype.JobStateAvailable, rivertype.JobStateRunning, partArgs{}.Kind(), lease)
}

// exec does something that may be done twice.
func (d *Desk) exec(ctx context.Context, statement string, args ...any) error {
	return d.insist(ctx, func() error {
		_, err := d.pool.Exec(ctx, statement, args...)
		return err
	})
}

// insist does something until the database has it.
func (d *Desk) insist(ctx context.Context, do func() error) error {
	if err := history.Insist(ctx, do); err != nil {
		return unreachable(err)
	}
	return nil
}

// errUnknown says that a part is of a run that this worker does not have.
var errUnknown = errors.New("this worker does not have the run of the part")
