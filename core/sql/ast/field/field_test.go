package field

import (
	"bufio"
	"os"
	"regexp"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
)

// TestFieldsAreWritten: each field that is named occurs in what the engine writes of queries, under one name of ours, and no field that the
// engine writes of these queries is without a name, but for those that nothing looks at.
func TestFieldsAreWritten(t *testing.T) {
	source, err := os.ReadFile("field.go")
	require.NoError(t, err)
	named := map[string]bool{}
	for _, m := range regexp.MustCompile(`Field\{"([a-z_]+)"\}`).FindAllStringSubmatch(string(source), -1) {
		require.False(t, named[m[1]], "%s has two names", m[1])
		named[m[1]] = true
		require.Equal(t, m[1], Of(m[1]).String())
		require.Equal(t, Of(m[1]), Field{m[1]})
	}
	file, err := os.Open("../../../../testdata/trees.jsonl")
	require.NoError(t, err)
	defer func() { require.NoError(t, file.Close()) }()
	written := map[string]bool{}
	lines := bufio.NewScanner(file)
	lines.Buffer(nil, 1<<24)
	key := regexp.MustCompile(`"([a-z_]+)":`)
	for lines.Scan() {
		for _, m := range key.FindAllStringSubmatch(lines.Text(), -1) {
			written[m[1]] = true
		}
	}
	require.NoError(t, lines.Err())
	var unwritten []string
	for name := range named {
		if !written[name] {
			unwritten = append(unwritten, name)
		}
	}
	require.LessOrEqual(t, len(unwritten)*2, len(named), "most names are of fields that these queries have, but not %s",
		strings.Join(unwritten, ", "))
	require.Equal(t, "select_list", SelectList.String())
	require.Equal(t, "from_table", FromTable.String())
}
