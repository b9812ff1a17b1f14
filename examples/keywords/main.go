// Command keywords is a complete translator in Go: it counts the rows of the table that the question names, asks back where it
// names none, and declines to change data. It answers one line with one line, so that it can run with keep: true, and a single
// request as well.
//
//	translators:
//	  keywords@1: {kind: command, run: [go, run, ./examples/keywords], keep: true}
package main

import (
	"bufio"
	"encoding/json"
	"fmt"
	"os"
	"strings"
)

// request is as much of the protocol as is needed here.
type request struct {
	ID       string `json:"id"`
	Question string `json:"question"`
	Dataset  struct {
		Tables []struct {
			Name string `json:"name"`
		} `json:"tables"`
	} `json:"dataset"`
}

// reply is one of a query, a question back and a refusal.
type reply struct {
	ID      string `json:"id"` // that of the request
	Query   string `json:"query,omitempty"`
	Clarify string `json:"clarify,omitempty"`
	Decline string `json:"decline,omitempty"`
}

func main() {
	lines := bufio.NewScanner(os.Stdin)
	lines.Buffer(nil, 16<<20)
	out := json.NewEncoder(os.Stdout) // one line for each reply
	for lines.Scan() {
		var r request
		if err := json.Unmarshal(lines.Bytes(), &r); err != nil {
			fmt.Fprintln(os.Stderr, "this line is no request:", err)
			os.Exit(1) // the ask is tried again with a new process
		}
		said := answer(r)
		said.ID = r.ID
		if err := out.Encode(said); err != nil {
			os.Exit(1)
		}
	}
}

func answer(r request) reply {
	question := strings.ToLower(r.Question)
	if strings.HasPrefix(question, "delete") || strings.HasPrefix(question, "update") {
		return reply{Decline: "I only read data."}
	}
	var names []string
	for _, t := range r.Dataset.Tables {
		if strings.Contains(question, strings.ReplaceAll(t.Name, "_", " ")) {
			return reply{Query: fmt.Sprintf("SELECT count(*) AS n FROM %q", t.Name)}
		}
		names = append(names, t.Name)
	}
	return reply{Clarify: "Which of these do you mean: " + strings.Join(names, ", ") + "?"}
}
