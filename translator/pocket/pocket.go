package pocket

import (
	"context"

	"tovrel/translator"
)

type Settings struct {
	Version string
	Quirks  []string
	Seed    int
}

func New(s Settings) (translator.Asker, error) { return nil, nil }

var _ = context.Background
