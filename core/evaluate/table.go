package evaluate

import (
	"bufio"
	"encoding/json"
	"fmt"
	"io"
	"math"
	"os"
	"path/filepath"
	"slices"
	"strings"

	"corriente/core/policy"
)

// Load reads the finished machines that a run left in its store.
func Load(path string) (*Report, Options, error) {
	f, err := os.Open(path)
	if err != nil {
		return nil, Options{}, err
	}
	defer func() { _ = f.Close() }()
	sc := bufio.NewScanner(f)
	sc.Buffer(nil, 1<<24)
	var o Options
	var trials []Trial
	for sc.Scan() {
		if o.Circuit == "" {
			if err := json.Unmarshal(sc.Bytes(), &o); err != nil {
				return nil, o, fmt.Errorf("%s: the first line is not the options of a run: %w", path, err)
			}
			continue
		}
		var t Trial
		if json.Unmarshal(sc.Bytes(), &t) == nil {
			trials = append(trials, t)
		}
	}
	slices.SortFunc(trials, func(x, y Trial) int { return x.Index - y.Index })
	return report(o, trials), o, sc.Err()
}

// kind names what a run looks at.
func (o *Options) kind() string {
	switch {
	case o.Second:
		return "second"
	case o.Triple:
		return "triple"
	case o.Slips > 0 && o.Wrong > 0:
		return "slips and wrong"
	case o.Policy == policy.Textbook || o.Policy == policy.Random:
		return o.Policy
	case o.Spread > 0.3:
		return fmt.Sprintf("spread %.2f", o.Spread)
	}
	return policy.Adviser
}

// Table writes the stores of a folder as the tables of the project's docs.
func Table(w io.Writer, dir string) error {
	files, err := filepath.Glob(filepath.Join(dir, "*.jsonl"))
	if err != nil {
		return err
	}
	runs := map[string]map[string]*Report{}
	var ids []string
	for _, f := range files {
		r, o, err := Load(f)
		if err != nil {
			return err
		}
		if runs[o.Circuit] == nil {
			runs[o.Circuit] = map[string]*Report{}
			ids = append(ids, o.Circuit)
		}
		runs[o.Circuit][o.kind()] = r
	}
	slices.Sort(ids)
	t := tables{w, ids, runs}
	t.verdicts()
	t.harder()
	t.claims()
	t.confused()
	return nil
}

// tables writes runs as tables, a row a circuit family.
type tables struct {
	w    io.Writer
	ids  []string
	runs map[string]map[string]*Report // by family and by what was run
}

func percent(x float64) string { return fmt.Sprintf("%.1f", 100*x) }

// verdicts: how often a verdict is right and reached, and the minutes against other policies.
func (t tables) verdicts() {
	fmt.Fprintf(t.w, "| family | machines | right, one fault | right, all | reached, faulty | reached, sound | "+
		"minutes | textbook | ratio | random |\n|---|---|---|---|---|---|---|---|---|---|\n")
	for _, id := range t.ids {
		a, textbook, random := t.runs[id][policy.Adviser], t.runs[id][policy.Textbook], t.runs[id][policy.Random]
		if a == nil {
			continue
		}
		fmt.Fprintf(t.w, "| %s | %d | %s | %s | %s | %s | %.1f |", id, a.N, percent(a.RightSingle), percent(a.Right),
			percent(a.Reached), percent(a.ReachedHealthy), a.Minutes)
		if textbook != nil {
			fmt.Fprintf(t.w, " %.1f | %.2f |", textbook.Minutes, a.Minutes/textbook.Minutes)
		} else {
			fmt.Fprint(t.w, " | |")
		}
		if random != nil {
			fmt.Fprintf(t.w, " %.1f |\n", random.Minutes)
		} else {
			fmt.Fprint(t.w, " |\n")
		}
	}
}

// harder: the same where parts differ more, readings slip, or a second fault hides behind the first.
func (t tables) harder() {
	fmt.Fprintf(t.w, "\n| family | spread 1.5 times as wide | twice as wide | 2 %% slips and 2 %% wrong words | every "+
		"reading three times | second fault found after the repair |\n|---|---|---|---|---|---|\n")
	for _, id := range t.ids {
		cell := func(k string) string {
			if r := t.runs[id][k]; r != nil {
				return fmt.Sprintf("%s of %d", percent(r.Right), r.N)
			}
			return ""
		}
		second := ""
		if r := t.runs[id]["second"]; r != nil {
			second = fmt.Sprintf("%s of %d", percent(r.SecondFound), r.Second)
		}
		fmt.Fprintf(t.w, "| %s | %s | %s | %s | %s | %s |\n", id, cell("spread 0.45"), cell("spread 0.60"),
			cell("slips and wrong"), cell("triple"), second)
	}
}

