package translator_test

import (
	"context"
	"encoding/json"
	"fmt"
	"io"
	"net/http"
	"net/http/httptest"
	"os"
	"path/filepath"
	"strings"
	"sync/atomic"
	"testing"
	"time"

	sdk "github.com/modelcontextprotocol/go-sdk/mcp"
	"github.com/stretchr/testify/require"

	"tovrel/standin/pocket"
	"tovrel/translator"
	"tovrel/translator/chat"
	"tovrel/translator/command"
	"tovrel/translator/mcp"
	"tovrel/translator/recorded"
	suite "tovrel/translator/translatortest"
	"tovrel/translator/web"
)

// reply is what a service that behaves so replies to a question; false where it breaks off instead.
func reply(b suite.Behaviour, question string, asked int) (string, bool) {
	switch b {
	case suite.AsksBack:
		return `{"clarify": "which one?"}`, true
	case suite.Draws:
		return suite.Drawing, true
	case suite.Others:
		return strings.Replace(suite.Drawing, "set/question", "other", 1), true
	case suite.Malformed:
		return `{"answer": 42}`, true
	case suite.Silent:
		return "", true
	case suite.Slow:
		time.Sleep(b.Timeout() + 400*time.Millisecond)
	case suite.Down:
		return "", false
	case suite.FailsOnce:
		if asked == 1 {
			return "", false
		}
	case suite.Leaks:
		return fmt.Sprintf(`{"query": "SELECT '%s'"}`, suite.Secret), true
	}
	return fmt.Sprintf(`{"query": "SELECT '%s' AS q"}`, question), true
}

// server is an HTTP service; wrap puts a reply into the form of its protocol.
func server(t *testing.T, b suite.Behaviour, questionOf func([]byte) string, wrap func(string) string) string {
	t.Helper()
	var asked atomic.Int64
	s := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		body, _ := io.ReadAll(r.Body)
		text, ok := reply(b, questionOf(body), int(asked.Add(1)))
		if !ok {
			panic(http.ErrAbortHandler)
		}
		_, _ = io.WriteString(w, wrap(text))
	}))
	t.Cleanup(s.Close)
	return s.URL
}

func protocolQuestion(body []byte) string {
	var r translator.Request
	_ = json.Unmarshal(body, &r)
	return r.Question
}

func TestHTTP(t *testing.T) {
	suite.Run(t, suite.Transport{Make: func(t *testing.T, b suite.Behaviour) translator.Asker {
		return web.New(web.Settings{URL: server(t, b, protocolQuestion, func(s string) string { return s }),
			Timeout: b.Timeout(), Parallel: 4})
	}})
}

func TestChat(t *testing.T) {
	question := func(body []byte) string {
		var r struct{ Messages []struct{ Content string } }
		_ = json.Unmarshal(body, &r)
		return r.Messages[len(r.Messages)-1].Content
	}
	wrap := func(s string) string {
		b, _ := json.Marshal(map[string]any{"model": "m",
			"choices": []any{map[string]any{"message": map[string]string{"content": s}}},
			"usage":   map[string]int{"prompt_tokens": 5, "completion_tokens": 7}})
		return string(b)
	}
	suite.Run(t, suite.Transport{Make: func(t *testing.T, b suite.Behaviour) translator.Asker {
		asker, err := chat.New(chat.Settings{URL: server(t, b, question, wrap), Model: "m", Timeout: b.Timeout(), Parallel: 4})
		require.NoError(t, err)
		return asker
	}})
}

func TestMCP(t *testing.T) {
	suite.Run(t, suite.Transport{Make: func(t *testing.T, b suite.Behaviour) translator.Asker {
		var asked atomic.Int64
		s := sdk.NewServer(&sdk.Implementation{Name: "test", Version: "1"}, nil)
		s.AddTool(&sdk.Tool{Name: "translate", InputSchema: map[string]any{"type": "object"}},
			func(_ context.Context, r *sdk.CallToolRequest) (*sdk.CallToolResult, error) {
				text, ok := reply(b, protocolQuestion(r.Params.Arguments), int(asked.Add(1)))
				if !ok {
					panic(http.ErrAbortHandler)
				}
				return &sdk.CallToolResult{Content: []sdk.Content{&sdk.TextContent{Text: text}}}, nil
			})
		web := httptest.NewServer(sdk.NewStreamableHTTPHandler(func(*http.Request) *sdk.Server { return s },
			&sdk.StreamableHTTPOptions{Stateless: true}))
		t.Cleanup(web.Close)
		return mcp.New(mcp.Settings{URL: web.URL, Timeout: b.Timeout()})
	}, Lacks: map[suite.Behaviour]string{suite.Down: "a tool that panics takes the server of the library down",
		suite.FailsOnce: "the same"}})
}

