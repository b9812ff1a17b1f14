// Package gate decides whether a query may run: it lets through what does nothing but read the dataset, and refuses everything that it
// does not know. It looks at the syntax tree of the engine's own parser, so that nothing is judged that the engine would read otherwise.
// Behind it stand the engine's own locks (read-only, no files, no network, no settings); neither relies on the other.
//
// What to review: nodes.go lists the kinds of nodes that may occur, functions.txt the functions that may be called, denied.txt those that may
// not, with the reason. A function that stands in neither is refused where the engine has it.
package gate

import (
	"fmt"
	"sort"
	"strings"
)

// Refusal says why a query may not run.
type Refusal struct {
	Why       string
	Catalogue bool // it would only read what the engine knows of itself
}

func (e *Refusal) Error() string { return e.Why }

// Check refuses every tree that may do anything but read the dataset, at the first place that is not known to be harmless. Has tells whether
// the engine has a function of a name: one that it has not is an error of the query, which the engine explains better. The error is *Refusal.
func Check(root map[string]any, has func(function string) bool) error {
	return (&reviewer{has}).value("", root)
}

type reviewer struct {
	has func(string) bool
}

// value looks at a node or a list of them, in the order of their keys, so that the same query is refused with the same words.
func (r *reviewer) value(key string, v any) error {
	switch v := v.(type) {
	case map[string]any:
		if err := r.node(key, v); err != nil {
			return err
		}
		for _, k := range sortedKeys(v) {
			if err := r.value(k, v[k]); err != nil {
				return err
			}
		}
	case []any:
		for _, item := range v {
			if err := r.value(key, item); err != nil {
				return err
			}
		}
	}
	return nil
}

func sortedKeys(node map[string]any) []string {
	keys := make([]string, 0, len(node))
	for k := range node {
		keys = append(keys, k)
	}
	sort.Strings(keys)
	return keys
}

// node looks at one node, by the key that it stands under.
func (r *reviewer) node(key string, node map[string]any) error {
	kind := text(node, "type")
	if strings.HasSuffix(kind, "_NODE") && !statements[kind] {
		verb, _, _ := strings.Cut(kind, "_")
		return &Refusal{Why: fmt.Sprintf("only reading is allowed, and the query holds a %s", strings.ToUpper(verb))}
	}
	if class := text(node, "class"); class != "" && !classes[class] {
		return &Refusal{Why: fmt.Sprintf("an expression of the kind %s is not known to be harmless", strings.ToLower(class))}
	}
	if places[key] && kind != "" && !strings.HasSuffix(kind, "_NODE") && node["class"] == nil { // else a side of a comparison or of a set operation
		if err := r.source(kind, node); err != nil {
			return err
		}
	}
	if _, called := node["function_name"]; called {
		if name := FunctionName(node); !tableFunctions[name] { // some of them, such as unnest, stand in a SELECT too
			return r.function(name)
		}
	}
	return nil
}

// source looks at what stands in FROM.
func (r *reviewer) source(kind string, node map[string]any) error {
	switch kind {
	case "SHOW_REF":
		return &Refusal{"only SELECT is allowed, not SHOW, DESCRIBE or SUMMARIZE", true}
	case "TABLE_FUNCTION":
		function, _ := node["function"].(map[string]any)
		if name := FunctionName(function); !tableFunctions[name] {
			return &Refusal{fmt.Sprintf("the table function %s is not allowed", name), begins(name, cataloguePrefixes)}
		}
	case "BASE_TABLE":
		return table(node)
	}
	if !sources[kind] {
		return &Refusal{Why: fmt.Sprintf("a source of the kind %s is not known to be harmless", strings.ToLower(kind))}
	}
	return nil
}

// table refuses the engine's own tables.
func table(node map[string]any) error {
	qualified, _ := node["qualified_name"].(map[string]any)
	path, _ := qualified["path"].([]any)
	for _, part := range path {
		if name, _ := part.(string); begins(strings.ToLower(name), systemPrefixes) {
			return &Refusal{fmt.Sprintf("the system table %s is not allowed", name), true}
		}
	}
	return nil
}

func (r *reviewer) function(name string) error {
	switch {
	case begins(name, cataloguePrefixes):
		return &Refusal{fmt.Sprintf("the function %s is not allowed", name), true}
	case Denied(name) != "":
		return &Refusal{Why: fmt.Sprintf("the function %s is not allowed", name)}
	case !allowed[name] && (r.has == nil || r.has(name)):
		return &Refusal{Why: fmt.Sprintf("the function %s is not known to be harmless", name)}
	}
	return nil
}

func begins(name string, prefixes []string) bool {
	for _, prefix := range prefixes {
		if strings.HasPrefix(name, prefix) {
			return true
		}
	}
	return false
}

// FunctionName is what the engine resolves: the last part of the qualified name, else the plain name.
func FunctionName(call map[string]any) string {
	qualified, _ := call["qualified_name"].(map[string]any)
	if path, _ := qualified["path"].([]any); len(path) > 0 {
		if name, ok := path[len(path)-1].(string); ok {
			return strings.ToLower(name)
		}
	}
	return strings.ToLower(text(call, "function_name"))
}

func text(node map[string]any, key string) string {
	s, _ := node[key].(string)
	return s
}
