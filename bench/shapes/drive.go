package main

import (
	"encoding/json"
	"errors"
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"strconv"
	"strings"
)

// verdict is what the program says of a reply.
type verdict struct {
	Question string
	Verdict  string
	Faults   []struct{ Code, Certainty, Evidence string }
}

// askAll has the program judge all replies of a workspace; with twins, on these too, and without causes.
func askAll(program, dir string, twins int) (map[string]verdict, error) {
	args := []string{"run", "-t", "recorded@1", "--output", "json"}
	if twins > 0 {
		args = append(args, "--no-diagnosis", "--twins", strconv.Itoa(twins))
	}
	out, err := tovrel(program, dir, args...)
	if err != nil {
		return nil, err
	}
	var runs []struct{ Run int }
	if err := json.Unmarshal(out, &runs); err != nil || len(runs) == 0 {
		return nil, fmt.Errorf("the run: %w: %.300s", err, out)
	}
	out, err = tovrel(program, dir, "show", strconv.Itoa(runs[0].Run), "--output", "json")
	if err != nil {
		return nil, err
	}
	var shown struct{ Attempts []verdict }
	if err := json.Unmarshal(out, &shown); err != nil {
		return nil, err
	}
	all := map[string]verdict{}
	for _, v := range shown.Attempts {
		all[strings.TrimPrefix(v.Question, "shapes/")] = v
	}
	return all, nil
}

func tovrel(program, dir string, args ...string) ([]byte, error) {
	cmd := exec.Command(program, append(args, "--workspace", dir, "--quiet")...)
	cmd.Dir = dir
	out, err := cmd.Output()
	var exit *exec.ExitError
	if errors.As(err, &exit) && exit.ExitCode() > 1 { // 1: a fault was found
		return nil, fmt.Errorf("%v: %w %.500s", args, err, exit.Stderr)
	}
	return out, nil
}

// labels is the file of a workspace that keeps what was planted.
const labels = "labels.json"

// kept reads what was planted in workspaces that were kept.
func kept(dir string) ([]lot, error) {
	files, err := filepath.Glob(filepath.Join(dir, "*", labels))
	if err != nil {
		return nil, err
	}
	var out []lot
	for _, name := range files {
		body, err := os.ReadFile(name)
		if err != nil {
			return nil, err
		}
		var l lot
		if err := json.Unmarshal(body, &l); err != nil {
			return nil, fmt.Errorf("%s: %w", name, err)
		}
		out = append(out, l)
	}
	return out, nil
}

// workspace writes a workspace of a lot, in which each reply is a question of its own.
func (l lot) workspace(dir string) error {
	if err := os.MkdirAll(filepath.Join(dir, "golden"), 0o750); err != nil {
		return err
	}
	if err := l.world.write(dir); err != nil {
		return err
	}
	var config, set, replies strings.Builder
	fmt.Fprintf(&config, "tovrel: 1\ndatasets:\n  data:\n    as-of: %s\n    tables:\n", asOf)
	for _, role := range roles {
		fmt.Fprintf(&config, "      %s: %s.csv\n", l.world.tables[role], l.world.tables[role])
	}
	config.WriteString("translators:\n  recorded@1: {kind: recorded, file: replies.jsonl}\n")
	set.WriteString("---\ngolden-set: shapes\ndataset: data\n---\n")
	for _, q := range l.Questions {
		for _, r := range q.Replies {
			fmt.Fprintf(&set, "\n## What is asked in %s? {#%s}\n\n```sql\n%s\n```\n", r.ID, r.ID, q.SQL)
			line, err := json.Marshal(map[string]any{"id": "shapes/" + r.ID, "reply": map[string]string{"query": r.SQL}})
			if err != nil {
				return err
			}
			replies.Write(append(line, '\n'))
		}
	}
	planted, err := json.Marshal(l)
	if err != nil {
		return err
	}
	for name, text := range map[string]string{labels: string(planted), "tovrel.yaml": config.String(), "golden/shapes.md": set.String(),
		"replies.jsonl": replies.String()} {
		if err := os.WriteFile(filepath.Join(dir, name), []byte(text), 0o600); err != nil {
			return err
		}
	}
	return nil
}
