package engine

import (
	"fmt"
	"syscall"
)

// baseline is the data segment of a worker with an open database, most of it never touched.
const baseline = 224 << 20

// LimitMemory bounds the calling process's data segment, so that an allocation past the limit fails inside the engine
// instead of taking the machine's memory. The address space is not bounded: that crashes the engine.
func LimitMemory(bytes int64) error {
	limit := uint64(bytes + baseline)
	if err := syscall.Setrlimit(syscall.RLIMIT_DATA, &syscall.Rlimit{Cur: limit, Max: limit}); err != nil {
		return fmt.Errorf("the memory of a query worker cannot be limited: %w", err)
	}
	return nil
}
