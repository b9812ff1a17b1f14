package standin_test

import (
	"bytes"
	"context"
	"encoding/json"
	"io"
	"net/http"
	"net/http/httptest"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"tovrel/core/briefing"
	"tovrel/standin"
	"tovrel/translator"
	"tovrel/translator/chat"
)

// heard remembers what it was asked, and answers with its reply.
type heard struct {
	asked translator.Request
	reply translator.Reply
	fail  error
}

func (h *heard) Ask(_ context.Context, r translator.Request) (translator.Answered, error) {
	h.asked = r
	raw, _ := json.Marshal(h.reply)
	return translator.Answered{Reply: h.reply, Raw: raw}, h.fail
}

func (h *heard) Close() error { return nil }

// whole is a request with everything that the default prompt tells.
func whole() translator.Request {
	return translator.Request{Protocol: translator.Protocol, ID: "s/q", Question: "How much milk in May?", Dialect: "duckdb",
		AsOf: "2031-06-30", Thread: []translator.Turn{{Question: "How much milk in April?",
			Reply: json.RawMessage(`{"query": "SELECT 1"}`)}},
		Dataset: briefing.Dataset{Name: "dairy", About: "a co-operative", Joins: []string{"loads.farm_id = farms.farm_id"},
			Tables: []briefing.ToldTable{
				{Name: "farms", About: "who delivers", Columns: []briefing.ToldColumn{{Name: "farm_id", Type: "INTEGER", Role: "key"},
					{Name: "district", Type: "VARCHAR", Role: "dimension", About: "where it lies",
						Synonyms: []string{"region", "area"}, Values: map[string]string{"N": "north", "S": "south"}}}},
				{Name: "loads", Columns: []briefing.ToldColumn{{Name: "litres", Type: "DECIMAL(9,2)", Role: "measure", Unit: "l"},
					{Name: "loaded_at", Type: "TIMESTAMP", Role: "time"}, {Name: "plain", Type: "VARCHAR"}}}}},
		Briefing: &briefing.Beyond{Terms: map[string]string{"flush": "the months of May and June"}, Notes: []string{"a note"},
			Examples: []briefing.ToldExample{{Question: "How many farms?", Query: "SELECT count(*)\nFROM farms"}}}}
}

// TestPromptIsReadBack: what the default prompt tells comes back from it: the tables with what is said of their columns, joins, terms and
// the thread.
func TestPromptIsReadBack(t *testing.T) {
	h := &heard{reply: translator.Reply{Query: "SELECT 2"}}
	server := httptest.NewServer(standin.Handler(h, standin.Settings{}))
	defer server.Close()
	asker, err := chat.New(chat.Settings{URL: server.URL + standin.ChatPath, Model: "any", Timeout: 5 * time.Second, Parallel: 1})
	require.NoError(t, err)
	got, err := asker.Ask(context.Background(), whole())
	require.NoError(t, err)
	require.Equal(t, "SELECT 2", got.Reply.Query)

	want, asked := whole(), h.asked
	require.Equal(t, want.Question, asked.Question)
	require.Equal(t, want.Dialect, asked.Dialect)
	require.Equal(t, want.AsOf, asked.AsOf)
	require.Len(t, asked.Thread, 1)
	require.Equal(t, want.Thread[0].Question, asked.Thread[0].Question)
	require.Contains(t, string(asked.Thread[0].Reply), "SELECT 1")
	require.Equal(t, want.Dataset.Name, asked.Dataset.Name)
	require.Equal(t, want.Dataset.Joins, asked.Dataset.Joins)
	require.Equal(t, want.Briefing.Terms, asked.Briefing.Terms)
	require.Len(t, asked.Dataset.Tables, 2)
	for i, table := range want.Dataset.Tables {
		require.Equal(t, table.Name, asked.Dataset.Tables[i].Name)
		require.Len(t, asked.Dataset.Tables[i].Columns, len(table.Columns))
		for j, column := range table.Columns {
			read := asked.Dataset.Tables[i].Columns[j]
			column.About = "" // it is not read
			require.Equal(t, column, read)
		}
	}
	plain := translator.Request{Question: "How many?", Dialect: "sqlite", Dataset: briefing.Dataset{Name: "d"}}
	_, err = asker.Ask(context.Background(), plain)
	require.NoError(t, err)
	require.Equal(t, translator.Request{Protocol: translator.Protocol, Question: "How many?", Dialect: "sqlite",
		Dataset: briefing.Dataset{Name: "d"}, Thread: []translator.Turn{}}, h.asked)
}

