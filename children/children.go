// Package children starts the programs that translators are, and makes sure that nothing of them is left: neither when one has ended, nor
// when this program is interrupted or killed. It knows nothing of what they say.
package children

import (
	"bytes"
	"errors"
	"fmt"
	"os"
	"os/exec"
	"strconv"
	"strings"
	"sync"
	"syscall"
	"time"

	"golang.org/x/sys/unix"
)

// mark is the environment variable by which what a program started is known, also when it has left the program's group.
const mark = "TOVREL_CHILD"

// Child is a program that was started, with all that it started itself.
type Child struct {
	cmd  *exec.Cmd
	name string // its mark
	once sync.Once
}

var (
	living = map[*Child]bool{}
	mu     sync.Mutex
	count  int
	adopt  sync.Once
)

// Start starts a program in a group of its own; it is killed when this process dies. The command's SysProcAttr and the mark in its
// environment are set here. Every child that was started must be ended. It errs where the program cannot be started; then there is no
// child.
func Start(cmd *exec.Cmd) (*Child, error) {
	adopt.Do(func() {
		_ = unix.Prctl(unix.PR_SET_CHILD_SUBREAPER, 1, 0, 0, 0) // without it, what leaves its group and its parent is not found
	})
	mu.Lock()
	defer mu.Unlock()
	count++
	c := &Child{cmd: cmd, name: fmt.Sprintf("%d-%d", os.Getpid(), count)}
	cmd.Env = append(cmd.Env, mark+"="+c.name)
	cmd.SysProcAttr = &syscall.SysProcAttr{Setpgid: true, Pdeathsig: syscall.SIGKILL}
	if err := cmd.Start(); err != nil {
		return nil, err
	}
	living[c] = true
	return c, nil
}

// Interrupt asks the program and what it started to stop.
func (c *Child) Interrupt() { _ = syscall.Kill(-c.cmd.Process.Pid, syscall.SIGINT) }

// Kill ends the program and what it started at once; Wait tells when the program has ended.
func (c *Child) Kill() { _ = syscall.Kill(-c.cmd.Process.Pid, syscall.SIGKILL) }

// Wait waits until the program itself has ended, whatever it started. Its error is that of exec.Cmd.Wait; the command's streams must be
// files, or there is more to wait for.
func (c *Child) Wait() error { return c.cmd.Wait() }

// End ends what is left of a program: its group, and what left that. It may be called more than once, and on nil; one that was not waited
// for is killed and waited for.
func (c *Child) End() {
	if c == nil {
		return
	}
	c.once.Do(func() {
		c.Kill()
		_ = c.cmd.Wait() // an error where it was waited for already
		mu.Lock()
		delete(living, c)
		mu.Unlock()
		Sweep()
	})
}

// KillAll ends all programs that are running, and what they started. Nothing is waited for.
func KillAll() {
	mu.Lock()
	for c := range living {
		c.Kill()
	}
	living = map[*Child]bool{}
	mu.Unlock()
	Sweep()
}

// sweepTries and sweepPause: a process becomes this one's child only when its own parent is gone.
const (
	sweepTries = 3
	sweepPause = 2 * time.Millisecond
)

// Sweep kills what programs that have ended left behind: it bears their mark and has become a child of this process.
func Sweep() {
	for range sweepTries {
		found := false
		for _, pid := range ownChildren() {
			if owner := markOf(pid); owner != "" && !lives(owner) {
				found = true
				_ = syscall.Kill(pid, syscall.SIGKILL)
				reap(pid)
			}
		}
		if !found {
			return
		}
		time.Sleep(sweepPause)
	}
}

// reap takes the status of a child that was killed; it does not wait for one that the kernel holds.
func reap(pid int) {
	for range sweepTries {
		var status syscall.WaitStatus
		if done, err := syscall.Wait4(pid, &status, syscall.WNOHANG, nil); done == pid || err != nil {
			return
		}
		time.Sleep(sweepPause)
	}
}

func lives(name string) bool {
	mu.Lock()
	defer mu.Unlock()
	for c := range living {
		if c.name == name {
			return true
		}
	}
	return false
}

// ownChildren are the processes whose parent is this one.
func ownChildren() []int {
	threads, err := os.ReadDir("/proc/self/task")
	if err != nil {
		return nil
	}
	var pids []int
	for _, thread := range threads {
		listed, err := os.ReadFile("/proc/self/task/" + thread.Name() + "/children")
		if errors.Is(err, os.ErrNotExist) {
			continue // the thread has ended
		}
		for word := range strings.FieldsSeq(string(listed)) {
			if pid, err := strconv.Atoi(word); err == nil {
				pids = append(pids, pid)
			}
		}
	}
	return pids
}

// markOf is the mark that a process bears and that this process gave; "" where it bears none.
func markOf(pid int) string {
	environment, err := os.ReadFile("/proc/" + strconv.Itoa(pid) + "/environ")
	if err != nil {
		return ""
	}
	for variable := range bytes.SplitSeq(environment, []byte{0}) {
		if name, ok := strings.CutPrefix(string(variable), mark+"="); ok && strings.HasPrefix(name, strconv.Itoa(os.Getpid())+"-") {
			return name
		}
	}
	return ""
}
