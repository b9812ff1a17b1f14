package dataset

import (
	"os"
	"path/filepath"
	"testing"
	"time"

	"github.com/stretchr/testify/require"
)

// TestSeals: any change of the bytes breaks a seal; touching a file does not.
func TestSeals(t *testing.T) {
	path := filepath.Join(t.TempDir(), "f")
	body := []byte("some bytes of a database file")
	write := func(b []byte, at time.Time) {
		require.NoError(t, os.WriteFile(path, b, 0o600))
		require.NoError(t, os.Chtimes(path, at, at))
	}
	made := time.Now().Add(-time.Hour)
	write(body, made)
	seal, err := sealOf(path)
	require.NoError(t, err)
	require.False(t, seal.broken(path))
	write(body, time.Now())
	require.False(t, seal.broken(path), "only touched")
	for i := range body {
		changed := append([]byte(nil), body...)
		changed[i] ^= 1
		write(changed, time.Now())
		require.True(t, seal.broken(path), "byte %d", i)
	}
	write(body[:len(body)-1], made)
	require.True(t, seal.broken(path), "shorter")
	write(append(body, 0), made)
	require.True(t, seal.broken(path), "longer")
	require.NoError(t, os.Remove(path))
	require.True(t, seal.broken(path), "gone")
	require.False(t, Seal{}.broken(path), "files of earlier versions have no seal")
}
