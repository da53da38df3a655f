package main

import (
	"context"
	"errors"
	"fmt"
	"os"
	"os/signal"
	"syscall"

	"github.com/spf13/cobra"
)

// errInput marks input that is wrong: one line on standard error, exit code 2.
type errInput struct{ err error }

func (e errInput) Error() string { return e.err.Error() }

func main() {
	ctx, stop := signal.NotifyContext(context.Background(), os.Interrupt, syscall.SIGTERM)
	code := run(ctx, os.Args[1:])
	stop()
	os.Exit(code)
}

func run(ctx context.Context, args []string) int {
	root := &cobra.Command{
		Use:           "corriente",
		Short:         "Finds out why a motor does not do its work, and what to do about it",
		SilenceUsage:  true,
		SilenceErrors: true,
	}
	root.CompletionOptions.DisableDefaultCmd = true
	root.AddCommand(diagnoseCmd(), validateCmd(), circuitsCmd(), solveCmd(), netlistCmd(), evaluateCmd(), simulateCmd(), traceCmd())
	root.AddCommand(serverCmds()...)
	root.AddCommand(backupCmds()...)
	root.AddCommand(userCmd(), doctorCmd())
	root.SetArgs(args)
	root.SetFlagErrorFunc(func(_ *cobra.Command, err error) error { return errInput{err} })
	err := root.ExecuteContext(ctx)
	if err == nil {
		return 0
	}
	fmt.Fprintln(os.Stderr, "corriente: "+err.Error())
	var in errInput
	if errors.As(err, &in) {
		return 2
	}
	if ctx.Err() != nil {
		return 130
	}
	return 2
}
