package golden

import "bytes"

// ReplaceTable puts other lines in the place of an answer's written table and gives the new document. Every byte outside the
// table stays as it is. The answer must have a table and the set must not have been edited since it was parsed.
func (s *Set) ReplaceTable(a *Answer, table string) []byte {
	ending := "\n"
	if bytes.Contains(s.text[a.Table.start:a.Table.end], []byte("\r\n")) {
		ending = "\r\n"
	}
	lines := bytes.ReplaceAll([]byte(table), []byte("\n"), []byte(ending))
	var b bytes.Buffer
	b.Write(s.text[:a.Table.start])
	b.Write(lines)
	b.Write(s.text[a.Table.end:])
	return b.Bytes()
}
