package yamldoc

import (
	"fmt"

	"github.com/goccy/go-yaml/token"
)

// The bounds of a document. The library's parser takes memory by the square of the depth and time by the square of a mapping's keys, so
// that a small file could take all there is.
const (
	maxBytes    = 8 << 20
	maxDepth    = 60
	maxKeys     = 30_000
	maxProblems = 100 // reported of one document
)

// bound is a bound that a document goes beyond, and where.
type bound struct {
	line, column int
	message      string
	remedy       string
}

// beyond finds where a document goes beyond a bound; nil where it does not.
func beyond(tokens token.Tokens) *bound {
	flow, keys := 0, 0
	var block []int      // columns of the blocks that are open
	line, dashes := 0, 0 // of the present line
	for _, t := range tokens {
		if t.Position == nil {
			continue
		}
		if t.Position.Line != line && flow == 0 {
			line, dashes = t.Position.Line, 0
			for len(block) > 0 && block[len(block)-1] >= t.Position.Column {
				block = block[:len(block)-1]
			}
			block = append(block, t.Position.Column)
		}
		switch t.Type {
		case token.SequenceStartType, token.MappingStartType:
			flow++
		case token.SequenceEndType, token.MappingEndType:
			flow = max(0, flow-1)
		case token.SequenceEntryType, token.MappingKeyType, token.TagType, token.AnchorType:
			dashes++
		case token.MappingValueType:
			keys++
		}
		switch {
		case flow+len(block)+dashes > maxDepth:
			return &bound{t.Position.Line, t.Position.Column,
				fmt.Sprintf("the document is nested deeper than %d levels", maxDepth),
				"write it flatter: no key of these files is nested deeper than eight"}
		case keys > maxKeys:
			return &bound{t.Position.Line, t.Position.Column, fmt.Sprintf("the document has more than %d keys", maxKeys),
				"split it into several files"}
		}
	}
	return nil
}
