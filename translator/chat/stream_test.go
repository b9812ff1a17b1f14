package chat_test

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"net/http"
	"net/http/httptest"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"tovrel/core/fault"
	"tovrel/translator"
	"tovrel/translator/chat"
)

// streamed is a model's answer in pieces.
func streamed(pieces ...string) string {
	var b strings.Builder
	for _, p := range pieces {
		body, _ := json.Marshal(map[string]any{"model": "m", "choices": []any{map[string]any{"delta": map[string]string{"content": p}}}})
		fmt.Fprintf(&b, "data: %s\n\n", body)
	}
	return b.String() + "data: [DONE]\n\n"
}

// ask asks a service that answers so, each time the next one.
func ask(t *testing.T, retries int, answers ...string) (translator.Answered, error) {
	t.Helper()
	asked := 0
	s := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, _ *http.Request) {
		w.Header().Set("Content-Type", "text/event-stream")
		_, _ = w.Write([]byte(answers[min(asked, len(answers)-1)]))
		asked++
	}))
	defer s.Close()
	asker, err := chat.New(chat.Settings{URL: s.URL, Model: "m", Timeout: 5 * time.Second, Parallel: 1})
	require.NoError(t, err)
	return translator.Limit(asker, translator.Limits{Retries: retries, First: time.Millisecond}).Ask(context.Background(),
		translator.Request{ID: "s/q", Question: "q"})
}

// TestCutStreams: a stream that is cut anywhere is not an answer, and is asked for again.
func TestCutStreams(t *testing.T) {
	whole := streamed("```sql\nSELECT ", "1 AS \"n\"", "\n```")
	end := strings.Index(whole, "[DONE]") + len("[DONE]")
	for at := range end {
		_, err := ask(t, 0, whole[:at])
		var f *translator.Failure
		require.True(t, errors.As(err, &f), "cut at %d", at)
		require.Equal(t, fault.Transport, f.Code, "cut at %d: %s", at, f.Message)
		require.True(t, f.Again)
		if at%17 == 0 {
			got, err := ask(t, 1, whole[:at], whole)
			require.NoError(t, err)
			require.Equal(t, "SELECT 1 AS \"n\"", got.Reply.Query)
			require.Len(t, got.Tries, 2)
		}
	}
}

// TestErrorsInStreams: an error object in place of a part, or of the whole answer, gives its text.
func TestErrorsInStreams(t *testing.T) {
	first := strings.SplitAfter(streamed("SELECT "), "\n\n")[0]
	for name, answer := range map[string]string{
		"an object":      first + `data: {"error": {"message": "the model is overloaded", "code": 529}}` + "\n\n",
		"a text":         first + `data: {"error": "the model is overloaded"}` + "\n\n",
		"at once":        `data: {"error": {"message": "the model is overloaded"}}` + "\n\ndata: [DONE]\n\n",
		"as an event":    "event: error\n" + `data: {"error": {"message": "the model is overloaded"}}` + "\n\n",
		"without a text": first + `data: {"error": {"reason": "the model is overloaded"}}` + "\n\n",
	} {
		_, err := ask(t, 0, answer)
		require.ErrorContains(t, err, "the model is overloaded", name)
		var f *translator.Failure
		require.True(t, errors.As(err, &f), name)
		require.Equal(t, fault.Transport, f.Code, name)
		got, err := ask(t, 1, answer, streamed("SELECT 1"))
		require.NoError(t, err, name)
		require.Equal(t, "SELECT 1", got.Reply.Query, name)
	}
}

// TestSplitSecret: a secret that a stream splits over its parts is neither in the reply nor in what is kept of it.
func TestSplitSecret(t *testing.T) {
	s := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, _ *http.Request) {
		w.Header().Set("Content-Type", "text/event-stream")
		_, _ = w.Write([]byte(streamed("SELECT 'sk-ab", "c/d", "ef' AS k")))
	}))
	defer s.Close()
	asker, err := chat.New(chat.Settings{URL: s.URL, Model: "m", Key: "sk-abc/def", Timeout: 5 * time.Second, Parallel: 1})
	require.NoError(t, err)
	got, err := translator.Mask(asker, []string{"sk-abc/def"}).Ask(context.Background(), translator.Request{})
	require.NoError(t, err)
	require.Equal(t, "SELECT '***' AS k", got.Reply.Query)
	require.NotContains(t, string(got.Raw), "c/d")
}
