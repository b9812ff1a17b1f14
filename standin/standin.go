// Package standin serves the pocket translator over HTTP, chat completions and MCP, with faults to order: a service that is
// slow, flaky and wrong on demand, for demos and tests.
package standin

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"net/http"
	"time"

	"github.com/modelcontextprotocol/go-sdk/mcp"

	"tovrel/translator"
)

// The paths of the service.
const (
	TranslatePath = "/translate"
	ChatPath      = "/v1/chat/completions"
	MCPPath       = "/mcp"
)

// ToolName is the MCP tool.
const ToolName = "translate"

// Settings say how the service behaves.
type Settings struct {
	Latency time.Duration
	Faults  map[string]float64 // share of asks by fault; see Faults
	Seed    int
}

// Handler serves a translator.
func Handler(asker translator.Asker, s Settings) http.Handler {
	h := &handler{asker: asker, troublemaker: newTroublemaker(s), latency: s.Latency}
	mux := http.NewServeMux()
	mux.HandleFunc("POST "+TranslatePath, h.translate)
	mux.HandleFunc("POST "+ChatPath, h.chat)
	mux.Handle(MCPPath, mcp.NewStreamableHTTPHandler(func(*http.Request) *mcp.Server { return h.mcpServer() },
		&mcp.StreamableHTTPOptions{Stateless: true}))
	return mux
}

// ServeMCP serves over standard input and output. It errs where the connection does, or the context ends.
func ServeMCP(ctx context.Context, asker translator.Asker, s Settings) error {
	h := &handler{asker: asker, troublemaker: newTroublemaker(s), latency: s.Latency}
	return h.mcpServer().Run(ctx, &mcp.StdioTransport{})
}

type handler struct {
	asker        translator.Asker
	troublemaker *troublemaker
	latency      time.Duration
}

// answer waits as ordered and asks the translator; a question that it does not understand is an empty reply of the protocol.
func (h *handler) answer(ctx context.Context, r translator.Request) ([]byte, translator.Reply) {
	select {
	case <-time.After(h.latency):
	case <-ctx.Done():
	}
	answered, err := h.asker.Ask(ctx, r)
	var f *translator.Failure
	if errors.As(err, &f) {
		reply := translator.Reply{Text: f.Message}
		return fmt.Appendf(nil, `{"text": %q}`, f.Message), reply
	}
	return answered.Raw, answered.Reply
}

func (h *handler) translate(w http.ResponseWriter, r *http.Request) {
	var request translator.Request
	if err := json.NewDecoder(io.LimitReader(r.Body, translator.MaxReply)).Decode(&request); err != nil {
		http.Error(w, "the body is no request of the protocol: "+err.Error(), http.StatusBadRequest)
		return
	}
	raw, _ := h.answer(r.Context(), request)
	h.troublemaker.send(w, r, raw)
}

// chatRequest is as much of a chat-completions request as is read.
type chatRequest struct {
	Model    string `json:"model"`
	Stream   bool   `json:"stream"`
	Messages []struct {
		Role    string `json:"role"`
		Content string `json:"content"`
	} `json:"messages"`
}

func (h *handler) chat(w http.ResponseWriter, r *http.Request) {
	var asked chatRequest
	if err := json.NewDecoder(io.LimitReader(r.Body, translator.MaxReply)).Decode(&asked); err != nil || len(asked.Messages) == 0 {
		http.Error(w, "the body is no request of chat completions", http.StatusBadRequest)
		return
	}
	request := readPrompt(asked)
	_, reply := h.answer(r.Context(), request)
	content := spoken(reply)
	if h.troublemaker.next("prose") {
		content = "Let me think. The question is about several tables.\n\n" + content + "\n\nThis query answers the question."
	}
	body, _ := json.Marshal(map[string]any{"model": asked.Model, "object": "chat.completion", // these values always encode
		"choices": []any{map[string]any{"index": 0, "finish_reason": "stop",
			"message": map[string]string{"role": "assistant", "content": content}}},
		"usage": map[string]int64{"prompt_tokens": reply.Usage.InputTokens, "completion_tokens": reply.Usage.OutputTokens}})
	if asked.Stream {
		w.Header().Set("Content-Type", "text/event-stream")
		part, _ := json.Marshal(map[string]any{"choices": []any{map[string]any{"delta": map[string]string{"content": content}}}})
		fmt.Fprintf(w, "data: %s\n\ndata: [DONE]\n\n", part)
		return
	}
	h.troublemaker.send(w, r, body)
}

// spoken is a reply as a model says it.
func spoken(r translator.Reply) string {
	switch {
	case r.Query != "":
		return "```sql\n" + r.Query + "\n```"
	case r.Clarify != "":
		return "CLARIFY: " + r.Clarify
	case r.Decline != "":
		return "DECLINE: " + r.Decline
	}
	return r.Text
}

func (h *handler) mcpServer() *mcp.Server {
	server := mcp.NewServer(&mcp.Implementation{Name: "tovrel-stand-in", Version: "1"}, nil)
	server.AddTool(&mcp.Tool{Name: ToolName, Description: "Translate a business question into a query",
		InputSchema: map[string]any{"type": "object"}},
		func(ctx context.Context, r *mcp.CallToolRequest) (*mcp.CallToolResult, error) {
			var request translator.Request
			if err := json.Unmarshal(r.Params.Arguments, &request); err != nil {
				return nil, fmt.Errorf("the arguments are no request of the protocol: %w", err)
			}
			raw, _ := h.answer(ctx, request)
			return &mcp.CallToolResult{Content: []mcp.Content{&mcp.TextContent{Text: string(raw)}}}, nil
		})
	return server
}
