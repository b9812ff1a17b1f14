package files

import (
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"testing"
	"time"

	"github.com/stretchr/testify/require"
)

// dead is the number of a process that is no more.
func dead(t *testing.T) int {
	t.Helper()
	cmd := exec.Command("true")
	require.NoError(t, cmd.Run())
	return cmd.Process.Pid
}

// TestSweep: what dead processes left behind goes at the next start; what others are at work on stays, up to a day.
func TestSweep(t *testing.T) {
	dir := t.TempDir()
	old := time.Now().Add(-25 * time.Hour)
	for name, c := range map[string]struct {
		goes bool
		old  bool
	}{
		fmt.Sprintf("making-%s-%d-x", machine(), dead(t)):     {goes: true},
		fmt.Sprintf("making-%s-%d-y", machine(), os.Getpid()): {},
		fmt.Sprintf("making-other-%d-z", dead(t)):             {},
		fmt.Sprintf("making-other-%d-old", dead(t)):           {goes: true, old: true},
		"making-":        {old: true},
		"something-else": {old: true},
		fmt.Sprintf("unmaking-%s-%d-x", machine(), dead(t)):      {},
		fmt.Sprintf("making-%s-nonumber-x", machine()):           {},
		fmt.Sprintf("making-%s-%d-folder/f", machine(), dead(t)): {goes: true},
	} {
		path := filepath.Join(dir, name)
		require.NoError(t, os.MkdirAll(filepath.Dir(path), 0o755))
		require.NoError(t, os.WriteFile(path, []byte("x"), 0o600))
		if c.old {
			require.NoError(t, os.Chtimes(path, old, old))
		}
		SweepScratch(dir, "making-")
		if c.goes {
			require.NoFileExists(t, path, name)
		} else {
			require.FileExists(t, path, name)
		}
	}
}

// TestWriteFiles: all are written or none, and nothing is left beside them.
func TestWriteFiles(t *testing.T) {
	for name, c := range map[string]struct {
		prepare func(dir string)
		files   func(dir string) []Change
		fails   string
	}{
		"all": {files: func(d string) []Change {
			return []Change{{Path: d + "/a", Text: []byte("1")}, {Path: d + "/new/b", Text: []byte("2"), New: true}}
		}},
		"one changed meanwhile": {files: func(d string) []Change {
			return []Change{{Path: d + "/a", Text: []byte("1")}, {Path: d + "/b", Text: []byte("2"), Was: []byte("another")}}
		}, fails: "has changed"},
		"one appeared meanwhile": {files: func(d string) []Change {
			return []Change{{Path: d + "/a", Text: []byte("1")}, {Path: d + "/b", Text: []byte("2"), New: true}}
		}, fails: "has appeared"},
		"one is gone": {files: func(d string) []Change {
			return []Change{{Path: d + "/a", Text: []byte("1")}, {Path: d + "/c", Text: []byte("2"), Was: []byte("x")}}
		}, fails: "cannot be read"},
		"one cannot be put in place": {prepare: func(d string) { _ = os.MkdirAll(d+"/c/full", 0o755) }, files: func(d string) []Change {
			return []Change{{Path: d + "/a", Text: []byte("1")}, {Path: d + "/n", Text: []byte("2")}, {Path: d + "/c", Text: []byte("3")}}
		}, fails: "c cannot be"},
		"its folder is a file": {files: func(d string) []Change {
			return []Change{{Path: d + "/a", Text: []byte("1")}, {Path: d + "/b/x", Text: []byte("2")}}
		}, fails: "cannot be"},
	} {
		t.Run(name, func(t *testing.T) {
			dir := t.TempDir()
			require.NoError(t, os.WriteFile(dir+"/a", []byte("old a"), 0o640))
			require.NoError(t, os.WriteFile(dir+"/b", []byte("old b"), 0o600))
			if c.prepare != nil {
				c.prepare(dir)
			}
			before := list(t, dir)
			err := WriteAll(c.files(dir))
			if c.fails == "" {
				require.NoError(t, err)
				info, err := os.Stat(dir + "/a")
				require.NoError(t, err)
				require.Equal(t, os.FileMode(0o640), info.Mode().Perm(), "rights stay")
				require.Equal(t, map[string]string{"a": "1", "b": "old b", "new/b": "2"}, list(t, dir))
				return
			}
			require.ErrorContains(t, err, c.fails)
			require.Equal(t, before, list(t, dir))
		})
	}
}

// list gives the files below a folder with what is in them.
func list(t *testing.T, dir string) map[string]string {
	t.Helper()
	out := map[string]string{}
	require.NoError(t, filepath.WalkDir(dir, func(path string, e os.DirEntry, err error) error {
		if err != nil || e.IsDir() {
			return err
		}
		body, err := os.ReadFile(path)
		name, _ := filepath.Rel(dir, path)
		out[name] = string(body)
		return err
	}))
	return out
}
