package main_test

import (
	"context"
	"encoding/csv"
	"encoding/json"
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"tovrel/core/dialect"
	"tovrel/core/sql"
	"tovrel/dataset"
	"tovrel/engine/duckdb"
	"tovrel/engine/server"
	"tovrel/servertest"
	"tovrel/workspace"
)

// lacking are the demo's questions whose references a server cannot express, or (the second of MySQL) whose reply fails on the embedded
// engine alone: MySQL has its function. The tried ClickHouse knows one JOIN in a query, and no EXISTS.
var lacking = map[string]string{"mysql": "payments/median-payment payments/paid-per-quarter", "clickhouse": `
	desk/draw-districts milk-basics/farms-without-loads milk-basics/fat-by-litres milk-basics/fat-by-month milk-basics/loads-per-farm
	milk-basics/litres-by-district-2030 milk-basics/rejected-share milk-basics/top-district-may milk-basics/top-district-may-2030
	payments/median-payment payments/net-by-district-2030 payments/price-per-litre payments/unpaid-farms toolshed/fees-of-members
	toolshed/loans-by-category toolshed/members-by-plan`}

// TestSameVerdicts: the golden sets of the demo, written once, give the same verdicts on a server as on the embedded engine, for a
// translator with many mistakes whose queries are in the dialect of the server; and the same main faults for most.
func TestSameVerdicts(t *testing.T) {
	var expected map[string][2]string // here
	for dialect, name := range map[string]string{"postgres": "postgres", "mysql": "mariadb", "clickhouse": "clickhouse"} {
		t.Run(dialect, func(t *testing.T) {
			has, err := hasServer(name)
			require.NoError(t, err)
			if !has {
				t.Skipf("%s does not run: see .ci/servers", name)
			}
			t.Cleanup(servertest.Alone())
			demo, err := wholeDemo()
			require.NoError(t, err)
			here, there := t.TempDir(), t.TempDir()
			columns := columnsOfDemo(t, demo)
			for _, dir := range []string{here, there} {
				for _, part := range []string{"data", "golden", "briefings", "replies", "tovrel.yaml"} {
					require.NoError(t, exec.Command("cp", "-r", filepath.Join(demo, part), dir).Run())
				}
			}
			config := filepath.Join(there, "tovrel.yaml")
			text, err := os.ReadFile(config)
			require.NoError(t, err)
			on := fmt.Sprintf("as-of: 2031-06-30\n    run-on: %s\n    dsn: ${%s}\n#", dialect, servertest.Variables[name])
			require.NoError(t, os.WriteFile(config, []byte(strings.ReplaceAll(string(text), "as-of: 2031-06-30", on)), 0o600))
			faults, same, held := 0, 0, 0
			formless := rewriteReplies(t, filepath.Join(there, "replies", "scribe-1.jsonl"), dialect, columns)
			if expected == nil {
				expected = verdictsOf(t, here, "scribe@1")
			}
			got := verdictsOf(t, there, "scribe@1")
			require.Len(t, got, len(expected))
			for question, want := range expected {
				id, _, _ := strings.Cut(question, " ")
				if slices.Contains(strings.Fields(lacking[dialect]), id) || formless[id] {
					continue
				}
				held++
				assert.Equal(t, want[0], got[question][0], "%s: %v here, %v there", question, want, got[question])
				if want[1] == "" {
					continue
				}
				if faults++; want[1] == got[question][1] {
					same++
				} else {
					t.Logf("%s: %s here, %s there", question, want[1], got[question][1])
				}
			}
			t.Logf("%s: %d of %d verdicts held, %d of %d main faults are the same", dialect, held, len(expected), same, faults)
			require.GreaterOrEqual(t, held*5, len(expected)*2)
			require.GreaterOrEqual(t, same*10, faults*8)
		})
	}
}

// columnsOfDemo are the columns of the demo's datasets.
func columnsOfDemo(t *testing.T, demo string) dialect.Columns {
	t.Helper()
	w, err := workspace.Open(demo)
	require.NoError(t, err)
	var all []dialect.Column
	for _, d := range w.Datasets {
		_, frozen, err := dataset.Of(w).FreezeState(d)
		require.NoError(t, err)
		all = append(all, server.DescribedColumns(frozen.Tables)...)
	}
	return dialect.ColumnsOf(all)
}

// rewriteReplies writes the queries of recorded replies in a dialect; what has no form in it stays, and its questions are told.
func rewriteReplies(t *testing.T, file, into string, columns dialect.Columns) map[string]bool {
	t.Helper()
	parser, err := duckdb.NewParser()
	require.NoError(t, err)
	body, err := os.ReadFile(file)
	require.NoError(t, err)
	var out strings.Builder
	formless := map[string]bool{}
	for line := range strings.SplitSeq(strings.TrimSpace(string(body)), "\n") {
		var r map[string]any
		require.NoError(t, json.Unmarshal([]byte(line), &r))
		reply, _ := r["reply"].(map[string]any)
		if query, is := reply["query"].(string); is {
			if serialised, err := parser.Parse(context.Background(), query); err == nil {
				if tree, err := sql.Read(serialised); err == nil {
					if text, _, err := dialect.Write(tree, into, columns); err == nil {
						reply["query"] = text
					} else if into == "clickhouse" { // others say that the query failed, as here
						formless[fmt.Sprint(r["id"])] = true
					}
				}
			}
		}
		written, err := json.Marshal(r)
		require.NoError(t, err)
		out.Write(append(written, '\n'))
	}
	require.NoError(t, os.WriteFile(file, []byte(out.String()), 0o600))
	return formless
}

// verdictsOf runs a translator, and gives the verdict and the main fault of each question and wording.
func verdictsOf(t *testing.T, dir, translator string) map[string][2]string {
	t.Helper()
	run := exec.Command(program(t), "run", "-t", translator)
	run.Dir = dir
	said, err := run.CombinedOutput()
	require.NoError(t, err, string(said))
	show := exec.Command(program(t), "show", "latest", "--output", "csv")
	show.Dir = dir
	listed, err := show.Output()
	require.NoError(t, err)
	rows, err := csv.NewReader(strings.NewReader(string(listed))).ReadAll()
	require.NoError(t, err)
	at := map[string]int{}
	for i, name := range rows[0] {
		at[name] = i
	}
	out := map[string][2]string{}
	for _, row := range rows[1:] {
		fault, _, _ := strings.Cut(row[at["why"]], ":")
		if row[at["verdict"]] == "right" {
			fault = ""
		}
		out[row[at["question"]]+" "+row[at["wording"]]] = [2]string{row[at["verdict"]], fault}
	}
	return out
}