// claims: how often what was claimed with a probability was true.
func (t tables) claims() {
	fmt.Fprintf(t.w, "\n| claimed | steps | mean claim | true | 95 %% interval |\n|---|---|---|---|---|\n")
	for _, b := range Pooled(t.runs) {
		if b.N == 0 {
			continue
		}
		lo, hi := Wilson(b.True, b.N)
		fmt.Fprintf(t.w, "| %.2f to %.2f | %d | %.3f | %.3f | %.3f to %.3f |\n", b.Low, b.High, b.N, b.Claimed, b.True, lo, hi)
	}
}

// confused: what was not found, or taken for something else.
func (t tables) confused() {
	fmt.Fprintf(t.w, "\n| family | not found, or taken for something else |\n|---|---|\n")
	for _, id := range t.ids {
		a := t.runs[id][policy.Adviser]
		if a == nil {
			continue
		}
		var parts []string
		for _, p := range a.Confused[:min(4, len(a.Confused))] {
			parts = append(parts, fmt.Sprintf("%s: %s (%d)", p.Truth, p.Named, p.N))
		}
		fmt.Fprintf(t.w, "| %s | %s |\n", id, strings.Join(parts, "; "))
	}
}

// Pooled joins the calibration of all families' adviser runs.
func Pooled(runs map[string]map[string]*Report) []Band {
	var out []Band
	for _, kinds := range runs {
		a := kinds[policy.Adviser]
		if a == nil {
			continue
		}
		if out == nil {
			out = make([]Band, len(a.Calibration))
			for i, b := range a.Calibration {
				out[i].Low, out[i].High = b.Low, b.High
			}
		}
		for i, b := range a.Calibration {
			n := float64(out[i].N + b.N)
			if n == 0 {
				continue
			}
			out[i].Claimed = (out[i].Claimed*float64(out[i].N) + b.Claimed*float64(b.N)) / n
			out[i].True = (out[i].True*float64(out[i].N) + b.True*float64(b.N)) / n
			out[i].N += b.N
		}
	}
	return out
}

// Plot draws a calibration as SVG: what was claimed against how often it was so,
// with Wilson intervals, and the line on which both agree.
func Plot(w io.Writer, bands []Band) error {
	const size, pad = 360.0, 44.0
	at := func(p float64) (x, y float64) { return pad + p*(size-2*pad), size - pad - p*(size-2*pad) }
	fmt.Fprintf(w, `<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 %g %g" font-family="sans-serif" font-size="12"><title>Calibration: claimed against true</title><rect width="100%%" height="100%%" fill="#fff"/>`, size, size)
	x0, y0 := at(0)
	x1, y1 := at(1)
	fmt.Fprintf(w, `<path d="M%g,%g V%g H%g" fill="none" stroke="#25272b"/><line x1="%g" y1="%g" x2="%g" y2="%g" stroke="#6b665c" stroke-dasharray="4 3"/>`,
		x0, y1, y0, x1, x0, y0, x1, y1)
	for _, p := range []float64{0, 0.2, 0.4, 0.6, 0.8, 1} {
		x, y := at(p)
		fmt.Fprintf(w, `<text x="%g" y="%g" text-anchor="middle">%.1f</text><text x="%g" y="%g" text-anchor="end">%.1f</text>`,
			x, y0+16, p, x0-6, y+4, p)
	}
	fmt.Fprintf(w, `<text x="%g" y="%g" text-anchor="middle">claimed</text><text x="12" y="%g" transform="rotate(-90 12 %g)" text-anchor="middle">true</text>`,
		size/2, size-8, size/2, size/2)
	for _, b := range bands {
		if b.N == 0 {
			continue
		}
		lo, hi := Wilson(b.True, b.N)
		x, _ := at(b.Claimed)
		_, yl := at(lo)
		_, yh := at(hi)
		_, y := at(b.True)
		fmt.Fprintf(w, `<line x1="%.1f" y1="%.1f" x2="%.1f" y2="%.1f" stroke="#9a4f1e" stroke-width="2"/><circle cx="%.1f" cy="%.1f" r="%.1f" fill="#9a4f1e"/>`,
			x, yl, x, yh, x, y, 2+math.Min(3, math.Log10(float64(b.N))))
	}
	_, err := fmt.Fprint(w, `</svg>`+"\n")
	return err
}

// PlotDir draws the pooled calibration of a folder of stores.
func PlotDir(w io.Writer, dir string) error {
	files, err := filepath.Glob(filepath.Join(dir, "*.jsonl"))
	if err != nil {
		return err
	}
	runs := map[string]map[string]*Report{}
	for _, f := range files {
		r, o, err := Load(f)
		if err != nil {
			return err
		}
		if o.kind() == policy.Adviser {
			runs[o.Circuit] = map[string]*Report{policy.Adviser: r}
		}
	}
	return Plot(w, Pooled(runs))
}
