package standin

import (
	"fmt"
	"math/rand/v2"
	"net/http"
	"sync"
)

// Faults lists the faults that can be ordered: nothing ever comes; too many asks (429 with Retry-After); an error of the server; a
// dropped connection; JSON that breaks off or is none; prose around the query (chat alone); another content type.
func Faults() []string {
	return []string{"hang", "busy", "error", "drop", "truncated", "malformed", "prose", "content-type"}
}

// troublemaker decides, by its seed, which asks go wrong.
type troublemaker struct {
	shares map[string]float64
	mu     sync.Mutex
	random *rand.Rand
}

func newTroublemaker(s Settings) *troublemaker {
	return &troublemaker{shares: s.Faults, random: rand.New(rand.NewPCG(uint64(s.Seed), 1))}
}

// next tells whether a fault happens now.
func (t *troublemaker) next(fault string) bool {
	share := t.shares[fault]
	if share <= 0 {
		return false
	}
	t.mu.Lock()
	defer t.mu.Unlock()
	return t.random.Float64() < share
}

// send sends a body, or does what was ordered instead.
func (t *troublemaker) send(w http.ResponseWriter, r *http.Request, body []byte) {
	w.Header().Set("Content-Type", "application/json")
	switch {
	case t.next("hang"):
		<-r.Context().Done()
	case t.next("busy"):
		w.Header().Set("Retry-After", "1")
		http.Error(w, "too many asks", http.StatusTooManyRequests)
	case t.next("error"):
		http.Error(w, "something broke", http.StatusInternalServerError)
	case t.next("drop"):
		panic(http.ErrAbortHandler) // the connection is closed without an answer
	case t.next("truncated"):
		_, _ = w.Write(body[:len(body)/2]) // a client that went away is no fault of ours
	case t.next("malformed"):
		_, _ = fmt.Fprintf(w, "{reply: %s", body)
	default:
		if t.next("content-type") {
			w.Header().Set("Content-Type", "text/html")
		}
		_, _ = w.Write(body)
	}
}
