package translator_test

import (
	"errors"
	"testing"

	"github.com/stretchr/testify/require"

	"tovrel/core/fault"
	"tovrel/core/record"
	"tovrel/translator"
)

// FuzzParseReply: any bytes are a reply or a failure with a code, and a usage is always one that can be added up.
func FuzzParseReply(f *testing.F) {
	for _, seed := range []string{`{"query": "SELECT 1"}`, `{"table": {"columns": ["a"], "rows": [[1e400]]}}`,
		`{"text": "x", "usage": {"cost": -1, "input_tokens": 1e99}}`, `{"query": 1}`, `[]`, `{"clarify": "?"} x`,
		`{"query": "a", "id": {"x": 1}}`, ``, `null`, `{"usage": []}`} {
		f.Add([]byte(seed))
	}
	f.Fuzz(func(t *testing.T, raw []byte) {
		reply, err := translator.ParseReply(raw)
		if err != nil {
			var failure *translator.Failure
			require.True(t, errors.As(err, &failure))
			require.Contains(t, []fault.Code{fault.NoReply, fault.MalformedReply}, failure.Code)
			return
		}
		u := reply.Usage
		require.True(t, u.Cost >= 0 && u.Cost <= record.MostCost && u.InputTokens >= 0 && u.OutputTokens >= 0 && u.InputTokens+
			u.OutputTokens >= 0, "%+v", u)
		_ = translator.CheckID(reply, translator.Request{ID: "s/q"})
		_ = translator.NewMasker([]string{"secret-word"}).Text(string(raw))
	})
}
