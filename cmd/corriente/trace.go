package main

import (
	"encoding/csv"
	"errors"
	"fmt"
	"io"
	"os"
	"path/filepath"
	"strconv"
	"strings"

	"github.com/spf13/cobra"

	"corriente/core/trace"
)

func traceCmd() *cobra.Command {
	var o trace.Options
	var against, out string
	var points int
	var format *string
	c := &cobra.Command{
		Use:   "trace FILE.csv [--against OTHER.csv]",
		Short: "Analyse a current trace, or compare two",
		Args:  cobra.ExactArgs(1),
		RunE: func(_ *cobra.Command, args []string) error {
			if err := checkFormat(*format); err != nil {
				return err
			}
			if _, err := trace.PerAmpere(o.Scale); err != nil {
				return errInput{fmt.Errorf("--scale: %w", err)}
			}
			a, x, err := traced(args[0], o)
			if err != nil {
				return err
			}
			if out != "" {
				if err := writePoints(out, trace.Decimate(x, a.Interval, 0, len(x), points)); err != nil {
					return err
				}
			}
			if against == "" {
				if *format == "json" {
					return writeJSON(os.Stdout, a)
				}
				return printTrace(os.Stdout, a)
			}
			b, _, err := traced(against, o)
			if err != nil {
				return err
			}
			cmp := trace.Compare(a, b)
			if *format == "json" {
				return writeJSON(os.Stdout, map[string]any{"trace": a, "against": b, "comparison": cmp})
			}
			if err := printTrace(os.Stdout, a); err != nil {
				return err
			}
			fmt.Println("\nThe other")
			if err := printTrace(os.Stdout, b); err != nil {
				return err
			}
			fmt.Println("\n" + cmp.Says)
			return nil
		},
	}
	c.Flags().StringVar(&against, "against", "", "another trace to compare with: the old motor, or before the repair")
	c.Flags().StringVar(&o.Channel, "channel", "", "the clamp's channel")
	c.Flags().StringVar(&o.Scale, "scale", "", "the clamp's scale: 10mV/A, 100mV/A, A")
	c.Flags().IntVar(&o.Bars, "bars", 0, "bars of the commutator, where known")
	c.Flags().IntVar(&o.Brushes, "brushes", 2, "brushes, evenly spaced")
	c.Flags().StringVar(&out, "out", "", "write the trace, decimated without losing peaks, as FILE.csv or FILE.json")
	c.Flags().IntVar(&points, "points", 2000, "columns of the decimated trace")
	format = formatFlag(c)
	return c
}

// traced reads and analyses one file.
func traced(path string, o trace.Options) (*trace.Analysis, []float32, error) {
	f, err := os.Open(path)
	if err != nil {
		return nil, nil, errInput{fmt.Errorf("%s: cannot be opened: is the name right?", path)}
	}
	defer func() { _ = f.Close() }()
	size := int64(0)
	if st, err := f.Stat(); err == nil {
		size = st.Size()
	}
	file, err := trace.ReadSized(f, size)
	if err != nil {
		return nil, nil, errInput{fmt.Errorf("%s: %w", path, err)}
	}
	x, name, scale, warn, err := trace.Amperes(file, o)
	if err != nil {
		return nil, nil, errInput{fmt.Errorf("%s: %w", path, err)}
	}
	r, err := trace.Analyse(x, file.Dt, o)
	if err != nil {
		return nil, nil, errInput{fmt.Errorf("%s: %w", path, err)}
	}
	r.Channel, r.Scale = name, scale
	r.Warnings = append(append(append([]string{}, file.Warnings...), warn...), r.Warnings...)
	return r, x, nil
}

func writePoints(path string, ps []trace.Point) (err error) {
	f, err := os.Create(path)
	if err != nil {
		return errInput{fmt.Errorf("--out %s: cannot be written", path)}
	}
	defer func() { err = errors.Join(err, f.Close()) }()
	switch strings.ToLower(filepath.Ext(path)) {
	case ".json":
		return writeJSON(f, ps)
	case ".csv":
		w := csv.NewWriter(f)
		_ = w.Write([]string{"t_s", "low_a", "high_a"})
		for _, p := range ps {
			_ = w.Write([]string{strconv.FormatFloat(p.T, 'g', 9, 64),
				strconv.FormatFloat(float64(p.Low), 'g', 7, 32), strconv.FormatFloat(float64(p.High), 'g', 7, 32)})
		}
		w.Flush()
		return w.Error()
	}
	return errInput{fmt.Errorf("--out %s: write FILE.csv or FILE.json", path)}
}

func printTrace(w io.Writer, r *trace.Analysis) error {
	or := func(v *float64, format string) string {
		if v == nil {
			return "not to be told"
		}
		return fmt.Sprintf(format, *v)
	}
	num := func(v *int) string {
		if v == nil {
			return "not to be told"
		}
		return strconv.Itoa(*v)
	}
	fmt.Fprintf(w, "%s\n\nchannel    %s, %d samples every %.4g s\nmean       %.4g A, rms %.4g A, peak %.4g A\n",
		r.Verdict, r.Channel, r.Samples, r.Interval, r.MeanA, r.RMSA, r.PeakA)
	fmt.Fprintf(w, "inrush     %s\nripple     %.3g %%, %s\nspeed      %s, %s bars\n", or(r.InrushA, "%.4g A"),
		r.RipplePercent, or(r.RippleHz, "%.5g Hz"), or(r.RPM, "%.5g rpm"), num(r.Bars))
	if r.WeakBars != nil && len(*r.WeakBars) > 0 {
		fmt.Fprintf(w, "weak humps %v of %s\n", *r.WeakBars, num(r.Humps))
	}
	fmt.Fprintf(w, "dropouts   %d\n", r.Dropouts)
	for _, x := range r.Warnings {
		fmt.Fprintln(w, "note       "+x)
	}
	return nil
}
