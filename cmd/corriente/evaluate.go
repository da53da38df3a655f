package main

import (
	"fmt"
	"os"
	"slices"
	"strings"
	"text/tabwriter"

	"github.com/spf13/cobra"

	"corriente/core/evaluate"
	"corriente/core/policy"
	"corriente/core/trace/field"
)

func evaluateCmd() *cobra.Command {
	var o evaluate.Options
	var format *string
	var table, plot string
	c := &cobra.Command{
		Use:   "evaluate [--circuit ID] [--faults N] [--seed S]",
		Short: "Hide random faults, let the adviser work each to a verdict, and report how right it was",
		Args:  cobra.NoArgs,
		RunE: func(cmd *cobra.Command, _ []string) error {
			if err := checkFormat(*format); err != nil {
				return err
			}
			if table != "" {
				if err := evaluate.Table(os.Stdout, table); err != nil {
					return errInput{err}
				}
				return plotTo(plot, table)
			}
			if o.Faults < 1 || o.Faults > 1_000_000 {
				return errInput{fmt.Errorf("--faults %d: give 1 to 1000000", o.Faults)}
			}
			if !(o.Spread > 0 && o.Spread <= 1) {
				return errInput{fmt.Errorf("--spread %g: give above 0 and up to 1", o.Spread)}
			}
			if o.Voltage != 0 && !(o.Voltage >= 6 && o.Voltage <= 60) {
				return errInput{fmt.Errorf("--voltage %g: give 6 to 60", o.Voltage)}
			}
			if !slices.Contains(policy.Policies(), o.Policy) {
				return errInput{fmt.Errorf("--policy %q: use one of %s", o.Policy, strings.Join(policy.Policies(), ", "))}
			}
			if !slices.Contains(evaluate.Worlds(), o.Machines) {
				return errInput{fmt.Errorf("--machines %q: use one of %s", o.Machines, strings.Join(evaluate.Worlds(), ", "))}
			}
			if o.Machines == evaluate.Own {
				o.Machines = ""
			}
			o.Progress = progress("machines")
			r, err := evaluate.Run(cmd.Context(), o)
			if err != nil {
				return errInput{err}
			}
			if *format == "json" {
				return writeJSON(os.Stdout, r)
			}
			return printReport(r, o)
		},
	}
	format = formatFlag(c)
	c.Flags().StringVar(&o.Circuit, "circuit", "starter", "family")
	c.Flags().IntVar(&o.Faults, "faults", 200, "machines")
	c.Flags().Uint64Var(&o.Seed, "seed", 1, "the same seed hides the same faults")
	c.Flags().StringVar(&o.Policy, "policy", policy.Adviser, "how the next reading is chosen: "+strings.Join(policy.Policies(), ", "))
	c.Flags().StringVar(&o.Machines, "machines", evaluate.Own,
		"where they come from: own (the adviser's own model), field (other equations), tuning (the same, other settings)")
	c.Flags().Float64Var(&o.Voltage, "voltage", 0, "supply that the family is moved to, V; 0 leaves its own")
	c.Flags().Float64Var(&o.Slips, "slips", 0, "share of readings written down wrongly")
	c.Flags().Float64Var(&o.Wrong, "wrong", 0, "share of observations that are simply wrong")
	c.Flags().BoolVar(&o.Triple, "triple", false, "enter every reading three times")
	c.Flags().BoolVar(&o.Second, "second", false, "two faults each; the one found is repaired and the job goes on")
	c.Flags().StringVar(&table, "table", "", "folder of finished runs: print them as tables")
	c.Flags().StringVar(&plot, "plot", "", "with --table: file for the calibration as SVG")
	c.Flags().StringVar(&o.Store, "store", "", "file of finished machines: a run that was stopped goes on where it stood")
	c.AddCommand(evaluateTracesCmd(), evaluateAssumptionsCmd())
	c.Flags().Float64Var(&o.Spread, "spread", 0.3, "log standard deviation of the true values around the nominal ones")
	return c
}

// evaluateTracesCmd judges the analysis of traces by motors from other equations.
func evaluateTracesCmd() *cobra.Command {
	n, seed, tuning := 500, uint64(2027), false
	c := &cobra.Command{
		Use:   "traces [--traces N] [--seed S]",
		Short: "Analyse current traces of motors from other equations, and report how right that was",
		Args:  cobra.NoArgs,
		RunE: func(*cobra.Command, []string) error {
			if n < 1 || n > 100_000 {
				return errInput{fmt.Errorf("--traces %d: give 1 to 100000", n)}
			}
			set := field.Reporting()
			if tuning {
				set = field.Tuning()
			}
			t, err := field.Judge(set, seed, n, nil)
			if err != nil {
				return err
			}
			fmt.Println(t)
			for _, w := range t.Wrong {
				fmt.Println("wrong:", w)
			}
			return nil
		},
	}
	c.Flags().IntVar(&n, "traces", n, "traces")
	c.Flags().Uint64Var(&seed, "seed", seed, "the same seed draws the same motors")
	c.Flags().BoolVar(&tuning, "tuning", tuning, "the ranges that the analysis was tuned on, instead of those it is reported on")
	return c
}

