package cli

import (
	"context"
	"os"
	"os/signal"
	"sync/atomic"
	"syscall"
	"time"
)

// flightTime is how long what is in flight may take to finish after a first interrupt.
const flightTime = 5 * time.Second

// interrupts turns signals into the end of contexts. A command that can finish what is in flight asks for that; for any other
// the first signal ends it, and for all the second does.
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
			case <-time.After(flightTime):
			}
		}
		i.cancel()
	}()
	return i
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
