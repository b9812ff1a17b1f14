package engine_test

import (
	"context"
	"fmt"
	"net"
	"net/http"
	"net/http/httptest"
	"net/url"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"tovrel/core/fault"
	"tovrel/engine"
	"tovrel/engine/trino"
	"tovrel/expect"
)

// dsnsAt are DSNs of every kind of server at an address.
func dsnsAt(address string) map[string]string {
	return map[string]string{"postgres": "postgres://u:geheim@" + address + "/d", "mysql": "mysql://u:geheim@" + address + "/d",
		"clickhouse": "clickhouse://u:geheim@" + address + "/d", "trino": "trino://u@" + address + "/c/s"}
}

// askedOf asks a query of a server whatever it is, and gives what became of it.
func askedOf(t *testing.T, kind, dsn string) error {
	limits := engine.DefaultLimits()
	limits.Time = 5 * time.Second
	pool := engine.NewPool(built(t), engine.Setup{Engine: kind, Server: engine.Server{DSN: dsn}, Limits: limits}, 1)
	defer pool.Close()
	_, err := pool.Query(context.Background(), engine.Request{SQL: "SELECT 1", Dialect: kind})
	return err
}

// listening serves every connection by a function, until the test ends.
func listening(t *testing.T, serve func(net.Conn)) string {
	t.Helper()
	l, err := net.Listen("tcp", "127.0.0.1:0")
	require.NoError(t, err)
	t.Cleanup(func() { _ = l.Close() })
	go func() {
		for {
			c, err := l.Accept()
			if err != nil {
				return
			}
			go serve(c)
		}
	}()
	return l.Addr().String()
}

// TestServersInTrouble: a server that is down, hangs, closes at once or speaks another protocol ends in words, in time, without the secret.
func TestServersInTrouble(t *testing.T) {
	t.Parallel()
	var kept []net.Conn // a connection that nobody holds would be closed
	var mu sync.Mutex
	places := map[string]string{
		"down":   "127.0.0.1:1",
		"closes": listening(t, func(c net.Conn) { _ = c.Close() }),
		"strange": listening(t, func(c net.Conn) {
			_, _ = fmt.Fprint(c, "220 mail at your service\r\n")
			time.Sleep(time.Second)
			_ = c.Close()
		}),
		"hangs": listening(t, func(c net.Conn) {
			mu.Lock()
			defer mu.Unlock()
			kept = append(kept, c)
		}),
	}
	var all sync.WaitGroup
	for place, address := range places {
		for kind, dsn := range dsnsAt(address) {
			all.Go(func() {
				start := time.Now()
				err := askedOf(t, kind, dsn)
				assert.ErrorContains(t, err, "the server of the dataset cannot be used", "%s, %s", kind, place)
				assert.Less(t, time.Since(start), 90*time.Second, "%s, %s", kind, place)
				assert.NotContains(t, fmt.Sprint(err), "geheim", "%s, %s", kind, place)
			})
		}
	}
	all.Wait()
}

