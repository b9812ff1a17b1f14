// Package held measures what a program takes: its time, and the most memory that it holds at once.
//
// A process that is started counts what its parent held until then. The program is therefore started by a small process between: this
// program itself, under Command.
package held

import (
	"encoding/json"
	"fmt"
	"os"
	"os/exec"
	"syscall"
	"time"
)

// Command has the measuring program run another, and write what it took.
const Command = "held"

// Taken is what a program took.
type Taken struct {
	Time   time.Duration
	Memory int64 // resident, the most at once, in bytes
	// Processor is the processor time of the program and of those that it started and waited for.
	Processor time.Duration
	Exit      int
}

// Between runs a program and writes what it took; its output is dropped.
func Between(args []string) error {
	cmd := exec.Command(args[0], args[1:]...) //nolint:gosec // the measured program
	start := time.Now()
	err := cmd.Run()
	took := Taken{Time: time.Since(start)}
	if cmd.ProcessState == nil {
		return err
	}
	took.Exit = cmd.ProcessState.ExitCode()
	took.Processor = cmd.ProcessState.UserTime() + cmd.ProcessState.SystemTime()
	if usage, ok := cmd.ProcessState.SysUsage().(*syscall.Rusage); ok {
		took.Memory = usage.Maxrss << 10
	}
	return json.NewEncoder(os.Stdout).Encode(took)
}

// Run measures a program that is run in a folder. One that ends with a code above 1 is an error.
func Run(dir, program string, args ...string) (took Taken, err error) {
	self, err := os.Executable()
	if err != nil {
		return took, err
	}
	cmd := exec.Command(self, append([]string{Command, program}, args...)...) //nolint:gosec // this program
	cmd.Dir, cmd.Stderr = dir, os.Stderr
	out, err := cmd.Output()
	if err != nil {
		return took, err
	}
	if err := json.Unmarshal(out, &took); err != nil {
		return took, err
	}
	if took.Exit > 1 {
		return took, fmt.Errorf("%v ended with code %d", args, took.Exit)
	}
	return took, nil
}
