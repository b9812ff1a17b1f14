// Package servertest keeps tests that use the same database server apart, those of other programs that run at once too: they share the
// names of schemas.
package servertest

import (
	"fmt"
	"os"
	"path/filepath"
	"sync"

	"golang.org/x/sys/unix"
)

// Variables are the environment variables that say where tests find database servers, by the name under which the gate needs them.
var Variables = map[string]string{"clickhouse": "TOVREL_TEST_CLICKHOUSE", "postgres": "TOVREL_TEST_POSTGRES",
	"mariadb": "TOVREL_TEST_MYSQL"}

// held is the lock of this program, and how many of its tests hold it.
var held struct {
	sync.Mutex
	file  *os.File
	count int
}

// Alone waits until no other program's test uses the servers, and holds them until what it gives is called. Tests of one program share
// them. It panics where there is no temporary folder to write in.
func Alone() (release func()) {
	held.Lock()
	defer held.Unlock()
	if held.count++; held.count == 1 {
		path := filepath.Join(os.TempDir(), fmt.Sprintf("tovrel-servers-%d.lock", os.Getuid()))
		file, err := os.OpenFile(path, os.O_CREATE|os.O_RDWR, 0o600)
		if err == nil {
			err = unix.Flock(int(file.Fd()), unix.LOCK_EX)
		}
		if err != nil {
			panic(err)
		}
		held.file = file
	}
	return sync.OnceFunc(func() {
		held.Lock()
		defer held.Unlock()
		if held.count--; held.count == 0 {
			_ = held.file.Close() // which gives the lock back
		}
	})
}
