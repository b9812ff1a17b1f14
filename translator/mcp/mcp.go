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

	"tovrel/children"
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
	mu       sync.Mutex // held for moments only, never while the server is waited for
	current  *connection
}

// connection is a session, or the way to one.
type connection struct {
	made    chan struct{} // closed when the session is there, or err
	session *mcp.ClientSession
	tool    string
	err     error
	child   *children.Child // the server, where it was started here
	cancel  context.CancelFunc
}

// closing bounds how long a server may take to end by itself.
const closing = time.Second

// Close ends the session and the server that was started for it.
func (a *asker) Close() error {
	a.mu.Lock()
	c := a.current
	a.current = nil
	a.mu.Unlock()
	c.close()
	children.Sweep()
	return nil
}

// close ends a connection, in whatever state it is. It may be called on nil.
func (c *connection) close() {
	if c == nil {
		return
	}
	c.cancel()
	<-c.made
	if c.session != nil {
		ended := make(chan struct{})
		go func() {
			defer close(ended)
			_ = c.session.Close() // what it cannot say any more is not missed
		}()
		select {
		case <-ended:
		case <-time.After(closing):
		}
	}
	c.child.End()
}

// drop forgets a connection, so that the next ask makes a new one.
func (a *asker) drop(c *connection) {
	a.mu.Lock()
	if a.current == c {
		a.current = nil
	}
	a.mu.Unlock()
	go c.close() // the ask that failed need not wait for the server's end
}

// connected gives the connection, making one where there is none; it waits for it as long as the context allows.
func (a *asker) connected(ctx context.Context) (*connection, error) {
	a.mu.Lock()
	c := a.current
	if c == nil {
		c = &connection{made: make(chan struct{})}
		var timed context.Context
		timed, c.cancel = context.WithCancel(context.WithoutCancel(ctx)) // it serves other asks too
		a.current = c
		go a.connect(timed, c)
	}
	a.mu.Unlock()
	select {
	case <-c.made:
	case <-ctx.Done():
		return nil, ctx.Err()
	}
	if c.err != nil {
		a.drop(c)
	}
	return c, c.err
}

// connect makes a session within the translator's time-out.
func (a *asker) connect(ctx context.Context, c *connection) {
	defer close(c.made)
	late := time.AfterFunc(a.settings.Timeout, c.cancel)
	defer late.Stop()
	transport, err := a.transport(c)
	if err != nil {
		c.err = err
		return
	}
	client := mcp.NewClient(&mcp.Implementation{Name: "tovrel", Version: "1"}, nil)
	c.session, err = client.Connect(ctx, transport, nil)
	switch {
	case ctx.Err() != nil:
		c.err = translator.Fail(fault.NoReply, "the MCP server did not answer within %s", a.settings.Timeout)
	case err != nil:
		c.err = translator.Fail(fault.Transport, "the MCP server cannot be reached: %v", err)
	case a.settings.Tool != "":
		c.tool = a.settings.Tool
	default:
		c.tool, c.err = onlyTool(ctx, c.session)
	}
	if err != nil {
		c.session = nil
	}
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
		f := translator.Fail(fault.Transport, "the MCP server has %d tools (%s); name one with tool: in tovrel.yaml",
			len(names), strings.Join(names, ", "))
		f.Again = false
		return "", f
	}
	return names[0], nil
}

// transport is the way to the server; one that is a program is started.
func (a *asker) transport(c *connection) (mcp.Transport, error) {
	if a.settings.URL != "" {
		return &mcp.StreamableClientTransport{Endpoint: a.settings.URL, DisableStandaloneSSE: true,
			HTTPClient: &http.Client{Transport: withHeaders{a.settings.Headers}}}, nil
	}
	cmd := exec.Command(a.settings.Run[0], a.settings.Run[1:]...)
	cmd.Dir, cmd.Env = a.settings.Dir, command.Environment(a.settings.Env)
	out, err := cmd.StdoutPipe()
	if err != nil {
		return nil, translator.Fail(fault.Transport, "the MCP server cannot be started: %v", err)
	}
	in, err := cmd.StdinPipe()
	if err != nil {
		return nil, translator.Fail(fault.Transport, "the MCP server cannot be started: %v", err)
	}
	if c.child, err = children.Start(cmd); err != nil {
		return nil, translator.Fail(fault.Transport, "the MCP server cannot be started: %v", err)
	}
	return &mcp.IOTransport{Reader: out, Writer: in}, nil
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
	c, err := a.connected(ctx)
	if err != nil {
		return nil, err
	}
	result, err := c.session.CallTool(ctx, &mcp.CallToolParams{Name: c.tool, Arguments: r})
	if err != nil {
		if ctx.Err() == nil {
			a.drop(c)
		}
		return nil, translator.Fail(fault.Transport, "the tool %s cannot be called: %v", c.tool, err)
	}
	raw, err := content(result)
	if err != nil {
		return raw, err
	}
	if result.IsError {
		return raw, translator.Fail(fault.Transport, "the tool %s failed: %.200s", c.tool, raw)
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
