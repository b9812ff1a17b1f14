// Package chat asks a language model behind an endpoint that speaks the widely used chat-completions JSON over HTTP. What the
// model is told comes from a template; its query is read from a fenced block, a JSON object of the protocol, or the bare text.
package chat

import (
	"bytes"
	"context"
	_ "embed"
	"encoding/json"
	"fmt"
	"maps"
	"text/template"
	"time"

	"tovrel/core/fault"
	"tovrel/core/profile"
	"tovrel/translator"
	"tovrel/translator/web"
)

//go:embed prompt.tmpl
var defaultPrompt string

// Settings say what to ask.
type Settings struct {
	URL         string // of the completions
	Headers     map[string]string
	Model       string
	Prompt      string // a template's text; "" for the default
	Temperature *float64
	Key         string // sent as a bearer token; "" for none
	Timeout     time.Duration
	Parallel    int
}

// New makes an asker. The error is of the template.
func New(s Settings) (translator.Asker, error) {
	if s.Prompt == "" {
		s.Prompt = defaultPrompt
	}
	prompt, err := template.New("prompt").Funcs(template.FuncMap{"json": toJSON, "name": profile.Quoted}).Parse(s.Prompt)
	if err != nil {
		return nil, fmt.Errorf("the prompt's template cannot be read: %w", err)
	}
	headers := map[string]string{}
	maps.Copy(headers, s.Headers)
	if s.Key != "" {
		headers["Authorization"] = "Bearer " + s.Key
	}
	return &asker{s, prompt, web.NewClient(s.URL, headers, s.Timeout, s.Parallel)}, nil
}

func toJSON(v any) (string, error) {
	b, err := json.Marshal(v)
	return string(b), err
}

type asker struct {
	settings Settings
	prompt   *template.Template
	client   *web.Client
}

func (a *asker) Close() error {
	a.client.HTTP.CloseIdleConnections()
	return nil
}

type message struct {
	Role    string `json:"role"`
	Content string `json:"content"`
}

type completionRequest struct {
	Model       string    `json:"model"`
	Messages    []message `json:"messages"`
	Temperature *float64  `json:"temperature,omitempty"`
}

// Ask renders the request into messages and reads the reply out of the answer.
func (a *asker) Ask(ctx context.Context, r translator.Request) (translator.Answered, error) {
	messages, err := a.messages(r)
	if err != nil {
		return translator.Answered{}, translator.Fail(fault.Transport, "the prompt cannot be rendered: %v", err)
	}
	body, err := json.Marshal(completionRequest{a.settings.Model, messages, a.settings.Temperature})
	if err != nil {
		return translator.Answered{}, err
	}
	got, err := a.client.Post(ctx, body)
	answered := translator.Answered{Raw: got.Body, Latency: got.Latency}
	if err != nil {
		return answered, err
	}
	c, err := readCompletion(got)
	if err != nil {
		return answered, err
	}
	answered.Reply, err = readReply(c.text, r.Protocol)
	answered.Reply = answered.Reply.Named(r)
	answered.Reply.Model = c.model
	if answered.Reply.Usage == (translator.Usage{}) {
		answered.Reply.Usage = c.usage
	}
	return answered, err
}

// messages are the system's, the thread's and the question.
func (a *asker) messages(r translator.Request) ([]message, error) {
	var system bytes.Buffer
	if err := a.prompt.Execute(&system, r); err != nil {
		return nil, err
	}
	messages := []message{{"system", system.String()}}
	for _, turn := range r.Thread {
		messages = append(messages, message{"user", turn.Question}, message{"assistant", spoken(turn.Reply)})
	}
	return append(messages, message{"user", r.Question}), nil
}

// spoken is an earlier reply as the model would have given it.
func spoken(raw json.RawMessage) string {
	if reply, err := translator.ParseReply(raw); err == nil {
		switch {
		case reply.Query != "":
			return "```sql\n" + reply.Query + "\n```"
		case reply.Clarify != "":
			return clarifyMark + " " + reply.Clarify
		case reply.Text != "":
			return reply.Text
		}
	}
	if c, err := readCompletion(web.Answer{Body: raw}); err == nil { // this transport's own replies are kept as they came
		return c.text
	}
	return string(raw)
}
