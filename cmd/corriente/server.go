package main

import "github.com/spf13/cobra"

func serverCmds() []*cobra.Command { return nil }
