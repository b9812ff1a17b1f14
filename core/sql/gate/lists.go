package gate

import (
	_ "embed" // the lists of functions
	"strings"
)

//go:embed functions.txt
var functionsText string

//go:embed denied.txt
var deniedText string

// allowed are the functions that have no effect and see nothing but their arguments and the dataset's rows.
var allowed = listed(functionsText)

// denied are the functions that may not be called, each with its reason.
var denied = reasons(deniedText)

// Allowed tells whether a function is known to be harmless.
func Allowed(name string) bool { return allowed[name] || tableFunctions[name] }

// Denied is why a function may not be called; "" for one that is not denied.
func Denied(name string) string {
	if reason := denied[name]; reason != "" || allowed[name] {
		return reason
	}
	for pattern, reason := range denied {
		if prefix, wild := strings.CutSuffix(pattern, "*"); wild && strings.HasPrefix(name, prefix) {
			return reason
		}
	}
	return ""
}

// spaced are the functions with spaces in their names, which the list cannot hold: operators of the engine.
var spaced = []string{"is distinct from", "is not distinct from"}

func listed(text string) map[string]bool {
	out := map[string]bool{}
	for _, name := range spaced {
		out[name] = true
	}
	for line := range strings.SplitSeq(text, "\n") {
		if !strings.HasPrefix(line, "# ") {
			for name := range strings.FieldsSeq(line) {
				out[name] = true
			}
		}
	}
	return out
}

func reasons(text string) map[string]string {
	out := map[string]string{}
	for line := range strings.SplitSeq(text, "\n") {
		if name, reason, found := strings.Cut(line, ": "); found && !strings.HasPrefix(line, "# ") {
			for n := range strings.FieldsSeq(name) {
				out[n] = reason
			}
		}
	}
	return out
}
