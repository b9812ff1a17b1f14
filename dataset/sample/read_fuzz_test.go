package sample_test

import (
	"context"
	"os"
	"path/filepath"
	"testing"

	"github.com/stretchr/testify/require"

	"tovrel/dataset/sample"
	"tovrel/trouble"
)

// FuzzRead: any bytes under any ending are a table or an error of the file.
func FuzzRead(f *testing.F) {
	endings := []string{".csv", ".tsv", ".json", ".jsonl"}
	for i, seed := range []string{"a,b\n1,\"x\"\"y\"\n", "a\tb\r\n1\t\r\n", `[{"a": 1}, {"b": [1e400]}]`,
		"{\"a\": 1}\n{\"a\": null, \"b\": \"x\"}\n", "\xef\xbb\xbfa\n\"", "a,a\n,\n\n", `{"columns": ["a"], "rows": [[1]]}`,
		"\x00", "a\n1e400\n"} {
		f.Add([]byte(seed), uint8(i))
	}
	dir := f.TempDir()
	f.Fuzz(func(t *testing.T, body []byte, ending uint8) {
		path := filepath.Join(dir, "f"+endings[int(ending)%len(endings)])
		require.NoError(t, os.WriteFile(path, body, 0o600))
		read, err := sample.Read(context.Background(), path)
		if err != nil {
			require.Equal(t, 3, trouble.ExitCode(err), "%v", err)
			return
		}
		for _, c := range read.Columns {
			require.Equal(t, read.Rows(), c.Len())
		}
	})
}
