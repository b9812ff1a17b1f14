package files

import (
	"errors"
	"fmt"
	"hash/fnv"
	"os"
	"path/filepath"
	"strconv"
	"strings"
	"syscall"
	"time"
)

// longestScratch is how old a scratch file of a process on another machine may be before it is taken to be left behind.
const longestScratch = 24 * time.Hour

// ScratchMark begins the names of scratch files and folders after their prefix: it tells which process of which machine they belong to.
func ScratchMark() string { return fmt.Sprintf("%s-%d-", machine(), os.Getpid()) }

// machine is a short name of this machine.
func machine() string {
	name, err := os.Hostname()
	if err != nil {
		name = "unknown"
	}
	h := fnv.New32a()
	_, _ = h.Write([]byte(name)) // a hash takes everything
	return strconv.FormatUint(uint64(h.Sum32()), 36)
}

// SweepScratch removes what processes that are no more left behind in a folder: files and folders whose names begin with a prefix and
// the mark of their owner.
func SweepScratch(dir, prefix string) {
	entries, err := os.ReadDir(dir)
	if err != nil {
		return // there is nothing to sweep
	}
	for _, e := range entries {
		rest, ours := strings.CutPrefix(e.Name(), prefix)
		if !ours {
			continue
		}
		parts := strings.SplitN(rest, "-", 3)
		info, err := e.Info()
		if len(parts) < 3 || err != nil {
			continue
		}
		pid, err := strconv.Atoi(parts[1])
		gone := err == nil && parts[0] == machine() && !runs(pid)
		if gone || time.Since(info.ModTime()) > longestScratch {
			_ = os.RemoveAll(filepath.Join(dir, e.Name())) // tried again at the next start
		}
	}
}

// runs tells whether a process is there.
func runs(pid int) bool {
	err := syscall.Kill(pid, 0)
	return err == nil || errors.Is(err, syscall.EPERM)
}
