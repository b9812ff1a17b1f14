// Package files opens the files that users name, regular ones alone, since a pipe or a device may never end, and within a size; and writes
// files whole or not at all, several together, so that nothing is ever half written.
package files

import (
	"errors"
	"fmt"
	"io"
	"io/fs"
	"os"
	"syscall"
)

// The sizes of what is read whole.
const (
	Document = 32 << 20 // a document that people write
	Data     = 4 << 30  // a table
)

// Open opens a regular file for reading. The error is an *os.PathError.
func Open(path string) (*os.File, error) {
	f, err := os.OpenFile(path, os.O_RDONLY|syscall.O_NONBLOCK, 0) // a pipe without a writer would be waited for
	if err != nil {
		return nil, err
	}
	info, err := f.Stat()
	if err == nil {
		err = irregular(path, info)
	}
	if err != nil {
		_ = f.Close()
		return nil, err
	}
	return f, nil
}

// Check tells whether a regular file stands at a path, without opening it. The error is an *os.PathError.
func Check(path string) error {
	info, err := os.Stat(path)
	if err != nil {
		return err
	}
	return irregular(path, info)
}

// Read reads a regular file of at most so many bytes. The error is an *os.PathError.
func Read(path string, most int64) ([]byte, error) {
	f, err := Open(path)
	if err != nil {
		return nil, err
	}
	defer f.Close() //nolint:errcheck // opened for reading only
	if info, err := f.Stat(); err == nil && info.Size() > most {
		return nil, &os.PathError{Op: "read", Path: path, Err: fmt.Errorf("it has %d MB; at most %d are read", info.Size()>>20, most>>20)}
	}
	return io.ReadAll(f)
}

var errFolder, errPipe, errDevice = errors.New("it is a folder, not a file"), errors.New("it is a pipe or socket, not a file"),
	errors.New("it is a device, not a file")

func irregular(path string, info fs.FileInfo) error {
	var why error
	switch mode := info.Mode(); {
	case mode.IsRegular():
		return nil
	case mode.IsDir():
		why = errFolder
	case mode&(fs.ModeNamedPipe|fs.ModeSocket) != 0:
		why = errPipe
	default:
		why = errDevice
	}
	return &os.PathError{Op: "open", Path: path, Err: why}
}
