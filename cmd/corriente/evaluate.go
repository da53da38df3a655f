package main

import (
	"fmt"
	"os"
	"text/tabwriter"

	"github.com/spf13/cobra"

	"corriente/core/evaluate"
)

func evaluateCmd() *cobra.Command {
	var o evaluate.Options
	var format *string
	c := &cobra.Command{
		Use:   "evaluate [--circuit ID] [--faults N] [--seed S]",
		Short: "Hide random faults, let the adviser work each to a verdict, and report how right it was",
		Args:  cobra.NoArgs,
		RunE: func(cmd *cobra.Command, _ []string) error {
			if err := checkFormat(*format); err != nil {
				return err
			}
			if o.Faults < 1 || o.Faults > 1_000_000 {
				return errInput{fmt.Errorf("--faults %d: give 1 to 1000000", o.Faults)}
			}
			if !(o.Spread > 0 && o.Spread <= 1) {
				return errInput{fmt.Errorf("--spread %g: give above 0 and up to 1", o.Spread)}
			}
			r, err := evaluate.Run(cmd.Context(), o)
			if err != nil {
				return errInput{err}
			}
			if *format == "json" {
				return writeJSON(os.Stdout, r)
			}
			fmt.Printf("%s: %d machines (%d sound, %d with two faults), true values spread %.2f, seed %d\n\n",
				r.Circuit, r.N, r.Healthy, r.Doubles, o.Spread, o.Seed)
			tw := tabwriter.NewWriter(os.Stdout, 0, 4, 2, ' ', 0)
			row := func(what string, v float64) { fmt.Fprintf(tw, "%s\t%.1f %%\n", what, 100*v) }
			row("station right when a verdict is given", r.Right)
			row("the same, one fault only", r.RightSingle)
			row("verdict reached on faulty machines", r.Reached)
			row("verdict reached on sound machines", r.ReachedHealthy)
			fmt.Fprintf(tw, "readings and looks a machine\t%.1f\nminutes a machine\t%.1f\nended in a contradiction\t%d\n", r.Readings, r.Minutes, r.Contradictions)
			tw.Flush()
			fmt.Println("\nlikeliest station, at every step")
			fmt.Fprintf(tw, "claimed\tsteps\tmean claim\ttrue\n")
			for _, b := range r.Calibration {
				if b.N > 0 {
					fmt.Fprintf(tw, "%.2f to %.2f\t%d\t%.3f\t%.3f\n", b.Low, b.High, b.N, b.Claimed, b.True)
				}
			}
			return tw.Flush()
		},
	}
	format = formatFlag(c)
	c.Flags().StringVar(&o.Circuit, "circuit", "starter", "family")
	c.Flags().IntVar(&o.Faults, "faults", 200, "machines")
	c.Flags().Uint64Var(&o.Seed, "seed", 1, "the same seed hides the same faults")
	c.Flags().Float64Var(&o.Spread, "spread", 0.3, "log standard deviation of the true values around the nominal ones")
	return c
}
