// Package mcp asks a translator that is a tool of an MCP server, over standard input and output or streamable HTTP: the request
// is the tool's arguments, the reply its structured content or its first text.
package mcp

import (
	"context"
	"encoding/json"
	"net/http"
	"os/exec"
	"strings"
	"sync"
	"time"

	"github.com/modelcontextprotocol/go-sdk/mcp"

	"tovrel/core/fault"
	"tovrel/translator"
	"tovrel/translator/command"
)

// Settings say what to ask: a program, or an address.
type Settings struct {
	Run     []string
	Dir     string
	Env     []string
	URL     string
	Headers map[string]string
	Tool    string // "" for the server's only one
	Timeout time.Duration
}

// New makes an asker; the server is started, or connected to, when it is first asked.
func New(s Settings) translator.Asker { return &asker{settings: s} }

type asker struct {
	settings Settings
	mu       sync.Mutex
	session  *mcp.ClientSession
	tool     string
}

// Close ends the session and the server that was started for it.
func (a *asker) Close() error {
	a.mu.Lock()
	defer a.mu.Unlock()
	a.drop()
	return nil
}

// drop closes a session, so that the next ask makes a new one. The lock is held.
func (a *asker) drop() {
	if a.session != nil {
		_ = a.session.Close() // what it cannot say any more is not missed
		a.session = nil
	}
}

// connected gives the session and the tool, connecting where there is none.
func (a *asker) connected(ctx context.Context) (*mcp.ClientSession, string, error) {
	a.mu.Lock()
	defer a.mu.Unlock()
	if a.session != nil {
		return a.session, a.tool, nil
	}
	client := mcp.NewClient(&mcp.Implementation{Name: "tovrel", Version: "1"}, nil)
	session, err := client.Connect(context.WithoutCancel(ctx), a.transport(), nil)
	if err != nil {
		return nil, "", translator.Fail(fault.Transport, "the MCP server cannot be reached: %v", err)
	}
	a.session, a.tool = session, a.settings.Tool
	if a.tool == "" {
		if a.tool, err = onlyTool(ctx, session); err != nil {
			a.drop()
			return nil, "", err
		}
	}
	return a.session, a.tool, nil
}

func onlyTool(ctx context.Context, session *mcp.ClientSession) (string, error) {
	tools, err := session.ListTools(ctx, nil)
	if err != nil {
		return "", translator.Fail(fault.Transport, "the MCP server does not list its tools: %v", err)
	}
	var names []string
	for _, t := range tools.Tools {
		names = append(names, t.Name)
	}
	if len(names) != 1 {
		f := translator.Fail(fault.Transport, "the MCP server has %d tools (%s); name one with tool: in tovrel.yaml", len(names), strings.Join(names, ", "))
		f.Again = false
		return "", f
	}
	return names[0], nil
}

func (a *asker) transport() mcp.Transport {
	if a.settings.URL != "" {
		return &mcp.StreamableClientTransport{Endpoint: a.settings.URL, DisableStandaloneSSE: true,
			HTTPClient: &http.Client{Transport: withHeaders{a.settings.Headers}}}
	}
	cmd := exec.Command(a.settings.Run[0], a.settings.Run[1:]...)
	cmd.Dir, cmd.Env = a.settings.Dir, command.Environment(a.settings.Env)
	return &mcp.CommandTransport{Command: cmd, TerminateDuration: time.Second}
}

// withHeaders adds headers to every request.
type withHeaders struct{ headers map[string]string }

func (w withHeaders) RoundTrip(r *http.Request) (*http.Response, error) {
	r = r.Clone(r.Context())
	for name, value := range w.headers {
		r.Header.Set(name, value)
	}
	return http.DefaultTransport.RoundTrip(r)
}

// Ask calls the tool. A session that broke is made anew at the next try.
func (a *asker) Ask(ctx context.Context, r translator.Request) (translator.Answered, error) {
	timed, cancel := context.WithTimeout(ctx, a.settings.Timeout)
	defer cancel()
	start := time.Now()
	raw, err := a.call(timed, r)
	answered := translator.Answered{Raw: raw, Latency: time.Since(start)}
	switch {
	case ctx.Err() != nil:
		return answered, ctx.Err()
	case timed.Err() != nil:
		return answered, translator.Fail(fault.NoReply, "no reply within %s", a.settings.Timeout)
	case err != nil:
		return answered, err
	}
	answered.Reply, err = translator.ParseReply(raw)
	return answered, err
}

func (a *asker) call(ctx context.Context, r translator.Request) ([]byte, error) {
	session, tool, err := a.connected(ctx)
	if err != nil {
		return nil, err
	}
	result, err := session.CallTool(ctx, &mcp.CallToolParams{Name: tool, Arguments: r})
	if err != nil {
		if ctx.Err() == nil {
			a.mu.Lock()
			if a.session == session {
				a.drop()
			}
			a.mu.Unlock()
		}
		return nil, translator.Fail(fault.Transport, "the tool %s cannot be called: %v", tool, err)
	}
	raw, err := content(result)
	if err != nil {
		return raw, err
	}
	if result.IsError {
		return raw, translator.Fail(fault.Transport, "the tool %s failed: %.200s", tool, raw)
	}
	return raw, nil
}

// content is a result's structured content, else its first text.
func content(result *mcp.CallToolResult) ([]byte, error) {
	if result.StructuredContent != nil && !result.IsError {
		b, err := json.Marshal(result.StructuredContent)
		return b, err
	}
	for _, c := range result.Content {
		var text *mcp.TextContent
		if t, ok := c.(*mcp.TextContent); ok {
			text = t
		}
		if text != nil {
			return []byte(text.Text), nil
		}
	}
	if result.IsError {
		return nil, nil
	}
	return nil, translator.Fail(fault.MalformedReply, "the tool's result holds neither structured content nor text")
}
