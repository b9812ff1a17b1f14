package view

import (
	"fmt"
	"time"

	"tovrel/core/table"
)

// Spoken is a reply of a translator, as a view shows it.
type Spoken struct {
	Query, Text, Clarify, Decline, Explanation, Model string
	InputTokens, OutputTokens                         int64
	Cost                                              float64
}

// Asked is one question with its reply and answer.
type Asked struct {
	Translator string
	Question   string
	Reply      Spoken
	Answer     *table.Table
	Latency    time.Duration
	Ran        time.Duration
}

type askedForm struct {
	Question  string       `json:"question"`
	Wording   string       `json:"wording"`
	Repeat    int          `json:"repeat"`
	Turn      int          `json:"turn"`
	Query     string       `json:"query"`
	Text      string       `json:"text,omitempty"`
	Clarify   string       `json:"clarify,omitempty"`
	Decline   string       `json:"decline,omitempty"`
	Model     string       `json:"model,omitempty"`
	Answer    *table.Table `json:"answer"`
	LatencyMS float64      `json:"latency_ms"`
	QueryMS   float64      `json:"query_ms"`
	Cost      float64      `json:"cost"`
}

// Ask shows one question with its reply, query and answer.
func Ask(a Asked) Screen {
	r := a.Reply
	ms, ran := float64(a.Latency.Microseconds())/1000, float64(a.Ran.Microseconds())/1000
	screen := Screen{Data: askedForm{Question: "ask", Wording: a.Question, Query: r.Query, Text: r.Text, Clarify: r.Clarify,
		Decline: r.Decline, Model: r.Model, Answer: a.Answer,
		LatencyMS: ms, QueryMS: ran, Cost: r.Cost}}
	screen.Headline = []Text{{Tone: Strong, Text: a.Translator + ": " + a.Question},
		{Tone: Faint, Text: "Asking took " + Milliseconds(ms) + ", executing " + Milliseconds(ran) + costWords(r) + "."}}
	for _, part := range []struct{ title, text string }{{"It asks back", r.Clarify}, {"It declines", r.Decline},
		{"Text", r.Text}, {"Explanation", r.Explanation}} {
		if part.text != "" {
			screen.Parts = append(screen.Parts, Part{Title: part.title, Lines: []Text{{Text: part.text}}})
		}
	}
	if r.Query != "" {
		screen.Parts = append(screen.Parts, Part{Title: "Query", Code: &Code{Language: "sql", Text: r.Query}})
	}
	if a.Answer != nil {
		screen.Parts = append(screen.Parts, Part{Title: "Answer, " + plural(a.Answer.Rows(), "row", "rows"), Grid: tableGrid(a.Answer)})
	}
	return screen
}

func costWords(r Spoken) string {
	words := ""
	if n := r.InputTokens + r.OutputTokens; n > 0 {
		words = ", " + plural(int(n), "token", "tokens")
	}
	if r.Cost > 0 {
		words += ", cost " + fmt.Sprintf("%.4f", r.Cost)
	}
	return words
}
