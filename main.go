// Command tovrel is a test bench for question-to-query translators.
package main

import (
	"os"

	"tovrel/cli"
)

func main() { os.Exit(cli.Main(os.Args[1:], cli.System())) }
