package cli

import (
	"errors"
	"io/fs"
	"os"
	"path/filepath"

	"github.com/spf13/cobra"

	"tovrel/trouble"
	"tovrel/workspace"
)

// emptyWorkspace is what init writes.
const emptyWorkspace = `# A Tovrel workspace. Paths are relative to this file.
tovrel: 1

datasets:                        # add one with: tovrel data add NAME FILE…
  # shop:
  #   as-of: 2031-06-30          # "today" in every query on this dataset
  #   tables:
  #     orders: data/orders.csv
  #     prices: {file: data/prices.xlsx, sheet: Prices, header-row: 3}
  #   briefing: briefings/shop.yaml    # made by: tovrel data profile shop --write

translators:
  pocket@3: {kind: pocket, version: "3"}     # the built-in one, for a first look
  # mine@1: {kind: command, run: [./translate, --one]}
  # mine@2: {kind: http, url: "http://127.0.0.1:8099/translate", price: {input: 3.0, output: 15.0}}   # per million tokens
  # model@1: {kind: chat, url: "https://…/v1/chat/completions", model: NAME, key: "${API_KEY}"}
  # tool@1: {kind: mcp, run: [./server]}

run: {wordings: all, repeats: 1, parallel: 8, timeout: 60s}
limits: {time: 30s, memory: 1GB, rows: 1000000, result: 256MB}   # of one query
# rules: {}                      # how answers are matched, for all golden sets
`

func newInitCmd(_ *app) *cobra.Command {
	return &cobra.Command{
		Use: "init [DIR]", Short: "Write an empty workspace with a commented tovrel.yaml", Args: usage(cobra.MaximumNArgs(1)),
		RunE: func(cmd *cobra.Command, args []string) error {
			dir := "."
			if len(args) > 0 {
				dir = args[0]
			}
			if err := initWorkspace(dir); err != nil {
				return err
			}
			where := dir
			if filepath.Clean(dir) == "." {
				where = "this folder"
			}
			cmd.Printf("An empty workspace is in %s. Add sample data with `tovrel data add NAME FILE…`, and questions with "+
				"`tovrel set draft NAME`\nor as golden/NAME.md.\n", where)
			return nil
		},
	}
}

// initWorkspace makes the folders and tovrel.yaml; it touches nothing that is there.
func initWorkspace(dir string) error {
	path := filepath.Join(dir, workspace.ConfigName)
	if _, err := os.Stat(path); !errors.Is(err, fs.ErrNotExist) {
		return trouble.New(trouble.Usage, "%s is there already; it stays as it is", path)
	}
	for _, folder := range []string{"data", "briefings", "golden", "baselines"} {
		if err := os.MkdirAll(filepath.Join(dir, folder), 0o755); err != nil {
			return trouble.New(trouble.Unreadable, "the folder %s cannot be made: %w", folder, err)
		}
	}
	if err := os.WriteFile(path, []byte(emptyWorkspace), 0o644); err != nil {
		return trouble.New(trouble.Unreadable, "%s cannot be written: %w", path, err)
	}
	return nil
}
