// Package pages measures a report's page in a real browser: 500 questions in five runs, a third of them wrong, with their tables and
// queries. It says how large the page is, how long a browser takes to open it, and how long to filter it.
package pages

import (
	"context"
	"encoding/json"
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"time"

	"github.com/chromedp/chromedp"

	"tovrel/bench/held"
	"tovrel/core/fault"
	"tovrel/core/match"
	"tovrel/core/record"
	"tovrel/core/score"
	"tovrel/core/table"
	"tovrel/core/value"
	"tovrel/history"
)

const (
	questions = 500
	runs      = 5
	rows      = 12
)

// Measure measures a program's pages and prints what it saw.
func Measure(program string) error {
	dir, err := os.MkdirTemp("", "bench-pages-")
	if err != nil {
		return err
	}
	defer os.RemoveAll(dir) //nolint:errcheck // a scratch folder
	if err := fill(dir); err != nil {
		return err
	}
	file := filepath.Join(dir, "page.html")
	took, err := held.Run(dir, program, "report", "1", "2", "3", "4", "5", "-o", file)
	if err != nil {
		return err
	}
	info, err := os.Stat(file)
	if err != nil {
		return err
	}
	fmt.Printf("a page of %d questions in %d runs: %.2f MB (limit 3), written in %d ms\n", questions, runs, float64(info.Size())/1e6,
		took.Time.Milliseconds())
	return inBrowser(file)
}

func inBrowser(file string) error {
	path, err := exec.LookPath("chromium")
	if err != nil {
		return fmt.Errorf("chromium is not installed: %w", err)
	}
	allocator, stop := chromedp.NewExecAllocator(context.Background(), append(chromedp.DefaultExecAllocatorOptions[:],
		chromedp.ExecPath(path), chromedp.NoSandbox)...)
	defer stop()
	ctx, end := chromedp.NewContext(allocator)
	defer end()
	if err := chromedp.Do(ctx, chromedp.Navigate("about:blank")); err != nil {
		return err
	}
	if err := chromedp.Do(ctx, chromedp.Navigate("file://"+file)); err != nil {
		return err
	}
	opened, err := chromedp.Run(ctx, chromedp.Evaluate[float64](`performance.getEntriesByType('navigation')[0].loadEventEnd`))
	if err != nil {
		return err
	}
	filtered, err := chromedp.Run(ctx, chromedp.Evaluate[float64](`(() => {
		const search = document.getElementById('search'), times = [];
		for (const words of ['question-1', '', 'wrong 7', 'farm', 'nothing at all', '']) {
			const start = performance.now();
			search.value = words;
			search.dispatchEvent(new Event('input', {bubbles: true}));
			document.body.offsetHeight; // laid out again
			times.push(performance.now() - start);
		}
		return Math.max(...times);
	})()`))
	if err != nil {
		return err
	}
	fmt.Printf("opened in %.0f ms (limit 1000), filtered in %.0f ms at most (limit 50)\n", opened, filtered)
	return nil
}

func fill(dir string) error {
	for name, body := range map[string]string{"tovrel.yaml": "tovrel: 1\ndatasets: {one: {tables: {t: t.csv}}}\n", "t.csv": "a\n1\n"} {
		if err := os.WriteFile(filepath.Join(dir, name), []byte(body), 0o600); err != nil {
			return err
		}
	}
	store, err := history.Open(context.Background(), filepath.Join(dir, ".tovrel", "history.db"))
	if err != nil {
		return err
	}
	for run := range runs {
		in := history.Imported{Run: record.Run{Translator: fmt.Sprintf("made@%d", run+1), Started: history.Now(), State: record.Complete,
			UID: fmt.Sprint("bench-", run), Weights: map[string]float64{}, Grounds: map[string]record.Ground{},
			About: map[string]record.About{}}}
		for q := range questions {
			add(&in, run, q)
		}
		if _, _, err := store.Import(in); err != nil {
			return err
		}
	}
	return store.Close()
}

// add adds what a run did with a question: an expected table, an answer that is sometimes another one, both queries.
func add(in *history.Imported, run, q int) {
	name := fmt.Sprintf("set-%d/question-%d", q%10, q)
	in.Run.Weights[name] = 1
	in.Run.Grounds[name] = record.Ground{Question: "q", Expected: "e", Rules: "r", Data: "d", Engine: "x"}
	in.Run.About[name] = record.About{Dataset: "one", Tags: []string{"sum", "join"}, Features: []string{"aggregate"}}
	expected := history.Keep(made(q, -1))
	a := record.Attempt{Question: name,
		Wording: fmt.Sprintf("What did the farms of district %d deliver in each month, and at which price?", q),
		Verdict: score.Right, Expected: expected.Digest, Answer: expected.Digest, Cost: 0.003, Latency: 300 * time.Millisecond,
		Query: fmt.Sprintf("SELECT month, farm, sum(litres) AS litres FROM loads JOIN farms USING (farm_id) "+
			"WHERE district = %d GROUP BY 1, 2", q),
		Reference: fmt.Sprintf("SELECT month, farm, sum(l.litres) AS litres FROM loads l JOIN farms f USING (farm_id) "+
			"WHERE f.district = %d GROUP BY ALL", q),
		Raw: json.RawMessage(`{}`), Match: &record.Match{}}
	for i := range 3 {
		a.Match.Columns = append(a.Match.Columns, match.ColumnPair{Expected: i, Answer: i})
	}
	for i := range rows {
		a.Match.AnswerOf = append(a.Match.AnswerOf, i)
	}
	in.Tables = append(in.Tables, expected)
	if (q*7+run*13)%3 == 0 {
		answer := history.Keep(made(q, run))
		in.Tables = append(in.Tables, answer)
		a.Verdict, a.Answer, a.Why = score.Wrong, answer.Digest, "12 cells differ"
		a.Faults = []fault.Fault{{Code: fault.FilterMissing, Certainty: fault.Proved, Evidence: "the answer lacks `status = 'acc'`"}}
		for i := range rows {
			a.Match.Cells = append(a.Match.Cells, record.CellPlace{ExpectedRow: i, AnswerRow: i, Column: 2})
		}
	}
	in.Attempts = append(in.Attempts, history.Placed{Place: q, Attempt: a})
}

// made is a table of a question, or a run's wrong answer to it.
func made(q, run int) *table.Table {
	months, farms, litres := column("month", value.Text), column("farm", value.Text), column("litres", value.Float)
	for i := range rows {
		months.Append(value.OfText(fmt.Sprintf("2031-%02d", i%12+1)))
		farms.Append(value.OfText(fmt.Sprintf("farm %d of district %d", i*31%97, q)))
		litres.Append(value.OfFloat(float64(q*1000+i*37) + float64(run+1)*12.25))
	}
	return &table.Table{Columns: []*table.Column{months, farms, litres}}
}

func column(name string, kind value.Kind) *table.Column {
	return table.NewColumn(name, value.Type{Kind: kind}, rows)
}
