// Package demo writes the demo workspace: made-up sample data, golden sets, and three versions of a translator as recorded
// replies. The same program writes the same bytes every time.
package demo

import (
	"context"
	"embed"
	"errors"
	"io/fs"
	"os"
	"path/filepath"
	"strings"
)

//go:embed all:workspace
var files embed.FS

// Parquet turns a CSV file into a Parquet file; columns is the engine's struct of their types.
type Parquet func(ctx context.Context, csvPath, columns, path string) error

// loadTypes are the types of the loads, which are delivered as Parquet.
const loadTypes = `{'load_id': 'INTEGER', 'farm_id': 'INTEGER', 'loaded_at': 'TIMESTAMP', 'tanker': 'VARCHAR', 'litres': 'DOUBLE',
 'temperature_c': 'DECIMAL(4,1)', 'status': 'VARCHAR', 'tmp_check': 'TINYINT'}`

// ErrNotEmpty says that the folder holds something else than a demo.
var ErrNotEmpty = errors.New("the folder is not empty and holds no demo; name another one")

// Write writes the demo workspace into a folder, over an earlier demo's files where there are any. It errs with ErrNotEmpty, and where a
// file cannot be written; what was written by then stays.
func Write(ctx context.Context, dir string, parquet Parquet) error {
	if err := checkFolder(dir); err != nil {
		return err
	}
	if err := writeEmbedded(dir); err != nil {
		return err
	}
	if err := writeDairy(ctx, filepath.Join(dir, "data", "dairy"), parquet); err != nil {
		return err
	}
	return writeToolshed(filepath.Join(dir, "data", "toolshed"))
}

func writeToolshed(data string) error {
	if err := os.MkdirAll(data, 0o755); err != nil {
		return err
	}
	s := makeToolshed()
	for path, text := range map[string]string{"members.csv": s.memberRows.String(), "loans.csv": s.loanRows.String(),
		"repairs.csv": s.workRows.String()} {
		if err := os.WriteFile(filepath.Join(data, path), []byte(text), 0o644); err != nil {
			return err
		}
	}
	return writeTools(data)
}

func writeDairy(ctx context.Context, data string, parquet Parquet) error {
	if err := os.MkdirAll(data, 0o755); err != nil {
		return err
	}
	d := makeDairy()
	loads := filepath.Join(data, "loads.csv")
	for path, text := range map[string]string{"farms.csv": d.farmRows.String(), "codes.csv": d.codeRows.String(),
		"loads.csv":     d.loadRows.String(),
		"lab_tests.csv": d.testRows.String(), "payments.csv": d.paymentRows.String()} {
		if err := os.WriteFile(filepath.Join(data, path), []byte(text), 0o644); err != nil {
			return err
		}
	}
	if err := parquet(ctx, loads, loadTypes, filepath.Join(data, "loads.parquet")); err != nil {
		return err
	}
	return os.Remove(loads)
}

// checkFolder refuses a folder with foreign files in it.
func checkFolder(dir string) error {
	entries, err := os.ReadDir(dir)
	if errors.Is(err, fs.ErrNotExist) || err == nil && len(entries) == 0 {
		return nil
	}
	if err != nil {
		return err
	}
	if _, err := os.Stat(filepath.Join(dir, "data", "dairy", "farms.csv")); err != nil {
		return ErrNotEmpty
	}
	return nil
}

// revised is the golden set with a question whose expected answer is corrected after the first run, and how it was before.
const revised = "golden/toolshed.md"

var before = strings.NewReplacer(
	"CASE WHEN back_on > due_on THEN 1.0 ELSE 0 END) AS late_share", "CASE WHEN back_on >= due_on THEN 1.0 ELSE 0 END) AS late_share",
	"| late_share |\n| ---------: |\n|        0.4 |", "| late_share |\n| ---------: |\n|   0.470588 |")

// Revise corrects the question toolshed/late-share: what came back on the day that it was due is not late. Run once, before the second
// version is asked, it moves the ground of that question. It errs where the file cannot be written.
func Revise(dir string) error {
	body, err := files.ReadFile("workspace/" + revised)
	if err != nil {
		return err
	}
	return os.WriteFile(filepath.Join(dir, filepath.FromSlash(revised)), body, 0o644)
}

// writeEmbedded writes the files of the workspace, the revised golden set as it was before.
func writeEmbedded(dir string) error {
	return fs.WalkDir(files, "workspace", func(path string, entry fs.DirEntry, err error) error {
		if err != nil {
			return err
		}
		relative, err := filepath.Rel("workspace", path)
		if err != nil {
			return err
		}
		target := filepath.Join(dir, relative)
		if entry.IsDir() {
			return os.MkdirAll(target, 0o755)
		}
		body, err := files.ReadFile(path)
		if err != nil {
			return err
		}
		if filepath.ToSlash(relative) == revised {
			body = []byte(before.Replace(string(body)))
		}
		return os.WriteFile(target, body, 0o644)
	})
}
