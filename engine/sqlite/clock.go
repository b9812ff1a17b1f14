package sqlite

import (
	"errors"
	"fmt"
	"strings"
	"sync/atomic"
	"time"
	"unsafe"

	"modernc.org/libc"
	lib "modernc.org/sqlite/lib"

	"tovrel/core/sql"
)

// frozenNow is the moment that SQLite's clock shows, in milliseconds since its own beginning of time (noon in Greenwich on
// 24 November 4714 B.C., where Julian days are counted from). It is one for the whole process: a worker has one dataset.
var frozenNow atomic.Int64

// julianUnix is 1970-01-01 on that scale: Julian day 2440587.5.
const julianUnix = 210866760000000

// stopClock has SQLite see a dataset's today wherever it asks for the time: in functions of dates with 'now' in whatever way that is
// written, in keywords, and in functions that are yet to come. It changes the clock itself, not the text of queries.
func stopClock(today sql.Today) error {
	if today.Date == "" {
		return nil
	}
	moment, err := momentOfToday(today.Moment)
	if err != nil {
		return err
	}
	frozenNow.Store(moment.UnixMilli() + julianUnix)
	tls := libc.NewTLS()
	defer tls.Close()
	if code := lib.Xsqlite3_initialize(tls); code != lib.SQLITE_OK {
		return fmt.Errorf("SQLite cannot be started: code %d", code)
	}
	files := lib.Xsqlite3_vfs_find(tls, 0)
	if files == 0 {
		return errors.New("SQLite has no file system, whose clock is to be stopped")
	}
	vfs := (*lib.Tsqlite3_vfs)(foreign(files))
	if vfs.FiVersion < 2 {
		return errors.New("this SQLite's clock cannot be stopped")
	}
	vfs.FxCurrentTimeInt64 = address(currentTime)
	return nil
}

// currentTime is what SQLite calls for the time: it writes milliseconds to an address.
func currentTime(_ *libc.TLS, _ uintptr, into uintptr) int32 {
	*(*int64)(foreign(into)) = frozenNow.Load()
	return lib.SQLITE_OK
}

// foreign is an address in memory of SQLite's own, which the garbage collector neither moves nor frees.
func foreign(at uintptr) unsafe.Pointer { return *(*unsafe.Pointer)(unsafe.Pointer(&at)) }

// address is a function as SQLite, which is translated from C, keeps it. The function must be one of the package: nothing else holds it.
func address(f func(*libc.TLS, uintptr, uintptr) int32) uintptr {
	return *(*uintptr)(unsafe.Pointer(&f))
}

// momentOfToday reads a today's moment; without a zone it is in UTC.
func momentOfToday(text string) (time.Time, error) {
	text = strings.TrimSuffix(strings.TrimSpace(text), "Z")
	for _, layout := range []string{"2006-01-02 15:04:05.999999999", "2006-01-02 15:04", "2006-01-02 15:04:05.999999999-07:00",
		"2006-01-02 15:04:05.999999999-07", "2006-01-02 15:04-07:00"} {
		if t, err := time.Parse(layout, text); err == nil {
			return t, nil
		}
	}
	return time.Time{}, fmt.Errorf("the dataset's as-of %q is no moment", text)
}
