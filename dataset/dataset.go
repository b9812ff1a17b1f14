// Package dataset keeps the sample data of a workspace: it finds the files of a dataset's tables, freezes them into one database file
// named by its fingerprint, compares and tidies such copies, and makes twins of them. It runs no query of a user.
package dataset

import (
	"tovrel/workspace"
)

// Store keeps the datasets of a workspace: their files, frozen copies and twins.
type Store struct {
	*workspace.Workspace
	lives   map[string]*Frozen // datasets that are a server's database, by name, as this process saw them first
	digests map[string]string  // of files, by path, size and time of change
}

// Of is the store of a workspace's datasets.
func Of(w *workspace.Workspace) *Store {
	return &Store{Workspace: w, lives: map[string]*Frozen{}, digests: map[string]string{}}
}