// script is a shell program that behaves so, for each line that it is sent.
func script(t *testing.T, b suite.Behaviour, loop bool) []string {
	t.Helper()
	count := filepath.Join(t.TempDir(), "asked")
	answer := map[suite.Behaviour]string{
		suite.AsksBack: `echo '{"clarify": "which one?"}'`, suite.Malformed: `echo '{"answer": 42}'`, suite.Silent: `echo`,
		suite.Draws: "echo '" + suite.Drawing + "'", suite.Others: "echo '" + strings.Replace(suite.Drawing, "set/question", "other", 1) +
			"'",
		suite.Slow: `sleep 2; echo '{}'`, suite.Down: `exit 3`,
		suite.Leaks: `echo '{"query": "SELECT '"'` + suite.Secret + `'"'"}'`,
		suite.Answers: `q=$(printf %s "$line" ` +
			`| sed 's/.*"question":"\([^"]*\)".*/\1/'); printf '{"query": "SELECT '"'%s'"' AS q"}\n' "$q"`,
	}
	answer[suite.FailsOnce] = fmt.Sprintf("if [ ! -f %s ]; then touch %s; exit 3; fi; %s", count, count, answer[suite.Answers])
	body := "read -r line; " + answer[b]
	if loop {
		body = "while read -r line; do " + answer[b] + "; done"
	}
	return []string{"sh", "-c", body}
}

func TestCommand(t *testing.T) {
	for name, keep := range map[string]bool{"each": false, "keep": true} {
		t.Run(name, func(t *testing.T) {
			suite.Run(t, suite.Transport{Make: func(t *testing.T, b suite.Behaviour) translator.Asker {
				asker, err := command.New(command.Settings{Run: script(t, b, keep), Dir: t.TempDir(), Keep: keep, Timeout: b.Timeout()})
				require.NoError(t, err)
				return asker
			}})
		})
	}
}

func TestRecorded(t *testing.T) {
	suite.Run(t, suite.Transport{Make: func(t *testing.T, b suite.Behaviour) translator.Asker {
		var lines strings.Builder
		for _, q := range append([]string{"one"}, numbered(12)...) {
			if text, ok := reply(b, q, 1); ok && text != "" {
				fmt.Fprintf(&lines, `{"id": "set/question", "question": %q, "reply": %s}`+"\n", q, text)
			}
		}
		path := filepath.Join(t.TempDir(), "r.jsonl")
		require.NoError(t, os.WriteFile(path, []byte(lines.String()), 0o600))
		asker, err := recorded.New("r.jsonl", path)
		require.NoError(t, err)
		return asker
	}, Lacks: map[suite.Behaviour]string{suite.Slow: "a file is not slow",
		suite.Down: "a file that is not there is no translator", suite.FailsOnce: "a file does not fail"}})
}

func numbered(n int) []string {
	var out []string
	for i := range n {
		out = append(out, fmt.Sprintf("question %d", i))
	}
	return out
}

// TestPocket: the built-in translator reads the question, the schema and the briefing; its quirks are its mistakes.
func TestPocket(t *testing.T) {
	ask := func(s pocket.Settings, r translator.Request) string {
		asker, err := pocket.New(s)
		require.NoError(t, err)
		got, err := asker.Ask(context.Background(), r)
		if err != nil {
			return err.Error()
		}
		return got.Reply.Query + got.Reply.Clarify + got.Reply.Decline
	}
	r := suite.Request("How many loads were there in May 2031?")
	r.Dataset.Tables[0].Columns = append(r.Dataset.Tables[0].Columns, suite.Request("").Dataset.Tables[0].Columns[0])
	r.Dataset.Tables[0].Columns[1].Name, r.Dataset.Tables[0].Columns[1].Type = "loaded_on", "DATE"
	require.Equal(t, "SELECT count(*) AS n FROM loads WHERE loads.loaded_on >= DATE '2031-05-01' AND loads.loaded_on < DATE "+
		"'2031-06-01'", ask(pocket.Settings{}, r))
	require.Contains(t, ask(pocket.Settings{Quirks: []string{pocket.Boundary}}, r), "<= DATE '2031-06-01' - 1")
	r.Question = "How many litres came in?"
	require.Equal(t, "SELECT sum(loads.litres) AS litres FROM loads", ask(pocket.Settings{}, r))
	r.Question = "Delete the loads"
	require.Contains(t, ask(pocket.Settings{}, r), "I only read")
	_, err := pocket.New(pocket.Settings{Quirks: []string{"boundry"}})
	require.ErrorContains(t, err, `did you mean "boundary"`)
	_, err = pocket.New(pocket.Settings{Version: "9"})
	require.ErrorContains(t, err, "1, 2 and 3")
}

