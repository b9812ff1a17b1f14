package render

import (
	"bytes"
	"fmt"
	"strings"
	"unicode/utf8"
)

// steers tells characters that could steer a terminal or turn a line around: controls of both sets, and marks of direction.
func steers(r rune) bool {
	return r < ' ' || r == 0x7f || r >= 0x80 && r < 0xa0 || r >= 0x202a && r <= 0x202e || r >= 0x2066 && r <= 0x2069 ||
		r == 0x2028 || r == 0x2029
}

// printable makes control characters harmless: data must not steer a terminal.
func printable(s string) string {
	return strings.Map(func(r rune) rune {
		switch {
		case r == '\t':
			return ' '
		case steers(r):
			return '·'
		}
		return r
	}, s)
}

// Plain is printable for a text of several lines, such as an error with the line that it is about.
func Plain(s string) string {
	lines := strings.Split(s, "\n")
	for i, l := range lines {
		lines[i] = printable(l)
	}
	return strings.Join(lines, "\n")
}

// exactCell is a cell of CSV: as it is, but for controls other than tabs and ends of lines, which are written as people would.
func exactCell(s string) string {
	if !strings.ContainsFunc(s, isControl) {
		return s
	}
	var b strings.Builder
	for _, r := range s {
		if isControl(r) {
			fmt.Fprintf(&b, `\u%04x`, r)
			continue
		}
		b.WriteRune(r)
	}
	return b.String()
}

func isControl(r rune) bool { return steers(r) && r != '\t' && r != '\n' && r != '\r' }

// safeJSON escapes the controls that the encoder leaves as they are; they stand in texts alone.
func safeJSON(body []byte) []byte {
	if isASCII(body) || !bytes.ContainsFunc(body, func(r rune) bool { return steers(r) && r >= 0x7f }) {
		return body
	}
	var b bytes.Buffer
	for len(body) > 0 {
		r, size := utf8.DecodeRune(body)
		if r >= 0x7f && r != utf8.RuneError && steers(r) {
			fmt.Fprintf(&b, `\u%04x`, r)
		} else {
			b.Write(body[:size])
		}
		body = body[size:]
	}
	return b.Bytes()
}

// isASCII tells whether a text has none but the first 127 characters: most have none else, and that is soon seen.
func isASCII(body []byte) bool {
	for _, b := range body {
		if b >= 0x7f {
			return false
		}
	}
	return true
}
