// Command oldledger is the ledger of a company's API descriptions: the service, and its command line.
package main

import (
	"os"

	"oldledger/cli"
)

func main() { os.Exit(cli.Main(os.Args[1:], cli.System())) }