// TestChatReplies: the query is found in a fenced block, a JSON object or the bare text, streamed or not, with prose around it.
func TestChatReplies(t *testing.T) {
	for said, want := range map[string]string{
		"```sql\nSELECT 1\n```": "SELECT 1",
		"Let me think.\n```\nWITH a AS (SELECT 1) FROM a\n```\nOk": "WITH a AS (SELECT 1) FROM a",
		"First ```sql\nSELECT 1\n``` no, ```sql\nSELECT 2\n```":    "SELECT 2",
		"  select 3 ":                             "select 3",
		`{"query": "SELECT 4"}`:                   "SELECT 4",
		"```json\n{\"query\": \"SELECT 5\"}\n```": "SELECT 5",
		"CLARIFY: which month?":                   "?which month?",
		"DECLINE: I only read.":                   "!I only read.",
		"There were 12 of them.":                  "no query is found",
	} {
		for _, stream := range []bool{false, true} {
			got, err := asked(t, said, stream)
			if err != nil {
				require.ErrorContains(t, err, want, said)
				continue
			}
			text := got.Query
			if got.Clarify != "" {
				text = "?" + got.Clarify
			}
			if got.Decline != "" {
				text = "!" + got.Decline
			}
			require.Equal(t, want, text, said)
		}
	}
}

// asked is what a chat translator makes of what a model says.
func asked(t *testing.T, said string, stream bool) (translator.Reply, error) {
	t.Helper()
	s := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, _ *http.Request) {
		if !stream {
			b, _ := json.Marshal(map[string]any{"choices": []any{map[string]any{"message": map[string]string{"content": said}}}})
			_, _ = w.Write(b)
			return
		}
		w.Header().Set("Content-Type", "text/event-stream")
		for _, part := range []string{said[:len(said)/2], said[len(said)/2:]} {
			b, _ := json.Marshal(map[string]any{"choices": []any{map[string]any{"delta": map[string]string{"content": part}}}})
			fmt.Fprintf(w, "data: %s\n\n", b)
		}
		fmt.Fprint(w, "data: [DONE]\n\n")
	}))
	defer s.Close()
	asker, err := chat.New(chat.Settings{URL: s.URL, Model: "m", Timeout: suite.Answers.Timeout(), Parallel: 1})
	require.NoError(t, err)
	got, err := asker.Ask(context.Background(), suite.Request("one"))
	return got.Reply, err
}

// TestRetryAfter: a service that asks to be left alone is left alone for as long as it says, and a refusal is not tried again.
func TestRetryAfter(t *testing.T) {
	var asked atomic.Int64
	s := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, _ *http.Request) {
		if asked.Add(1) == 1 {
			w.Header().Set("Retry-After", "1")
			http.Error(w, "busy", http.StatusTooManyRequests)
			return
		}
		http.Error(w, "no such model", http.StatusNotFound)
	}))
	defer s.Close()
	start := time.Now()
	limited := translator.Limit(web.New(web.Settings{URL: s.URL, Timeout: suite.Answers.Timeout(), Parallel: 1}),
		translator.Limits{Retries: 5, First: time.Millisecond})
	got, err := limited.Ask(context.Background(), suite.Request("one"))
	require.ErrorContains(t, err, "404 Not Found: no such model")
	require.Len(t, got.Tries, 2)
	require.Contains(t, got.Tries[0].Problem, "429")
	require.GreaterOrEqual(t, time.Since(start), time.Second)
}

// TestPrice: tokens are priced per million where the reply does not say what it cost; a rate spaces asks out.
func TestPrice(t *testing.T) {
	s := server(t, suite.Answers, protocolQuestion, func(string) string {
		return `{"query": "SELECT 1", "usage": {"input_tokens": 1000, "output_tokens": 500}}`
	})
	limited := translator.Limit(web.New(web.Settings{URL: s, Timeout: suite.Answers.Timeout(), Parallel: 1}),
		translator.Limits{Rate: 20, Price: translator.Price{Input: 3, Output: 15}})
	start := time.Now()
	for range 4 {
		got, err := limited.Ask(context.Background(), suite.Request("one"))
		require.NoError(t, err)
		require.InDelta(t, 0.0105, got.Reply.Usage.Cost, 1e-12)
	}
	require.GreaterOrEqual(t, time.Since(start), 145*time.Millisecond)
}
