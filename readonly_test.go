package main_test

import (
	"bytes"
	"io/fs"
	"os"
	"os/exec"
	"path/filepath"
	"syscall"
	"testing"

	"github.com/stretchr/testify/require"
)

// nobody is a user who owns nothing; root, who may write everywhere, reads as this one.
const nobody = 65534

// TestReadOnly: what was run is read in a workspace that cannot be written, as it is on an archive or a colleague's share, and stays
// untouched; what must write says so.
func TestReadOnly(t *testing.T) {
	t.Parallel()
	folders, attributes := fs.FileMode(0o755), &syscall.SysProcAttr{Credential: &syscall.Credential{Uid: nobody, Gid: nobody}}
	if os.Getuid() != 0 {
		folders, attributes = 0o555, nil // one's own, but closed
	}
	dir := t.TempDir()
	require.Zero(t, tovrel(t, dir, "demo", ".", "--quiet", "--write-only").code)
	for _, translator := range []string{"scribe@1", "scribe@2"} {
		ran := tovrel(t, dir, "run", "-t", translator, "--quiet", "--no-diagnosis", "--wordings", "first")
		require.Less(t, ran.code, 2, ran.err)
	}
	require.NoError(t, os.Chmod(filepath.Dir(dir), 0o755))
	before := map[string]string{}
	require.NoError(t, filepath.WalkDir(dir, func(path string, e fs.DirEntry, err error) error {
		require.NoError(t, err)
		if e.IsDir() {
			t.Cleanup(func() { _ = os.Chmod(path, 0o755) })
			return os.Chmod(path, folders)
		}
		body, err := os.ReadFile(path)
		require.NoError(t, err)
		before[path] = string(body)
		return os.Chmod(path, 0o644)
	}))
	out := t.TempDir()
	require.NoError(t, os.Chmod(out, 0o777))
	require.NoError(t, os.Chmod(filepath.Dir(out), 0o755))
	as := func(args ...string) ran {
		cmd := exec.Command(program(t), append(args, "--workspace", dir)...)
		cmd.Dir = out
		cmd.SysProcAttr = attributes
		var told, errs bytes.Buffer
		cmd.Stdout, cmd.Stderr = &told, &errs
		_ = cmd.Run() // its code tells
		return ran{told.String(), errs.String(), cmd.ProcessState.ExitCode()}
	}
	for _, reading := range [][]string{{"show", "1"}, {"show", "scribe@2"}, {"history"}, {"compare", "1", "2"},
		{"report", "1", "2", "-o", filepath.Join(out, "r.md")}, {"data", "list"}, {"set", "check"}} {
		got := as(reading...)
		require.Less(t, got.code, 2, "%v: %s", reading, got.err)
		require.NotContains(t, got.err, "disk", "%v", reading)
	}
	require.FileExists(t, filepath.Join(out, "r.md"))
	got := as("run", "-t", "scribe@1", "--quiet")
	require.GreaterOrEqual(t, got.code, 2)
	require.Contains(t, got.err, "runs can be looked at there, but not made")
	require.NoError(t, filepath.WalkDir(dir, func(path string, e fs.DirEntry, err error) error {
		require.NoError(t, err)
		if e.IsDir() {
			return nil
		}
		body, err := os.ReadFile(path)
		require.NoError(t, err)
		require.Equal(t, before[path], string(body), path)
		return nil
	}))
}
