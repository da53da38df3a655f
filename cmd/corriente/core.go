package main

import (
	"encoding/json"
	"fmt"
	"io"
	"math"
	"os"
	"strings"
	"text/tabwriter"

	"github.com/spf13/cobra"

	"corriente/core/casefile"
	"corriente/core/circuit"
	"corriente/core/diagnose"
	"corriente/core/fault"
	"corriente/core/unit"
)

func formatFlag(cmd *cobra.Command) *string {
	return cmd.Flags().String("format", "text", "text or json")
}

func checkFormat(f string) error {
	if f != "text" && f != "json" {
		return errInput{fmt.Errorf("--format %q is neither text nor json", f)}
	}
	return nil
}

func oneFile(cmd *cobra.Command, args []string) error {
	if len(args) != 1 {
		return errInput{fmt.Errorf("%s takes one case file; got %d", cmd.Name(), len(args))}
	}
	return nil
}

// readCase reads a case from a file, or from standard input for "-".
func readCase(path string) (*casefile.Case, error) {
	var r io.Reader = os.Stdin
	if path != "-" {
		f, err := os.Open(path)
		if err != nil {
			return nil, errInput{fmt.Errorf("%s: cannot be opened (%s): check the name", path, cause(err))}
		}
		defer func() { _ = f.Close() }()
		r = f
	}
	c, err := casefile.Read(r)
	if err != nil {
		return nil, errInput{fmt.Errorf("%s: %w", path, err)}
	}
	return c, nil
}

func cause(err error) string {
	if pe, ok := err.(*os.PathError); ok {
		return pe.Err.Error()
	}
	return err.Error()
}

func writeJSON(w io.Writer, v any) error {
	e := json.NewEncoder(w)
	e.SetEscapeHTML(false)
	e.SetIndent("", "  ")
	return e.Encode(v)
}

func diagnoseCmd() *cobra.Command {
	var format *string
	c := &cobra.Command{
		Use:   "diagnose CASE.json",
		Short: "Weigh a case's evidence: diagnoses, verdict and the next readings",
		Args:  oneFile,
		RunE: func(cmd *cobra.Command, args []string) error {
			if err := checkFormat(*format); err != nil {
				return err
			}
			cs, err := readCase(args[0])
			if err != nil {
				return err
			}
			a, err := diagnose.NewAdviser(cs.Circuit)
			if err != nil {
				return errInput{fmt.Errorf("%s: /circuit: %w", args[0], err)}
			}
			op, err := a.Weigh(cmd.Context(), diagnose.JobOf(cs))
			if err != nil {
				return errInput{fmt.Errorf("%s: /evidence: %w", args[0], err)}
			}
			if *format == "json" {
				return writeJSON(os.Stdout, op.Result)
			}
			return printDiagnosis(os.Stdout, cs, op)
		},
	}
	format = formatFlag(c)
	return c
}

func percent(p float64) string {
	switch {
	case p < 0.01:
		return "under 1 %"
	case p > 0.99:
		return "over 99 %"
	}
	return fmt.Sprintf("%.0f %%", 100*p)
}

func printDiagnosis(w io.Writer, cs *casefile.Case, op *diagnose.Opinion) error {
	fmt.Fprintf(w, "%s\n%s (%s)\n", op.Verdict.Says, strings.ReplaceAll(op.Verdict.Status, "_", " "), percent(op.Verdict.Probability))
	for _, x := range []string{op.Verdict.Then, op.Verdict.Overturn} {
		if x != "" {
			fmt.Fprintln(w, x)
		}
	}
	fmt.Fprintln(w, "\nSuspects")
	tw := tabwriter.NewWriter(w, 0, 4, 2, ' ', 0)
	for i, d := range op.Diagnoses {
		if i >= 8 {
			break
		}
		fmt.Fprintf(tw, "  %s\t%s\n", percent(d.Probability), d.Label)
	}
	tw.Flush()
	if len(op.Evidence) > 0 {
		fmt.Fprintln(w, "\nEvidence")
		for i, e := range op.Evidence {
			fmt.Fprintf(tw, "  %d\t%s\t%s\n", e.Index, describe(&cs.Evidence[i]), e.Says)
		}
		tw.Flush()
	}
	for _, x := range op.Warnings {
		at := ""
		if x.Index > 0 {
			at = fmt.Sprintf(" %d:", x.Index)
		}
		fmt.Fprintf(w, "  !%s %s\n", at, x.Says)
	}
	if len(op.Next) > 0 {
		fmt.Fprintln(w, "\nNext")
		for _, n := range op.Next {
			e := casefile.Evidence{Measure: unit.Measure(n.Measure), Observe: n.Observe, State: n.State, From: n.From,
				To: n.To, Through: n.Through}
			fmt.Fprintf(tw, "  %s\t%.1f min\ttells %s\t%s\n", describe(&e), n.Minutes, diagnose.Tells(n.Bits), n.Because)
		}
		tw.Flush()
	}
	return nil
}

