package cli

import (
	"fmt"
	"os"
	"path/filepath"

	"tovrel/core/pattern"
	"tovrel/files"
	"tovrel/standin/pocket"
	"tovrel/translator"
	"tovrel/translator/chat"
	"tovrel/translator/command"
	"tovrel/translator/mcp"
	"tovrel/translator/recorded"
	"tovrel/translator/web"
	"tovrel/trouble"
	"tovrel/workspace"
)

// newAsker makes a translator's asker: its transport, with secrets masked and within its limits.
func newAsker(w *workspace.Workspace, t *workspace.Translator) (translator.Asker, error) {
	return newAskerAt(w, t, nil)
}

// newAskerAt is newAsker with the pace of all machines that ask together; nil for this one's own.
func newAskerAt(w *workspace.Workspace, t *workspace.Translator, pace translator.Pace) (translator.Asker, error) {
	s := &secrets{at: t}
	asker, err := transport(w, t, s)
	if err == nil {
		err = s.err
	}
	if err != nil {
		return nil, err
	}
	limits := translator.Limits{Rate: t.Rate, Retries: t.Retries, Price: translator.Price(t.Price), Pace: pace}
	return translator.Limit(translator.Mask(asker, s.found), limits), nil
}

func transport(w *workspace.Workspace, t *workspace.Translator, s *secrets) (translator.Asker, error) {
	dir, err := filepath.Abs(w.Path(t.Dir))
	if err != nil {
		return nil, err
	}
	for _, name := range t.Env {
		s.found = append(s.found, os.Getenv(name))
	}
	switch t.Kind {
	case "recorded":
		asker, err := recorded.New(t.File, w.Path(t.File))
		return asker, trouble.As(trouble.Unreadable, err)
	case "http":
		return web.New(web.Settings{URL: s.fill(t.URL), Headers: s.headers(t.Headers), Timeout: t.Timeout, Parallel: t.Parallel}), nil
	case "chat":
		settings := chat.Settings{URL: s.fill(t.URL), Headers: s.headers(t.Headers), Model: t.Model, Temperature: t.Temperature,
			Key: s.fill(t.Key), Timeout: t.Timeout, Parallel: t.Parallel}
		if t.Prompt != "" {
			text, err := files.Read(w.Path(t.Prompt), files.Document)
			if err != nil {
				return nil, trouble.New(trouble.Unreadable, "%s: the prompt %s cannot be read: %w", t.At, t.Prompt, err)
			}
			settings.Prompt = string(text)
		}
		asker, err := chat.New(settings)
		return asker, trouble.As(trouble.Unreadable, err)
	case "mcp":
		return mcp.New(mcp.Settings{Run: t.Run, Dir: dir, Env: t.Env, URL: s.fill(t.URL), Headers: s.headers(t.Headers),
			Tool: t.Tool, Timeout: t.Timeout}), nil
	case "pocket":
		asker, err := pocket.New(pocket.Settings{Version: t.Version, Quirks: t.Quirks, Seed: t.Seed})
		if err != nil {
			return nil, trouble.New(trouble.Unreadable, "%s: %w", t.At, err)
		}
		return asker, nil
	}
	return command.New(command.Settings{Run: t.Run, Dir: dir, Env: t.Env, Keep: t.Keep, Timeout: t.Timeout})
}

// secrets fills environment variables in and remembers what they held.
type secrets struct {
	at    *workspace.Translator
	found []string
	err   error
}

var variable = pattern.Of(`\$\{([A-Za-z_][A-Za-z0-9_]*)\}`)

func (s *secrets) fill(text string) string {
	return variable.ReplaceAllStringFunc(text, func(name string) string {
		value, set := os.LookupEnv(name[2 : len(name)-1])
		if !set && s.err == nil {
			s.err = trouble.As(trouble.Unreachable,
				fmt.Errorf("the environment variable %s is not set, which %s needs", name[2:len(name)-1], s.at.Name))
		}
		s.found = append(s.found, value)
		return value
	})
}

func (s *secrets) headers(written map[string]string) map[string]string {
	out := map[string]string{}
	for name, text := range written {
		out[name] = s.fill(text)
	}
	return out
}
