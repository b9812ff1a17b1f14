package attempt

import "sync"

// queue hands out tasks. A follow-up is added when the turn before it is judged; the queue ends when nothing is open any more, or
// when it is stopped.
type queue struct {
	mu      sync.Mutex
	changed *sync.Cond
	ready   []*task
	open    int // tasks that are ready, or in flight and may add others
	stopped bool
}

func newQueue(ready []*task) *queue {
	q := &queue{ready: ready, open: len(ready)}
	q.changed = sync.NewCond(&q.mu)
	return q
}

// next waits for a task; nil when there will be none.
func (q *queue) next() *task {
	q.mu.Lock()
	defer q.mu.Unlock()
	for len(q.ready) == 0 && q.open > 0 && !q.stopped {
		q.changed.Wait()
	}
	if q.stopped || len(q.ready) == 0 {
		return nil
	}
	t := q.ready[0]
	q.ready = q.ready[1:]
	return t
}

// done tells that a task is judged, and adds those that follow it.
func (q *queue) done(follow []*task) {
	q.mu.Lock()
	defer q.mu.Unlock()
	q.ready = append(q.ready, follow...)
	q.open += len(follow) - 1
	q.changed.Broadcast()
}

// stop ends the queue; what was handed out goes on.
func (q *queue) stop() {
	q.mu.Lock()
	defer q.mu.Unlock()
	q.stopped = true
	q.changed.Broadcast()
}