// evaluateAssumptionsCmd tells how far the verdicts hang on what the reasoning assumes.
func evaluateAssumptionsCmd() *cobra.Command {
	o := evaluate.AssumptionOptions{Machines: 6, Seed: 71}
	var only string
	var format *string
	c := &cobra.Command{
		Use:   "assumptions [--machines N] [--circuit ID]",
		Short: "Change each number the reasoning assumes by a third, and report how far its verdicts move",
		Args:  cobra.NoArgs,
		RunE: func(cmd *cobra.Command, _ []string) error {
			if err := checkFormat(*format); err != nil {
				return err
			}
			if o.Machines < 1 || o.Machines > 1000 {
				return errInput{fmt.Errorf("--machines %d: give 1 to 1000", o.Machines)}
			}
			var err error
			if o.Circuits, err = evaluate.FieldFamilies(); err != nil {
				return err
			}
			if only != "" {
				if !slices.Contains(o.Circuits, only) {
					return errInput{fmt.Errorf("--circuit %q: use one of %s", only, strings.Join(o.Circuits, ", "))}
				}
				o.Circuits = []string{only}
			}
			o.Progress = progress("numbers")
			all, err := evaluate.Assumptions(cmd.Context(), o)
			if err != nil {
				return err
			}
			if *format == "json" {
				return writeJSON(os.Stdout, all)
			}
			tw := tabwriter.NewWriter(os.Stdout, 0, 4, 2, ' ', 0)
			fmt.Fprintf(tw, "number\tvalue\tfrom\tmoves a part by, mean\tat most\tverdicts gone or come\tturned\tother advice\tof\n")
			for _, x := range all {
				fmt.Fprintf(tw, "%s\t%g\t%s\t%.4f\t%.3f\t%d\t%d\t%d\t%d\n", x.Name, x.Value, x.From, x.Mean, x.Moved,
					x.Stood, x.Turned, x.Next, x.Jobs)
			}
			return tw.Flush()
		},
	}
	format = formatFlag(c)
	c.Flags().IntVar(&o.Machines, "machines", o.Machines, "finished jobs of each circuit")
	c.Flags().Uint64Var(&o.Seed, "seed", o.Seed, "the same seed hides the same faults")
	c.Flags().StringVar(&only, "circuit", "", "one family; all nine without it")
	return c
}

// printReport writes a run for people.
func printReport(r *evaluate.Report, o evaluate.Options) error {
	fmt.Printf("%s: %d machines (%d sound, %d with two faults), seed %d\n\n",
		r.Circuit, r.N, r.Healthy, r.Doubles, o.Seed)
	tw := tabwriter.NewWriter(os.Stdout, 0, 4, 2, ' ', 0)
	row := func(what string, v float64) { fmt.Fprintf(tw, "%s\t%.1f %%\n", what, 100*v) }
	row("station right when a verdict is given", r.Right)
	row("the same, one fault only", r.RightSingle)
	row("verdict reached on faulty machines", r.Reached)
	row("verdict reached on sound machines", r.ReachedHealthy)
	row("right fault, where the station is right", r.FaultRight)
	row("a sound station named surely, faulty machines", r.Accused)
	row("a sound station named surely, sound machines", r.AccusedSound)
	if o.Second || o.Machines != "" {
		row(fmt.Sprintf("second fault found after the repair, of %d that cost a tenth of the speed", r.Second), r.SecondFound)
	}
	row("faulty, no verdict, but one repair for all that is likely", r.OneFix)
	fmt.Fprintf(tw, "readings and looks a machine\t%.1f\nminutes a machine\t%.1f\nended in a contradiction\t%d\n",
		r.Readings, r.Minutes, r.Contradictions)
	tw.Flush()
	fmt.Println("\nlikeliest station, at every step")
	fmt.Fprintf(tw, "claimed\tsteps\tmean claim\ttrue\t95 %% interval\n")
	for _, b := range r.Calibration {
		if b.N > 0 {
			lo, hi := evaluate.Wilson(b.True, b.N)
			fmt.Fprintf(tw, "%.2f to %.2f\t%d\t%.3f\t%.3f\t%.3f to %.3f\n", b.Low, b.High, b.N, b.Claimed, b.True, lo, hi)
		}
	}
	tw.Flush()
	if len(r.Confused) > 0 {
		fmt.Println("\nnot found, or taken for something else")
		for _, p := range r.Confused {
			fmt.Fprintf(tw, "%s\t%s\t%d\n", p.Truth, p.Named, p.N)
		}
	}
	return tw.Flush()
}

// plotTo writes the pooled calibration of a folder; nothing without a file.
func plotTo(file, dir string) error {
	if file == "" {
		return nil
	}
	f, err := os.Create(file)
	if err != nil {
		return errInput{fmt.Errorf("%s: cannot be written (%s): name another file", file, cause(err))}
	}
	if err := evaluate.PlotDir(f, dir); err != nil {
		_ = f.Close()
		return errInput{err}
	}
	return f.Close()
}
