package calc

import (
	"fmt"
	"math"
	"strings"

	"corriente/core/motor"
	"corriente/core/prove"
	"corriente/core/unit"
)

// running lists the calculators of what runs on the bench.
func running() []Calculator {
	return []Calculator{
		{ID: "bench_run", Group: "On the bench", Title: "Bench run",
			Answers: "Are resistance, speed constant and friction what they should be?",
			Formula: "V − V_b = R·I + k_e·ω by least squares; friction = k_e·I₀",
			Source:  "DC motor equations; least squares as above",
			Caution: "Clamp it: it jumps. Fused lead. At stall one second, no longer.",
			Inputs: []Input{{ID: "runs", Label: "Volts, amperes and rpm, unloaded or stalled (rpm 0)", Kind: Rows,
				Columns: []string{"volts in V", "amperes in A", "rpm in rpm"}, Hint: "one point a line: 12.0 3.1 2850"},
				q("brushes", "Drop of both brushes", "V", "0.6"),
				pick("noise", "It sounds", "none", "none", "even", "rough", "rough", "grind", "grinding")},
			example: example{map[string]string{"runs": "12 3 2850\n4 40 0"}, "constants", "none"},
			run:     benchRun},
		{ID: "genset", Group: "On the bench", Title: "Generator set", Answers: "Does it hold frequency and volts, without and with load?",
			Formula: "droop = 100 · (no load − full load)/full load; rpm = 120 f/poles", Source: "common practice",
			Caution: "Read from its own panel or a plug-in instrument. Nothing is probed.",
			Inputs: []Input{q("nominal", "Nominal frequency", "Hz", "50"), q("no_load", "Without load", "Hz", ""),
				q("full_load", "With its load", "Hz", ""), opt(q("volts", "Volts with load", "V (panel)", "")),
				opt(q("nominal_volts", "Nominal volts", "V (panel)", "")), opt(q("poles", "Poles", "", ""))},
			example: example{map[string]string{"nominal": "60", "no_load": "62", "full_load": "60"}, "3.3 % droop", "good"},
			run:     genset},
	}
}

func benchRun(a *ask, r *Result) {
	rows := a.rows("runs")
	vb := a.num("brushes")
	noise := a.choice("noise")
	if a.err != nil {
		return
	}
	runs := make([]motor.Run, len(rows))
	for i, x := range rows {
		runs[i] = motor.Run{V: x[0], I: x[1], W: x[2] * 2 * math.Pi / 60}
	}
	f, err := motor.Fit(runs, vb)
	if a.wrong(err) {
		return
	}
	r.line("Resistance", "%s", pm(f.R, f.UR, unit.Resistance))
	r.line("Speed constant", "%.4g V s/rad%s (%.0f rpm a volt)", f.Ke, errText(f.UKe), 60/(2*math.Pi)/f.Ke)
	r.line("Friction", "%.3g N m%s", f.Friction, errText(f.UFriction))
	if len(runs) > 2 {
		r.line("Points are off the line by", "%s", unit.Format(f.Rms, unit.Voltage))
	}
	r.Says = "These are the motor's own constants. Beside a known good one, or with the job's circuit, they can be judged."
	m := a.motor()
	if m == nil {
		return
	}
	type want struct {
		name     string
		got, exp float64
		low, hi  string
	}
	worst := ""
	for _, w := range []want{
		{"resistance", f.R, m["resistance"], "shorted turns", "brushes, a poor joint, or a coil open"},
		{"speed constant", f.Ke, m["ke"], "shorted turns, or magnets that lost strength", "another winding than meant"},
		{"friction", f.Friction, m["friction"], "", "bearings or rubbing brushes"},
	} {
		if w.exp <= 0 {
			continue
		}
		k := w.got / w.exp
		r.line("Usual "+w.name, "%.3g, this one %.2f times that", w.exp, k)
		limit := 1.6
		if w.name == "friction" {
			limit = 3
		}
		switch {
		case k > limit && w.hi != "":
			worst += fmt.Sprintf(" Its %s is %.1f times the usual: %s.", w.name, k, w.hi)
		case k < 1/limit && w.low != "":
			worst += fmt.Sprintf(" Its %s is %.1f of the usual: %s.", w.name, k, w.low)
		}
	}
	if worst == "" {
		r.Judged, r.Says = "good", "Resistance, speed constant and friction are as this kind of motor has them."
		if noise != "none" {
			r.Judged, r.Says = "near", r.Says+" But it sounds "+
				map[string]string{"rough": "rough", "grind": "as if it ground"}[noise]+": look at the bearings."
		}
	} else {
		r.Judged, r.Says = "bad", strings.TrimSpace(worst)
	}
	// As evidence: its last turning point, taken unloaded on the bench.
	for i := len(rows) - 1; i >= 0; i-- {
		if rows[i][2] > 0 {
			a.benchCurrent(r, rows[i][1])
			break
		}
	}
}

func genset(a *ask, r *Result) {
	g := prove.Genset{Nominal: a.num("nominal"), NoLoad: a.num("no_load"), FullLoad: a.num("full_load"),
		Volts: a.num("volts"), NominalVolts: a.num("nominal_volts"), Poles: int(a.num("poles"))}
	if a.err != nil {
		return
	}
	droop, rpm, good, says, err := g.GensetSays()
	if a.wrong(err) {
		return
	}
	r.line("Droop", "%.1f %%", droop)
	if rpm > 0 {
		r.line("Speed without load", "%.0f rpm", rpm)
	}
	r.Says, r.Judged = says, "bad"
	if good {
		r.Judged = "good"
	}
}

func errText(u float64) string {
	if u <= 0 {
		return ""
	}
	return fmt.Sprintf(" ± %.2g", 2*u)
}
