package chat

import (
	"bytes"
	"encoding/json"
	"strings"

	"tovrel/core/fault"
	"tovrel/core/pattern"
	"tovrel/translator"
	"tovrel/translator/web"
)

// completion is what a model said.
type completion struct {
	text  string
	model string
	usage translator.Usage
}

// chunk is an answer, or a part of a streamed one.
type chunk struct {
	Model   string `json:"model"`
	Choices []struct {
		Message message `json:"message"`
		Delta   message `json:"delta"`
	} `json:"choices"`
	Usage *modelUsage     `json:"usage"`
	Error json.RawMessage `json:"error"`
}

// modelUsage is what chat completions call a usage.
type modelUsage translator.Usage

// UnmarshalJSON reads it under its own names, with the same doubts. It errs as the usage itself does.
func (u *modelUsage) UnmarshalJSON(body []byte) error {
	var named map[string]json.RawMessage
	if json.Unmarshal(body, &named) != nil {
		return nil // no usage
	}
	own, err := json.Marshal(map[string]json.RawMessage{"input_tokens": given(named["prompt_tokens"]),
		"output_tokens": given(named["completion_tokens"])})
	if err != nil {
		return nil
	}
	return (*translator.Usage)(u).UnmarshalJSON(own)
}

// given is a number, 0 for one that is not there.
func given(n json.RawMessage) json.RawMessage {
	if len(n) == 0 {
		return json.RawMessage("0")
	}
	return n
}

// failure is the error that a service put in place of an answer, as one that may go away; nil for none.
func (c chunk) failure() error {
	if len(c.Error) == 0 || string(c.Error) == "null" {
		return nil
	}
	said := string(c.Error)
	var object struct{ Message string }
	var text string
	switch {
	case json.Unmarshal(c.Error, &text) == nil:
		said = text
	case json.Unmarshal(c.Error, &object) == nil && object.Message != "":
		said = object.Message
	}
	return translator.Fail(fault.Transport, "the service answered with an error: %.300s", said)
}

func (c *completion) add(part chunk) {
	if part.Model != "" {
		c.model = part.Model
	}
	if len(part.Choices) > 0 {
		c.text += part.Choices[0].Message.Content + part.Choices[0].Delta.Content
	}
	if part.Usage != nil {
		c.usage = translator.Usage(*part.Usage)
	}
}

// readCompletion reads an answer, whole or streamed as server-sent events.
func readCompletion(a web.Answer) (completion, error) {
	var c completion
	body := bytes.TrimSpace(a.Body)
	if strings.HasPrefix(a.ContentType, "text/event-stream") || bytes.HasPrefix(body, []byte("data:")) {
		return readStream(body)
	}
	var whole chunk
	if err := json.Unmarshal(body, &whole); err != nil {
		return c, translator.Fail(fault.MalformedReply, "the answer is no JSON of chat completions: %v", err)
	}
	if err := whole.failure(); err != nil {
		return c, err
	}
	if len(whole.Choices) == 0 {
		return c, translator.Fail(fault.MalformedReply, "the answer has no choices")
	}
	c.add(whole)
	return c, nil
}

// readStream reads server-sent events. Whatever does not end with the mark of the end was cut off.
func readStream(body []byte) (completion, error) {
	var c completion
	lines := bytes.Split(body, []byte("\n"))
	for i, line := range lines {
		data, ok := bytes.CutPrefix(bytes.TrimSpace(line), []byte("data:"))
		if !ok {
			continue
		}
		if data = bytes.TrimSpace(data); string(data) == "[DONE]" {
			return c, nil
		}
		var part chunk
		if err := json.Unmarshal(data, &part); err != nil {
			if i == len(lines)-1 {
				break // the last line is not whole
			}
			return c, translator.Fail(fault.MalformedReply, "a part of the streamed answer is no JSON: %v", err)
		}
		if err := part.failure(); err != nil {
			return c, err
		}
		c.add(part)
	}
	return c, translator.Fail(fault.Transport, "the streamed answer broke off")
}

// What a model begins a line with when it does not answer.
const (
	clarifyMark = "CLARIFY:"
	declineMark = "DECLINE:"
)

var (
	fenced    = pattern.Of("(?s)```[ \t]*([A-Za-z0-9_+-]*)[^\n]*\n(.*?)```")
	statement = pattern.Of(`(?is)^\s*(--[^\n]*\n\s*|/\*.*?\*/\s*)*(SELECT|WITH|FROM|VALUES)\b`)
	marked    = pattern.Of(`(?m)^\s*(CLARIFY|DECLINE):\s*(.+)$`)
)

// readReply reads a reply out of what a model said: a JSON object of the protocol, a fenced query, a question back or refusal by
// its mark, or a bare query; under protocol 2 anything else is an answer in words. Of several fenced blocks the last query counts: models
// think aloud first.
func readReply(text, protocol string) (translator.Reply, error) {
	trimmed := strings.TrimSpace(text)
	if trimmed == "" {
		return translator.Reply{}, translator.Fail(fault.NoReply, "the model said nothing")
	}
	if object := objectIn(trimmed); object != "" {
		if reply, err := translator.ParseReply([]byte(object)); err == nil {
			return reply, nil
		}
	}
	if query := fencedQuery(trimmed); query != "" {
		return translator.Reply{Query: query}, nil
	}
	if m := marked.FindStringSubmatch(trimmed); m != nil {
		if m[1] == "CLARIFY" {
			return translator.Reply{Clarify: strings.TrimSpace(m[2])}, nil
		}
		return translator.Reply{Decline: strings.TrimSpace(m[2])}, nil
	}
	if statement.MatchString(trimmed) {
		return translator.Reply{Query: trimmed}, nil
	}
	if protocol == translator.Protocol2 {
		return translator.Reply{Text: trimmed}, nil
	}
	return translator.Reply{}, translator.Fail(fault.MalformedReply, "no query is found in what the model said: %.120q", trimmed)
}

// objectIn is a JSON object that the text is, or that a fenced block of it holds.
func objectIn(text string) string {
	if strings.HasPrefix(text, "{") && strings.HasSuffix(text, "}") {
		return text
	}
	for _, m := range fenced.FindAllStringSubmatch(text, -1) {
		if body := strings.TrimSpace(m[2]); strings.HasPrefix(body, "{") {
			return body
		}
	}
	return ""
}

func fencedQuery(text string) string {
	query := ""
	for _, m := range fenced.FindAllStringSubmatch(text, -1) {
		body := strings.TrimSpace(m[2])
		if language := strings.ToLower(m[1]); body != "" && (language == "sql" || statement.MatchString(body)) {
			query = body
		}
	}
	return query
}