func describe(e *casefile.Evidence) string {
	switch {
	case e.Observe != "":
		return strings.TrimSpace(fmt.Sprintf("%s in %s %s", e.Observe, e.State, e.Outcome))
	case e.Through != "":
		return strings.TrimSpace(fmt.Sprintf("%s through %s in %s %s", e.Measure, e.Through, e.State, e.Value))
	}
	return strings.TrimSpace(fmt.Sprintf("%s %s to %s in %s %s", e.Measure, e.From, e.To, e.State, e.Value))
}

func circuitsCmd() *cobra.Command {
	var format *string
	c := &cobra.Command{
		Use:   "circuits [ID]",
		Short: "List the circuit families, or one family's stations, nodes, states, readings and faults",
		Args:  cobra.MaximumNArgs(1),
		RunE: func(_ *cobra.Command, args []string) error {
			if err := checkFormat(*format); err != nil {
				return err
			}
			if len(args) == 0 {
				return listFamilies(*format)
			}
			c, err := circuit.Family(args[0])
			if err != nil {
				return errInput{err}
			}
			if *format == "json" {
				return writeJSON(os.Stdout, c)
			}
			return printFamily(os.Stdout, c)
		},
	}
	format = formatFlag(c)
	return c
}

func listFamilies(format string) error {
	type row struct {
		ID    string `json:"id"`
		Title string `json:"title"`
		About string `json:"about"`
	}
	var rows []row
	for _, id := range circuit.Families() {
		c, err := circuit.Family(id)
		if err != nil {
			return err
		}
		rows = append(rows, row{c.ID, c.Title, c.About})
	}
	if format == "json" {
		return writeJSON(os.Stdout, map[string]any{"circuits": rows})
	}
	tw := tabwriter.NewWriter(os.Stdout, 0, 4, 2, ' ', 0)
	for _, r := range rows {
		fmt.Fprintf(tw, "%s\t%s\n", r.ID, r.Title)
	}
	return tw.Flush()
}

func printFamily(w io.Writer, c *circuit.Circuit) error {
	tw := tabwriter.NewWriter(w, 0, 4, 2, ' ', 0)
	fmt.Fprintf(w, "%s: %s (%g V)\n%s\n\nStations\n", c.ID, c.Title, c.NominalVoltage, c.About)
	for _, s := range c.Stations {
		var ps []string
		for _, n := range circuit.ParamNames(s.Kind) {
			if p, ok := s.Params[n]; ok {
				ps = append(ps, fmt.Sprintf("%s %g %s", n, p.Value, circuit.ParamUnit(n)))
			}
		}
		where := ""
		if s.From != "" {
			where = s.From + " - " + s.To
		}
		fmt.Fprintf(tw, "  %s\t%s\t%s\t%s\n", s.ID, s.Kind, where, strings.Join(ps, ", "))
	}
	tw.Flush()
	fmt.Fprintln(w, "\nNodes")
	for _, n := range c.Nodes {
		fmt.Fprintf(tw, "  %s\t%s\t%s\n", n.ID, n.Label, n.Access)
	}
	tw.Flush()
	fmt.Fprintln(w, "\nStates")
	for i := range c.States {
		s := &c.States[i]
		reads := "voltage, current"
		if !s.Powered() {
			reads = "resistance"
		}
		fmt.Fprintf(tw, "  %s\t%s\t%s\n", s.ID, reads, s.How)
	}
	tw.Flush()
	fmt.Fprintln(w, "\nObservations")
	for _, o := range c.Observations {
		var words []string
		for _, x := range o.Outcomes {
			words = append(words, x.ID)
		}
		fmt.Fprintf(tw, "  %s\t%s\tin %s\n", o.ID, strings.Join(words, " / "), strings.Join(o.States, ", "))
	}
	tw.Flush()
	net, err := circuit.Compile(c)
	if err != nil {
		return err
	}
	m, err := fault.NewModel(net)
	if err != nil {
		return err
	}
	fmt.Fprintln(w, "\nFaults")
	for _, f := range m.Faults() {
		rng := ""
		if sc := m.ScaleOf(f); sc != nil {
			rng = sc.FormatSeverity(sc.Lo) + " to " + sc.FormatSeverity(sc.Hi)
		}
		fmt.Fprintf(tw, "  %s\t%s\n", f, rng)
	}
	return tw.Flush()
}

