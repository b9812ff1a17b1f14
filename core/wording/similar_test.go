package wording_test

import (
	"testing"

	"github.com/stretchr/testify/require"

	"tovrel/core/wording"
)

func TestSimilar(t *testing.T) {
	for _, pair := range [][2]string{
		{"How many loads were rejected in May 2031?", "number of loads rejected in May 2031"},
		{"Which farms joined in 2031?", "Show me the farms that joined in 2031"},
		{"What did each district deliver in 2030?", "What did the districts deliver in 2030"},
	} {
		require.True(t, wording.Similar(pair[0], pair[1]), pair)
	}
	for _, pair := range [][2]string{
		{"How many loads were rejected in May 2031?", "How many loads were rejected in May 2030?"},
		{"Which farms have delivered milk in 2031?", "Which farms have not delivered milk in 2031?"},
		{"What were gross payments in May?", "What were net payments in May?"},
		{"How many loads were there?", "How many farms are there?"},
		{"Which farms joined in 2031?", "How many farms joined in 2031?"},
		{"How many loans were there in each quarter at the Marsh desk?", "How many loans were there in each quarter at the Vale desk?"},
		{"How many boats are there?", "How many boats are there in the west?"},
		{"", "the"},
	} {
		require.False(t, wording.Similar(pair[0], pair[1]), pair)
	}
}
