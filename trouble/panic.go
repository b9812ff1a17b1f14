package trouble

import (
	"fmt"
	"path"
	"runtime"
	"strings"
)

// Panic is a defect of this program that showed as a panic: what was said, and where.
type Panic struct {
	Value any
	Place string // function, file and line; "" where it cannot be told
}

func (p *Panic) Error() string {
	if p.Place == "" {
		return fmt.Sprintf("internal error: %v", p.Value)
	}
	return fmt.Sprintf("internal error: %v, at %s", p.Value, p.Place)
}

// guard is deferred: it turns a panic into an error of the kind Internal, in place of whatever error there was.
func guard(err *error) {
	if value := recover(); value != nil {
		*err = &Error{Internal, &Panic{Value: value, Place: placeOfPanic()}}
	}
}

// Safe is a function of a goroutine whose panics are errors of the kind Internal: nothing else could recover from them.
func Safe(do func() error) func() error {
	return func() (err error) {
		defer guard(&err)
		return do()
	}
}

// placeOfPanic finds the function that panicked among the callers of the deferred one: the first one below the runtime's.
func placeOfPanic() string {
	counters := make([]uintptr, 64)
	frames := runtime.CallersFrames(counters[:runtime.Callers(1, counters)])
	inPanic := false
	for {
		frame, more := frames.Next()
		isRuntime := strings.HasPrefix(frame.Function, "runtime.")
		inPanic = inPanic || frame.Function == "runtime.gopanic"
		if inPanic && !isRuntime && frame.Function != "" {
			return fmt.Sprintf("%s (%s:%d)", frame.Function, path.Base(frame.File), frame.Line)
		}
		if !more {
			return ""
		}
	}
}
