package chat

import (
	"errors"
	"testing"

	"github.com/stretchr/testify/require"

	"tovrel/translator"
	"tovrel/translator/web"
)

// FuzzCompletion: whatever a service answers is a completion or a failure, and whatever a model says a reply or a failure.
func FuzzCompletion(f *testing.F) {
	for _, seed := range []string{`{"choices": [{"message": {"content": "SELECT 1"}}], "usage": {"prompt_tokens": -1}}`,
		"data: {\"choices\": [{\"delta\": {\"content\": \"```sql\\nSELECT 1\\n```\"}}]}\n\ndata: [DONE]\n",
		"data: {\"error\": {\"message\": \"no\"}}\n\n", `{"error": "x"}`, "data:", "data: [DONE", `{"choices": []}`} {
		f.Add([]byte(seed), true)
		f.Add([]byte(seed), false)
	}
	f.Fuzz(func(t *testing.T, body []byte, stream bool) {
		answer := web.Answer{Body: body}
		if stream {
			answer.ContentType = "text/event-stream"
		}
		var failure *translator.Failure
		c, err := readCompletion(answer)
		if err != nil {
			require.True(t, errors.As(err, &failure))
		}
		if _, err = readReply(c.text+string(body), translator.Protocol); err != nil {
			require.True(t, errors.As(err, &failure))
		}
	})
}
