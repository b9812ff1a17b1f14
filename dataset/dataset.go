package dataset

import (
	"tovrel/workspace"
)

// Store keeps the datasets of a workspace: their files, frozen copies and twins.
type Store struct {
	*workspace.Workspace
	digests map[string]string // of files, by path, size and time of change
}

// Of is the store of a workspace's datasets.
func Of(w *workspace.Workspace) *Store { return &Store{Workspace: w, digests: map[string]string{}} }
