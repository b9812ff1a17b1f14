package workspace

import (
	"os"
	"path/filepath"
	"syscall"

	"tovrel/trouble"
)

// LockRun makes sure that one process alone goes on with a run. The lock ends with the process, however that ends.
func (w *Workspace) LockRun(uid string) (unlock func(), err error) {
	state, err := w.State()
	if err != nil {
		return nil, err
	}
	path := filepath.Join(state, "run-"+uid+".lock")
	f, err := os.OpenFile(path, os.O_CREATE|os.O_RDWR, 0o644)
	if err != nil {
		return nil, trouble.New(trouble.Unreadable, "%s cannot be made: %w", path, err)
	}
	if err := syscall.Flock(int(f.Fd()), syscall.LOCK_EX|syscall.LOCK_NB); err != nil {
		_ = f.Close()
		return nil, trouble.New(trouble.Usage, "another process is at work on this run; wait until it has ended")
	}
	return func() {
		_ = os.Remove(path)
		_ = f.Close()
	}, nil
}