// solved prepares a solved circuit from a case, a state and faults.
func solved(path, state string, faults []string, phase string) (*circuit.Network, *circuit.Work, error) {
	cs, err := readCase(path)
	if err != nil {
		return nil, nil, err
	}
	net, err := circuit.Compile(cs.Circuit)
	if err != nil {
		return nil, nil, errInput{fmt.Errorf("%s: /circuit: %w", path, err)}
	}
	_, _, states := cs.Circuit.IDs()
	if state == "" {
		return nil, nil, errInput{fmt.Errorf("--state is missing: circuit %s has %s", cs.CircuitID, strings.Join(states, ", "))}
	}
	st := net.StatePos(state)
	if st < 0 {
		return nil, nil, errInput{fmt.Errorf("--state %s: circuit %s has no such state; it has %s", state,
			cs.CircuitID, strings.Join(states, ", "))}
	}
	m, err := fault.NewModel(net)
	if err != nil {
		return nil, nil, errInput{fmt.Errorf("%s: /parameters: %w", path, err)}
	}
	h, th := net.SoundAll(), net.Nominal()
	for _, text := range faults {
		f, sev, assumed, err := m.Parse(text)
		if err != nil {
			return nil, nil, errInput{fmt.Errorf("--fault %w", err)}
		}
		if assumed {
			fmt.Fprintf(os.Stderr, "corriente: %s: no severity given, taking %s\n", f, m.ScaleOf(f).FormatSeverity(sev))
		}
		m.Apply(h, th, f, sev)
	}
	w := net.NewWork()
	switch phase {
	case "":
		w.Solve(st, th, h)
	case "open", "closed":
		w.SolvePhase(st, th, h, phase == "closed")
	default:
		return nil, nil, errInput{fmt.Errorf("--phase %q is neither open nor closed", phase)}
	}
	return net, w, nil
}

// solution is what solve prints.
type solution struct {
	State    string              `json:"state"`
	Nodes    map[string]*float64 `json:"nodes"`
	Currents map[string]float64  `json:"currents"`
	Motor    *motorOut           `json:"motor,omitempty"`
	Contacts map[string]string   `json:"contacts"`
	AC       map[string]float64  `json:"ac_volts,omitempty"`             // between two nodes, rms, in running states
	Closed   map[string]*float64 `json:"nodes_contact_closed,omitempty"` // the other half of a chatter
}

type motorOut struct {
	RPM     float64 `json:"rpm"`
	Torque  float64 `json:"torque_nm"`
	Stalled bool    `json:"stalled"`
}

func tidy(x float64) float64 {
	if math.Abs(x) < 1e-7 {
		return 0
	}
	return math.Round(x*1e7) / 1e7
}

