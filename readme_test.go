package main_test

import (
	"regexp"
	"strings"
)

var shown = regexp.MustCompile(`(?m)^ *(?:\$ )?\.?/?tovrel ([a-z]+(?: [a-z]+)?)`)

// twoWords are the commands that hold others.
var twoWords = map[string]bool{"data": true, "set": true}

// shownCommands lists the commands that a document shows at the start of its lines.
func shownCommands(text string) [][]string {
	var commands [][]string
	for _, m := range shown.FindAllStringSubmatch(text, -1) {
		words := strings.Fields(m[1])
		if !twoWords[words[0]] {
			words = words[:1]
		}
		commands = append(commands, words)
	}
	return commands
}
