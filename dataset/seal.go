package dataset

import (
	"encoding/hex"
	"io"
	"os"

	"github.com/zeebo/xxh3"

	"tovrel/files"
)

// Seal tells whether a file that was made here is still as it was made: whatever engine reads it, edited data must not pass for frozen.
type Seal struct {
	Size     int64  `json:"size"`
	Modified int64  `json:"modified"` // nanoseconds since 1970: where it is the same, the bytes are not read again
	Digest   string `json:"digest"`   // XXH3 of the bytes, 128 bits
}

// sealOf seals a file.
func sealOf(path string) (Seal, error) {
	f, err := files.Open(path)
	if err != nil {
		return Seal{}, err
	}
	defer f.Close() //nolint:errcheck // only read
	info, err := f.Stat()
	if err != nil {
		return Seal{}, err
	}
	hash := xxh3.New()
	if _, err := io.Copy(hash, f); err != nil {
		return Seal{}, err
	}
	sum := hash.Sum128().Bytes()
	return Seal{Size: info.Size(), Modified: info.ModTime().UnixNano(), Digest: hex.EncodeToString(sum[:])}, nil
}

// broken tells whether a file is another than was sealed. Files of earlier versions have no seal, and are taken as they are.
func (s Seal) broken(path string) bool {
	if s.Digest == "" {
		return false
	}
	info, err := os.Stat(path)
	if err != nil || info.Size() != s.Size {
		return true
	}
	if info.ModTime().UnixNano() == s.Modified {
		return false
	}
	now, err := sealOf(path)
	return err != nil || now.Digest != s.Digest
}