func solutionOf(state string, net *circuit.Network, w *circuit.Work) solution {
	out := solution{State: state, Nodes: map[string]*float64{}, Currents: map[string]float64{}, Contacts: map[string]string{}}
	for i, n := range net.C.Nodes {
		if n.Hidden {
			continue
		}
		out.Nodes[n.ID] = nil
		if w.Held[i] {
			v := tidy(w.V[i])
			out.Nodes[n.ID] = &v
		}
		if w.Chatter {
			if out.Closed == nil {
				out.Closed = map[string]*float64{}
			}
			v := tidy(w.AltV[i])
			out.Closed[n.ID] = &v
		}
	}
	for k := range net.C.Stations {
		s := &net.C.Stations[k]
		if s.From != "" {
			out.Currents[s.ID] = tidy(w.I[k])
		}
		if s.Kind == circuit.Contact {
			switch {
			case w.Chatter && s.ClosedBy != "":
				out.Contacts[s.ID] = "chatter"
			case w.Closed[k]:
				out.Contacts[s.ID] = "closed"
			default:
				out.Contacts[s.ID] = "open"
			}
		}
	}
	for i, a := range net.C.Nodes {
		for k := range i {
			if v, ok := w.ACVolts(k, i); ok && !a.Hidden && !net.C.Nodes[k].Hidden {
				if out.AC == nil {
					out.AC = map[string]float64{}
				}
				out.AC[net.C.Nodes[k].ID+"-"+a.ID] = tidy(v)
			}
		}
	}
	if net.MotorStation() >= 0 {
		out.Motor = &motorOut{RPM: tidy(w.MotorSpeedRPM()), Torque: tidy(w.Torque()), Stalled: w.Fed && w.Motor.W < 1e-6}
	}
	return out
}

func solveCmd() *cobra.Command {
	var format, state *string
	var faults *[]string
	c := &cobra.Command{
		Use:   "solve CASE.json --state STATE [--fault F]...",
		Short: "Solve the circuit in one state with the given faults",
		Args:  oneFile,
		RunE: func(_ *cobra.Command, args []string) error {
			if err := checkFormat(*format); err != nil {
				return err
			}
			net, w, err := solved(args[0], *state, *faults, "")
			if err != nil {
				return err
			}
			out := solutionOf(*state, net, w)
			if *format == "json" {
				return writeJSON(os.Stdout, out)
			}
			tw := tabwriter.NewWriter(os.Stdout, 0, 4, 2, ' ', tabwriter.AlignRight)
			for _, n := range net.C.Nodes {
				v := "nothing holds it"
				if p := out.Nodes[n.ID]; p != nil {
					v = unit.Format(*p, unit.Voltage)
				}
				fmt.Fprintf(tw, "%s\t  %s\t\n", n.ID, v)
			}
			for _, s := range net.C.Stations {
				if i, ok := out.Currents[s.ID]; ok && i != 0 {
					fmt.Fprintf(tw, "%s\t  %s\t\n", s.ID, unit.Format(i, unit.Current))
				}
			}
			if out.Motor != nil {
				fmt.Fprintf(tw, "motor\t  %.0f rpm\t\nmotor\t  %.2f N m\t\n", out.Motor.RPM, out.Motor.Torque)
			}
			return tw.Flush()
		},
	}
	format = formatFlag(c)
	state = c.Flags().String("state", "", "state to solve, such as crank")
	faults = c.Flags().StringArray("fault", nil, "station.mode or station.mode=severity; may be repeated")
	return c
}

func netlistCmd() *cobra.Command {
	var state, phase *string
	var faults *[]string
	c := &cobra.Command{
		Use:   "netlist CASE.json --state STATE [--fault F]...",
		Short: "Print the same circuit as a SPICE netlist whose nodes bear their ids",
		Args:  oneFile,
		RunE: func(_ *cobra.Command, args []string) error {
			net, w, err := solved(args[0], *state, *faults, *phase)
			if err != nil {
				return err
			}
			title := fmt.Sprintf("%s in %s, %s", net.C.ID, *state, orGood(*faults))
			return w.WriteNetlist(os.Stdout, title)
		},
	}
	state = c.Flags().String("state", "", "state to print, such as crank")
	phase = c.Flags().String("phase", "", "of a chattering contact: open or closed")
	faults = c.Flags().StringArray("fault", nil, "station.mode or station.mode=severity; may be repeated")
	return c
}

func orGood(fs []string) string {
	if len(fs) == 0 {
		return "nothing wrong"
	}
	return strings.Join(fs, " and ")
}
