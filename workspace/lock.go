package workspace

import (
	"os"
	"path/filepath"
	"syscall"

	"tovrel/trouble"
)

// LockRun makes sure that one process alone goes on with a run. The lock ends with the process, however that ends. It errs where
// another process has the run.
func (w *Workspace) LockRun(uid string) (unlock func(), err error) {
	state, err := w.State()
	if err != nil {
		return nil, err
	}
	path := filepath.Join(state, "run-"+uid+".lock")
	for {
		f, err := os.OpenFile(path, os.O_CREATE|os.O_RDWR, 0o644)
		if err != nil {
			return nil, trouble.New(trouble.Unreadable, "%s cannot be made: %w", path, err)
		}
		if err := syscall.Flock(int(f.Fd()), syscall.LOCK_EX|syscall.LOCK_NB); err != nil {
			_ = f.Close()
			return nil, trouble.New(trouble.Usage, "another process is at work on this run; wait until it has ended")
		}
		if isAt(f, path) {
			return func() {
				_ = os.Remove(path) // still locked: who opened it before finds that it is gone, and opens the next one
				_ = f.Close()
			}, nil
		}
		_ = f.Close()
	}
}

// isAt tells whether an open file is the one that stands at a path: it may have been removed since it was opened.
func isAt(f *os.File, path string) bool {
	open, err := f.Stat()
	if err != nil {
		return false
	}
	there, err := os.Stat(path)
	return err == nil && os.SameFile(open, there)
}
