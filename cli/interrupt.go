package cli

import (
	"context"
	"fmt"
	"os"
	"os/signal"
	"sync/atomic"
	"syscall"
	"time"

	"tovrel/children"
	"tovrel/trouble"
)

// flightTime is how long what is in flight may take to finish after a first interrupt.
const flightTime = 5 * time.Second

// interrupts turns signals into the end of contexts. A command that can finish what is in flight asks for that; for any other
// the first signal ends it. The second ends the program at once, whatever it does: workers and translators with it.
type interrupts struct {
	ctx      context.Context
	cancel   context.CancelFunc
	soft     chan struct{} // closed at the first signal
	graceful atomic.Bool
}

// catchInterrupts begins to listen.
func catchInterrupts() *interrupts {
	i := &interrupts{soft: make(chan struct{})}
	i.ctx, i.cancel = context.WithCancel(context.Background())
	signals := make(chan os.Signal, 2)
	signal.Notify(signals, os.Interrupt, syscall.SIGTERM, syscall.SIGHUP)
	go func() {
		<-signals
		close(i.soft)
		if i.graceful.Load() {
			select {
			case <-signals:
				endNow()
			case <-time.After(flightTime):
			}
		}
		i.cancel()
		<-signals
		endNow()
	}()
	return i
}

// endNow ends the program without waiting for anything. Workers die with it; what was stored stays.
func endNow() {
	children.KillAll()
	fmt.Fprintln(os.Stderr, "tovrel: interrupted twice: ended at once; what was stored is kept")
	os.Exit(trouble.ExitCode(trouble.New(trouble.Interrupted, ""))) // the one exit beside main's: nothing may hold it up
}

// interrupted tells whether a signal came.
func (i *interrupts) interrupted() bool {
	select {
	case <-i.soft:
		return true
	default:
		return false
	}
}