// troubled is a server of Trino's protocol that does as it is told for a query that is marked so, and else gives one row.
func troubled(t *testing.T) engine.Server {
	t.Helper()
	var web *httptest.Server
	web = httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		body := make([]byte, 1<<12)
		n, _ := r.Body.Read(body)
		sql := string(body[:n]) + r.URL.Path
		column := func(of string) string {
			return `{"id": "q", "columns": [{"name": "a", "type": "` + of + `", "typeSignature": {"rawType": "` + of +
				`", "arguments": []}}], `
		}
		switch {
		case strings.HasPrefix(sql, "START"):
			w.Header().Set("X-Trino-Started-Transaction-Id", "x")
			fmt.Fprint(w, `{"id": "q", "stats": {"state": "FINISHED"}}`)
		case strings.HasPrefix(sql, "ROLLBACK"):
			w.Header().Set("X-Trino-Clear-Transaction-Id", "true")
			fmt.Fprint(w, `{"id": "q", "stats": {"state": "FINISHED"}}`)
		case strings.Contains(sql, "closes"):
			panic(http.ErrAbortHandler)
		case strings.Contains(sql, "refuses"):
			http.Error(w, "no", http.StatusForbidden)
		case r.Method == http.MethodPost: // the pages are of the word in quotes
			words := strings.Split(sql+"''", "'")
			if strings.Contains(sql, "information_schema") || strings.Contains(sql, "metadata") {
				words[1] = "empty"
			}
			fmt.Fprintf(w, `{"id": "q", "nextUri": "%s/v1/statement/%s", "stats": {"state": "QUEUED"}}`, web.URL,
				url.PathEscape(words[1]+"-"))
		case strings.Contains(sql, "middle"):
			fmt.Fprint(w, column("bigint")+`"data": [[1]], "nextUri": "`+web.URL+`/v1/statement/closes", "stats": {"state": "RUNNING"}}`)
		case strings.Contains(sql, "hangs"):
			select {
			case <-r.Context().Done():
			case <-time.After(time.Minute):
			}
		case strings.Contains(sql, "empty"):
			fmt.Fprint(w, column("varchar")+`"data": [], "stats": {"state": "FINISHED"}}`)
		case strings.Contains(sql, "strange"):
			fmt.Fprint(w, column("hyperloglog")+`"data": [["abc"]], "stats": {"state": "FINISHED"}}`)
		case strings.Contains(sql, "cell"):
			fmt.Fprint(w, column("bigint")+`"data": [["no number"]], "stats": {"state": "FINISHED"}}`)
		case strings.Contains(sql, "broken"):
			fmt.Fprint(w, `{"id": "q", "colu`)
		case strings.Contains(sql, "says"):
			fmt.Fprint(w, `{"id": "q", "stats": {"state": "FAILED"}, "error": {"message": "the cable is cut", `+
				`"errorCode": 1, "errorName": "NO_NODES_AVAILABLE", "errorType": "INTERNAL_ERROR"}}`)
		default:
			fmt.Fprint(w, column("bigint")+`"data": [[1]], "stats": {"state": "FINISHED"}}`)
		}
	}))
	t.Cleanup(web.Close)
	return engine.Server{DSN: "trino://anyone@" + web.Listener.Addr().String() + "/c/s"}
}

// TestInTheMiddle: whatever becomes of one query at the server, it costs that query alone.
func TestInTheMiddle(t *testing.T) {
	t.Parallel()
	limits := engine.DefaultLimits()
	limits.Time = 3 * time.Second
	pool := engine.NewPool(built(t), engine.Setup{Engine: trino.Name, Server: troubled(t), Limits: limits}, 1)
	t.Cleanup(pool.Close)
	for what, want := range map[string]struct {
		code fault.Code
		says string
	}{
		"refuses": {fault.EngineError, ""}, "closes": {fault.EngineError, ""}, "middle": {fault.EngineError, ""},
		"hangs": {fault.TooSlow, ""},
		"cell":  {fault.EngineError, ""}, "broken": {fault.EngineError, ""}, "says": {fault.EngineError, "the cable is cut"},
	} {
		_, err := pool.Query(context.Background(), engine.Request{SQL: "SELECT '" + what + "'", Dialect: trino.Name})
		f, _ := expect.Failure(err)
		if assert.NotNil(t, f, "%s: %v", what, err) && want.code != fault.EngineError || what == "says" {
			assert.Equal(t, want.code, f.Code, "%s: %v", what, err)
		}
		assert.ErrorContains(t, err, want.says)
		r, err := pool.Query(context.Background(), engine.Request{SQL: "SELECT 1", Dialect: trino.Name})
		require.NoError(t, err, "after %s", what)
		require.Equal(t, 1, r.Table.Rows())
	}
	r, err := pool.Query(context.Background(), engine.Request{SQL: "SELECT 'strange'", Dialect: trino.Name})
	if f, _ := expect.Failure(err); f == nil { // a type that is not known is a text
		require.NoError(t, err)
		require.Equal(t, "abc", r.Table.Columns[0].Value(0).String())
	}
}
