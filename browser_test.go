package main_test

import (
	"bytes"
	"compress/flate"
	"context"
	"encoding/base64"
	"encoding/json"
	"fmt"
	"io"
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/chromedp/cdproto/cdp"
	"github.com/chromedp/cdproto/emulation"
	"github.com/chromedp/cdproto/network"
	"github.com/chromedp/cdproto/runtime"
	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// needs ends a test where a program is not there; where TOVREL_NEEDS names it, as in CI, that is a failure.
func needs(t *testing.T, name string) string {
	t.Helper()
	path, err := exec.LookPath(name)
	if err == nil {
		return path
	}
	if strings.Contains(os.Getenv("TOVREL_NEEDS"), name) {
		t.Fatalf("%s is not installed", name)
	}
	t.Skipf("%s is not installed", name)
	return ""
}

// step is something that is done in a browser.
type step = chromedp.Action[chromedp.Void]

// browser is a page that is open in a real browser.
type browser struct {
	t        *testing.T
	ctx      context.Context
	mu       sync.Mutex
	requests map[network.RequestID]string // other than of the page itself, and not held back by its policy
	errors   []string                     // of scripts, and of the policy
}

// chromium starts one browser for all pages of a test.
func chromium(t *testing.T) context.Context {
	t.Helper()
	options := append(chromedp.DefaultExecAllocatorOptions[:], chromedp.ExecPath(needs(t, "chromium")), chromedp.NoSandbox,
		chromedp.WindowSize(1280, 800), chromedp.WSURLReadTimeout(2*time.Minute)) // on a busy machine it starts slowly
	allocator, stop := chromedp.NewExecAllocator(context.Background(), options...)
	t.Cleanup(stop)
	ctx, end := chromedp.NewContext(allocator)
	t.Cleanup(end)
	require.NoError(t, chromedp.Do(ctx, chromedp.Navigate("about:blank")))
	return ctx
}

// command is a command of the debugging protocol as a step.
func command[P any](c cdp.Command[P, cdp.Empty], params P) step {
	return func(ctx context.Context, _ *chromedp.Target) (none chromedp.Void, err error) {
		_, err = chromedp.Call(ctx, c, params)
		return none, err
	}
}

// open opens a page of a file, with what follows its name.
func open(in context.Context, t *testing.T, file, after string, before ...step) *browser {
	t.Helper()
	tab, stop := chromedp.NewContext(in)
	t.Cleanup(stop)
	require.NoError(t, chromedp.Do(tab, chromedp.Navigate("about:blank")))
	ctx, late := context.WithTimeout(tab, 5*time.Minute)
	t.Cleanup(late)
	b := &browser{t: t, ctx: ctx, requests: map[network.RequestID]string{}}
	require.NoError(t, chromedp.Listen(ctx, func(event any) { b.hear(file, event) }))
	b.do(append(append([]step{command(network.Enable, network.EnableParams{})}, before...),
		chromedp.Navigate("file://"+file+after))...)
	return b
}

// hear notes what a page does that it should not.
func (b *browser) hear(file string, event any) {
	b.mu.Lock()
	defer b.mu.Unlock()
	switch e := event.(type) {
	case *network.EventRequestWillBeSent:
		if !strings.HasPrefix(e.Request.URL, "file://"+file) {
			b.requests[e.RequestID] = e.Request.URL
		}
	case *network.EventLoadingFailed:
		if e.BlockedReason == network.BlockedReasonCsp {
			delete(b.requests, e.RequestID)
		}
	case *runtime.EventExceptionThrown:
		b.errors = append(b.errors, e.ExceptionDetails.Text)
	case *runtime.EventConsoleAPICalled:
		b.errors = append(b.errors, fmt.Sprint(e.Type, e.Args))
	}
}

func (b *browser) do(steps ...step) {
	b.t.Helper()
	require.NoError(b.t, chromedp.Do(b.ctx, steps...))
}

// valueOf evaluates an expression in a page.
func valueOf[T any](b *browser, expression string) T {
	b.t.Helper()
	v, err := chromedp.Run(b.ctx, chromedp.Evaluate[T](expression))
	require.NoError(b.t, err, expression)
	return v
}

func (b *browser) number(expression string) float64 {
	b.t.Helper()
	return valueOf[float64](b, expression)
}

func (b *browser) text(expression string) string { b.t.Helper(); return valueOf[string](b, expression) }

// run runs statements in a page.
func (b *browser) run(statements string) {
	b.t.Helper()
	valueOf[bool](b, "(() => {"+statements+"; return true })()")
}

// until waits for an expression to hold.
func (b *browser) until(expression string) {
	b.t.Helper()
	_, err := chromedp.Run(b.ctx, chromedp.Poll[bool]("!!("+expression+")", chromedp.WithPollingTimeout(time.Minute)))
	require.NoError(b.t, err, expression)
}

// press presses keys in what has the focus.
func (b *browser) press(keys string) { b.t.Helper(); b.do(chromedp.KeyEvent(keys)) }

// quiet tells that nothing was asked of the network and no script or policy complained.
func (b *browser) quiet() {
	b.t.Helper()
	b.mu.Lock()
	defer b.mu.Unlock()
	assert.Empty(b.t, b.requests, "requests")
	assert.Empty(b.t, b.errors, "errors of the page")
}

// shownRows are the names of the questions that are to be seen, in their order.
const shownRows = `[...document.querySelectorAll('tr.q:not([hidden])')].map(r => r.id).join(' ')`

// demoPage writes a page of the demo's runs.
func demoPage(t *testing.T, args ...string) string {
	t.Helper()
	file := filepath.Join(t.TempDir(), "page.html")
	cmd := exec.Command(program(t), append(append([]string{"report"}, args...), "-o", file)...)
	cmd.Dir = demoFolder(t)
	out, err := cmd.CombinedOutput()
	require.NoError(t, err, string(out))
	return file
}

// What a page does in a real browser.
func TestPage(t *testing.T) {
	in := chromium(t)
	file := demoPage(t, "scribe@1", "scribe@2")
	for name, holds := range map[string]func(context.Context, *testing.T, string){
		"is read, searched, filtered, sorted and cleared": searched,
		"unfolds by a click, by keys and by a link":       unfolded,
		"spells out what is wrong without scripts":        unscripted,
		"is printed with what is wrong spelt out":         printed,
		"fits a phone and the dark":                       narrow,
		"lets nothing run or load that is not its own":    guarded,
	} {
		t.Run(name, func(t *testing.T) { holds(in, t, file) })
	}
}

func searched(in context.Context, t *testing.T, file string) {
	b := open(in, t, file, "")
	assert.Equal(t, 41.0, b.number(`document.querySelectorAll('tr.q').length`))
	assert.Equal(t, "milk-basics/top-district-may payments/unpaid-farms", first(b.text(shownRows), 2), "what regressed is first")
	assert.Equal(t, 4.0, b.number(`document.querySelectorAll('#charts svg title').length`))
	assert.Equal(t, 4.0, b.number(`[...document.querySelectorAll('#charts svg desc')].filter(d => d.textContent.length > 20).length`))
	b.press("/")
	b.press("unpaid farms")
	assert.Equal(t, "payments/unpaid-farms", b.text(shownRows))
	assert.Equal(t, "1 of 41 questions", b.text(`document.getElementById('shown').textContent`))
	b.do(chromedp.Click(`#controls button[type=reset]`))
	b.until(`document.getElementById('shown').textContent === '41 questions'`)
	b.run(`const s = document.querySelector('select[data-of=change]');
		s.value = 'regressed'; s.dispatchEvent(new Event('input', {bubbles: true}))`)
	assert.Equal(t, "milk-basics/top-district-may payments/unpaid-farms", b.text(shownRows))
	b.do(chromedp.Click(`#controls button[type=reset]`))
	b.do(chromedp.Click(`#list thead th button`))
	names := strings.Fields(b.text(shownRows))
	assert.Equal(t, "desk/draw-districts", names[0])
	b.do(chromedp.Click(`#list thead th button`))
	assert.Equal(t, "desk/draw-districts", last(b.text(shownRows)))
	b.quiet()
}

func unfolded(in context.Context, t *testing.T, file string) {
	b := open(in, t, file, "#payments/unpaid-farms")
	b.until(`document.querySelector('tr.u') !== null`)
	assert.Equal(t, "payments/unpaid-farms", b.text(`document.querySelector('tr.u').previousElementSibling.id`))
	detail := b.text(`document.querySelector('tr.u').innerText`)
	assert.Contains(t, detail, "scribe@1 (run 1): right")
	assert.Contains(t, detail, "scribe@2 (run 2): wrong")
	assert.Contains(t, detail, "The queries, by clause")
	assert.Greater(t, b.number(`document.querySelectorAll('tr.u mark').length`), 0.0, "marked cells")
	b.press(kb.ArrowLeft)
	b.until(`document.querySelector('tr.u') === null`)
	b.press(kb.ArrowUp)
	assert.Equal(t, "milk-basics/top-district-may", b.text(`document.activeElement.id`))
	b.press(kb.Enter)
	b.until(`document.querySelector('tr.u') !== null`)
	assert.Equal(t, "true", b.text(`document.activeElement.getAttribute('aria-expanded')`))
	b.do(chromedp.Click(`tr.q[id="toolshed/open-loans"] .name`))
	b.until(`document.querySelectorAll('tr.u').length === 2`)
	b.do(chromedp.Click(`#figures a`))
	b.until(`location.hash.length > 1`)
	b.quiet()
}

func unscripted(in context.Context, t *testing.T, file string) {
	b := open(in, t, file, "", command(emulation.SetScriptExecutionDisabled, emulation.SetScriptExecutionDisabledParams{Value: true}))
	assert.Equal(t, "none", b.text(`getComputedStyle(document.getElementById('controls')).display`))
	assert.Contains(t, b.text(`document.getElementById('spelt').innerText`), "payments/unpaid-farms")
	assert.Contains(t, b.text(`document.getElementById('spelt').innerText`), "SELECT")
	b.quiet()
}

func printed(in context.Context, t *testing.T, file string) {
	b := open(in, t, file, "", command(emulation.SetEmulatedMedia, emulation.SetEmulatedMediaParams{Media: "print"}))
	b.run(`window.printed = '';
		window.addEventListener('beforeprint', () => { window.printed = document.getElementById('paper').innerText })`)
	assert.Equal(t, "none", b.text(`getComputedStyle(document.getElementById('controls')).display`))
	paper, err := chromedp.Run(b.ctx, chromedp.PrintToPDF(chromedp.PDFPreferCSSPageSize()))
	require.NoError(t, err)
	assert.Equal(t, "%PDF", string(paper[:4]))
	assert.Contains(t, b.text(`window.printed`), "payments/unpaid-farms")
	assert.Greater(t, len(paper), 20_000)
}

func narrow(in context.Context, t *testing.T, file string) {
	b := open(in, t, file, "#milk-basics/top-district-may", command(emulation.SetDeviceMetricsOverride,
		emulation.SetDeviceMetricsOverrideParams{Width: 390, Height: 844, DeviceScaleFactor: 2, Mobile: true}))
	b.until(`document.querySelector('tr.u') !== null`)
	assert.LessOrEqual(t, b.number(`document.documentElement.scrollWidth`), 390.0, "nothing sticks out")
	light := b.text(`getComputedStyle(document.body).backgroundColor`)
	b.do(command(emulation.SetEmulatedMedia, emulation.SetEmulatedMediaParams{
		Features: []*emulation.MediaFeature{{Name: "prefers-color-scheme", Value: "dark"}}}))
	assert.NotEqual(t, light, b.text(`getComputedStyle(document.body).backgroundColor`))
}

func guarded(in context.Context, t *testing.T, file string) {
	b := open(in, t, file, "")
	b.run(`window.ran = 0;
		document.body.insertAdjacentHTML('beforeend', '<img src="http://example.test/x.png" onerror="window.ran++">');
		const s = document.createElement('script'); s.textContent = 'window.ran++'; document.body.append(s);
		const l = document.createElement('style'); l.textContent = 'body { display: none }'; document.body.append(l);
		fetch('http://example.test/').catch(() => {})`)
	b.do(chromedp.Sleep(300 * time.Millisecond))
	assert.Equal(t, 0.0, b.number(`window.ran`))
	assert.Equal(t, "block", b.text(`getComputedStyle(document.body).display`))
	b.quiet()
}

// hostileWorkspace is a workspace whose data, questions and replies would do harm on a page that does not escape them.
func hostileWorkspace(t *testing.T) string {
	t.Helper()
	long := strings.Repeat("long", 50)
	evil := `</script><script>window.ran=1</script><img src=x onerror="window.ran=2">`
	rows := "name,amount\n"
	for i := range 200 {
		rows += fmt.Sprintf("\"%s %d\",%d\n", strings.ReplaceAll(evil, `"`, `""`), i, i)
	}
	reply := func(id, query string) string {
		line, err := json.Marshal(map[string]any{"id": "bad/" + id, "reply": map[string]any{"id": "bad/" + id, "query": query,
			"explanation": evil}})
		require.NoError(t, err)
		return string(line) + "\n"
	}
	quoted := strings.ReplaceAll(evil, "'", "''")
	return ranIn(t, map[string]string{
		"tovrel.yaml": "tovrel: 1\ndatasets: {one: {tables: {t: t.csv}}}\ntranslators: {odd@1: {kind: recorded, file: r.jsonl}}\n",
		"t.csv":       rows,
		"golden/bad.md": "---\ngolden-set: bad\ndataset: one\n---\n\n" +
			"## How much is `" + evil + "`? {#tags}\n\n```sql\nSELECT sum(amount) AS n FROM t\n```\n\n" +
			"## \u05de\u05d9 \u05d4\u05d5\u05d0 \u0645\u0631\u062d\u0628\u0627? {#right-to-left}\n\n" +
			"```sql\nSELECT name, amount FROM t\n```\n\n" +
			"## Which " + long + "? {#long}\n\n```sql\nSELECT name AS " + long + " FROM t WHERE amount < 3\n```\n\n" +
			"## Everything? {#much}\n\n```sql\nSELECT a.amount AS x FROM t a, t b LIMIT 20000\n```\n",
		"r.jsonl": reply("tags", "SELECT '"+quoted+"' AS \""+strings.ReplaceAll(evil, `"`, `""`)+"\"") +
			reply("right-to-left", "SELECT '\u202e'||name AS name, amount+1 AS amount FROM t") +
			reply("long", "SELECT amount AS "+long+"x FROM t") +
			reply("much", "SELECT a.amount AS a, b.amount AS b, 1 AS c, 2 AS d, 3 AS e FROM t a, t b LIMIT 20000"),
	})
}

// What stands in data, questions and replies stays text on a page, however it is written.
func TestPageOfHostileData(t *testing.T) {
	dir := hostileWorkspace(t)
	file := filepath.Join(dir, "page.html")
	cmd := exec.Command(program(t), "report", "odd@1", "-o", file)
	cmd.Dir = dir
	out, err := cmd.CombinedOutput()
	require.NoError(t, err, string(out))
	info, err := os.Stat(file)
	require.NoError(t, err)
	assert.Less(t, info.Size(), int64(1<<20), "of 100,000 cells few are kept")
	in := chromium(t)
	for _, id := range []string{"tags", "right-to-left", "long", "much"} {
		b := open(in, t, file, "#bad/"+id, command(emulation.SetDeviceMetricsOverride,
			emulation.SetDeviceMetricsOverrideParams{Width: 390, Height: 844, DeviceScaleFactor: 1, Mobile: true}))
		b.until(`document.querySelector('tr.u') !== null`)
		assert.True(t, valueOf[bool](b, `window.ran === undefined`), id)
		assert.Equal(t, 0.0, b.number(`document.querySelectorAll('img').length`), id)
		assert.LessOrEqual(t, b.number(`document.documentElement.scrollWidth`), 390.0, "%s: nothing sticks out", id)
		if id == "tags" {
			assert.Contains(t, b.text(`document.querySelector('tr.u').innerText`), "</script><script>window.ran=1</script>")
		}
		b.quiet()
	}
}

// A page without values has none of the data, whatever it is: not in its tables, its queries, its evidence, its charts.
func TestPageWithoutValues(t *testing.T) {
	dir := hostileWorkspace(t)
	require.NoError(t, os.WriteFile(filepath.Join(dir, "t.csv"), []byte("name,amount\nQuellwasser,4217.25\nOther,1\n"), 0o644))
	require.NoError(t, os.WriteFile(filepath.Join(dir, "golden", "bad.md"), []byte("---\ngolden-set: bad\ndataset: one\n---\n\n"+
		"## Who is first? {#tags}\n\n```sql\nSELECT name, amount FROM t WHERE name = 'Quellwasser' -- 4217.25\n```\n\n"+
		"## How much? {#long}\n\n```sql\nSELECT sum(amount) AS n FROM t\n```\n"), 0o644))
	require.NoError(t, os.WriteFile(filepath.Join(dir, "r.jsonl"), []byte(
		`{"id": "bad/tags", "reply": {"id": "bad/tags", "query": "SELECT 'Quellwasser' AS name /* Quellwasser */, 4217.25 FROM t LIMIT 0"}}
{"id": "bad/long", "reply": {"id": "bad/long", "query": "SELECT max(amount) AS n FROM t"}}
`), 0o644))
	for _, line := range []string{"data freeze one", "run -t odd@1 --quiet", "report odd@1 -o bare.html --without-values",
		"report odd@1 -o full.html"} {
		cmd := exec.Command(program(t), strings.Fields(line)...)
		cmd.Dir = dir
		out, err := cmd.CombinedOutput()
		require.Contains(t, []int{0, 1}, cmd.ProcessState.ExitCode(), "%s: %s %v", line, out, err)
	}
	bare, full := unfoldedText(t, filepath.Join(dir, "bare.html")), unfoldedText(t, filepath.Join(dir, "full.html"))
	for _, value := range []string{"4217.25", "4 217", "4217", "Quellwasser"} {
		assert.NotContains(t, bare, value)
	}
	assert.Contains(t, full, "Quellwasser")
	assert.Contains(t, bare, "bad/long")
	assert.Contains(t, bare, "aggregate-function")
}

// unfoldedText is everything that a page holds, unpacked.
func unfoldedText(t *testing.T, file string) string {
	t.Helper()
	body, err := os.ReadFile(file)
	require.NoError(t, err)
	text := string(body)
	for _, chunk := range regexp.MustCompile(`class="chunk">([^<]*)<`).FindAllStringSubmatch(string(body), -1) {
		packed, err := base64.StdEncoding.DecodeString(chunk[1])
		require.NoError(t, err)
		whole, err := io.ReadAll(flate.NewReader(bytes.NewReader(packed)))
		require.NoError(t, err)
		text += string(whole)
	}
	return text
}

// first are the first words of a text, last is the last one.
func first(text string, n int) string {
	words := strings.Fields(text)
	return strings.Join(words[:min(n, len(words))], " ")
}

func last(text string) string {
	words := strings.Fields(text)
	return words[len(words)-1]
}