// TestSpokenReplies: each kind of reply comes through as what it is, also in a stream and with prose around it.
func TestSpokenReplies(t *testing.T) {
	for _, reply := range []translator.Reply{{Query: "SELECT 1"}, {Clarify: "Which one?"}, {Decline: "It is no question."},
		{Text: "no idea"}} {
		for _, faults := range []map[string]float64{nil, {"prose": 1}} {
			server := httptest.NewServer(standin.Handler(&heard{reply: reply}, standin.Settings{Faults: faults}))
			asker, err := chat.New(chat.Settings{URL: server.URL + standin.ChatPath, Timeout: 5 * time.Second, Parallel: 1})
			require.NoError(t, err)
			got, err := asker.Ask(context.Background(), whole())
			if reply.Text != "" {
				require.ErrorContains(t, err, "no idea")
				server.Close()
				continue
			}
			require.NoError(t, err)
			require.Equal(t, reply.Query, got.Reply.Query)
			if faults == nil {
				require.Equal(t, []string{reply.Clarify, reply.Decline}, []string{got.Reply.Clarify, got.Reply.Decline})
			}
			server.Close()
		}
	}
	server := httptest.NewServer(standin.Handler(&heard{reply: translator.Reply{Query: "SELECT 1"}}, standin.Settings{}))
	defer server.Close()
	for path, bodies := range map[string]map[string]int{
		standin.ChatPath:      {`{"messages": []}`: 400, `{`: 400, `{"stream": true, "messages": [{"role": "user", "content": "q"}]}`: 200},
		standin.TranslatePath: {`{`: 400, `{"question": "q"}`: 200},
	} {
		for body, want := range bodies {
			got, err := http.Post(server.URL+path, "application/json", strings.NewReader(body)) //nolint:noctx // a test's
			require.NoError(t, err)
			text, err := io.ReadAll(got.Body)
			require.NoError(t, err)
			require.NoError(t, got.Body.Close())
			require.Equal(t, want, got.StatusCode, body)
			if strings.Contains(body, "stream") {
				require.True(t, bytes.HasPrefix(text, []byte("data: {")) && bytes.HasSuffix(text, []byte("data: [DONE]\n\n")), string(text))
			}
		}
	}
}

// TestOrderedFaults: what is ordered happens, each fault in its own way; what is not ordered does not, and shares go by the seed.
func TestOrderedFaults(t *testing.T) {
	ask := func(url string, limit time.Duration) (status int, head http.Header, body string, err error) {
		ctx, cancel := context.WithTimeout(context.Background(), limit)
		defer cancel()
		r, err := http.NewRequestWithContext(ctx, http.MethodPost, url+standin.TranslatePath, strings.NewReader(`{"question": "q"}`))
		require.NoError(t, err)
		got, err := http.DefaultClient.Do(r)
		if err != nil {
			return 0, nil, "", err
		}
		defer got.Body.Close() //nolint:errcheck // it only was read
		text, err := io.ReadAll(got.Body)
		return got.StatusCode, got.Header, string(text), err
	}
	serve := func(s standin.Settings) *httptest.Server {
		server := httptest.NewServer(standin.Handler(&heard{reply: translator.Reply{Query: "SELECT 1"}}, s))
		t.Cleanup(server.Close)
		return server
	}
	for _, fault := range standin.Faults() {
		status, head, body, err := ask(serve(standin.Settings{Faults: map[string]float64{fault: 1}}).URL, 300*time.Millisecond)
		switch fault {
		case "hang", "drop":
			require.Error(t, err, fault)
			continue
		case "busy":
			require.Equal(t, "1", head.Get("Retry-After"))
			require.Equal(t, http.StatusTooManyRequests, status)
		case "error":
			require.Equal(t, http.StatusInternalServerError, status)
		case "truncated", "malformed":
			require.False(t, json.Valid([]byte(body)), fault)
		case "content-type":
			require.Equal(t, "text/html", head.Get("Content-Type"))
		default:
			require.True(t, json.Valid([]byte(body)), fault)
		}
		require.NoError(t, err, fault)
	}
	status, head, body, err := ask(serve(standin.Settings{Faults: map[string]float64{"error": 0}}).URL, time.Second)
	require.NoError(t, err)
	require.Equal(t, []any{200, "application/json", true}, []any{status, head.Get("Content-Type"), json.Valid([]byte(body))})
	outcomes := func(seed int) string {
		server := serve(standin.Settings{Seed: seed, Faults: map[string]float64{"error": 0.5}})
		var out strings.Builder
		for range 24 {
			status, _, _, err := ask(server.URL, time.Second)
			require.NoError(t, err)
			out.WriteByte("012345"[status/100])
		}
		return out.String()
	}
	one := outcomes(1)
	require.Equal(t, one, outcomes(1))
	require.NotEqual(t, one, outcomes(2))
	require.Contains(t, one, "2")
	require.Contains(t, one, "5")
	start := time.Now()
	_, _, _, err = ask(serve(standin.Settings{Latency: 60 * time.Millisecond}).URL, time.Second)
	require.NoError(t, err)
	require.GreaterOrEqual(t, time.Since(start), 60*time.Millisecond)
}

// TestNotUnderstood: a question that the translator does not understand is a reply with its words.
func TestNotUnderstood(t *testing.T) {
	h := &heard{fail: translator.Fail("malformed-reply", "no idea")}
	server := httptest.NewServer(standin.Handler(h, standin.Settings{}))
	defer server.Close()
	// a test's
	got, err := http.Post(server.URL+standin.TranslatePath, "application/json", strings.NewReader(`{"question": "q"}`)) //nolint:noctx
	require.NoError(t, err)
	text, err := io.ReadAll(got.Body)
	require.NoError(t, err)
	require.NoError(t, got.Body.Close())
	require.JSONEq(t, `{"text": "no idea"}`, string(text))
}
