package picture

import (
	"fmt"
	"math"
	"slices"

	"corriente/core/circuit"
	"corriente/core/diagnose/belief"
	"corriente/core/diagnose/cells"
	"corriente/core/diagnose/choice"
	"corriente/core/diagnose/explain"
	"corriente/core/diagnose/gauss"
	"corriente/core/meter"
	"corriente/core/unit"
)

// Picture is the current path of one state, ready to draw: nodes with their
// volts, stations with what they lose and are suspected of.
type Picture struct {
	State    string         `json:"state"`
	Powered  bool           `json:"powered"`
	Flows    bool           `json:"flows"` // does current flow on the main path
	Note     string         `json:"note,omitempty"`
	Amps     *gauss.Band90  `json:"amps,omitempty"` // through the motor
	AmpsRead *float64       `json:"amps_read,omitempty"`
	Paths    []PicturePath  `json:"paths"`
	SpentMin float64        `json:"spent_minutes"`
	ToGoMin  float64        `json:"to_go_minutes"`
	Others   []PictureOther `json:"others"` // stations that lie on no path: the battery, what the motor turns
}

// PicturePath is one path, head to tail: node 0, station 0, node 1, ...
type PicturePath struct {
	ID       string           `json:"id"`
	Label    string           `json:"label"`
	Nodes    []PictureNode    `json:"nodes"`
	Stations []PictureStation `json:"stations"`
}

// PictureNode is a node's voltage against bat_neg.
type PictureNode struct {
	ID       string   `json:"id"`
	Label    string   `json:"label"`
	Place    string   `json:"place"`
	Access   string   `json:"access"`
	Hidden   bool     `json:"hidden,omitempty"` // inside a part: no probe reaches it
	Low      float64  `json:"low"`              // 5 to 95 % of what the surviving diagnoses allow
	Mid      float64  `json:"mid"`
	High     float64  `json:"high"`
	Ghost    float64  `json:"ghost"` // in a good circuit with the same values
	Loose    bool     `json:"loose"` // nothing holds it: its volts are anybody's guess
	Measured *float64 `json:"measured,omitempty"`
}

// PictureStation is one station between two nodes of the path.
type PictureStation struct {
	ID       string       `json:"id"`
	Kind     string       `json:"kind"`
	Label    string       `json:"label"`
	Side     string       `json:"side"`
	Drop     gauss.Band90 `json:"drop"`
	Measured *float64     `json:"measured,omitempty"` // volts lost, read across it or from both ends
	Allowed  float64      `json:"allowed"`            // V at the present current; 0: no limit
	AtNormal float64      `json:"at_normal"`          // V allowed at normal current
	Suspect  float64      `json:"suspect"`            // probability
	OpenAt   string       `json:"open_at,omitempty"`  // contacts: open or closed in a good circuit in this state
}

// drawing is what one picture is drawn from.
type drawing struct {
	op       *explain.Opinion
	a        *belief.Reasoner
	state    int
	st       *circuit.State
	probed   bool // volts are drawn
	views    []choice.View
	good     *belief.GoodCircuit
	closed   []bool // contacts in a good circuit in this state
	solver   *cells.Solver
	measured map[string]float64
	suspects map[string]float64
}

// Draw draws one state from the surviving diagnoses.
func Draw(op *explain.Opinion, state string) (*Picture, error) {
	a := op.Reasoner
	si := a.Net.StatePos(state)
	if si < 0 {
		return nil, fmt.Errorf("circuit %s has no state %q", a.C.ID, state)
	}
	d := begin(op, si)
	pic := &Picture{Others: []PictureOther{}, State: state, Powered: d.probed, SpentMin: choice.Spent(a, op.Job)}
	for i, n := range op.Next {
		if i < 2 {
			pic.ToGoMin += n.Minutes
		}
	}
	if op.Verdict.Status == explain.Isolated || op.Verdict.Status == explain.NothingWrong {
		pic.ToGoMin = 0
	}
	d.amps(pic)
	d.note(pic)
	for i := range a.C.Paths {
		p := &a.C.Paths[i]
		if nodes, _, ok := a.C.Walk(p, state); ok && p.In(state) {
			pic.Paths = append(pic.Paths, d.path(p, nodes))
		}
	}
	for k := range a.C.Stations {
		x := &a.C.Stations[k]
		if !slices.ContainsFunc(pic.Paths, func(p PicturePath) bool {
			return slices.ContainsFunc(p.Stations, func(s PictureStation) bool { return s.ID == x.ID })
		}) {
			pic.Others = append(pic.Others, PictureOther{x.ID, x.Label, gauss.Round(d.suspects[x.ID])})
		}
	}
	return pic, nil
}

// begin solves what a picture of a state is drawn from.
func begin(op *explain.Opinion, state int) *drawing {
	a := op.Reasoner
	st := &a.C.States[state]
	d := &drawing{op: op, a: a, state: state, st: st, good: a.GoodCircuit(op.Posterior), solver: a.NewSolver(),
		measured: measuredNodes(op, st.ID)}
	// What hangs on the mains is looked at, never probed: no volts are drawn that somebody might check.
	d.probed = st.Powered() && st.Supply != "mains"
	d.suspects, _ = op.Posterior.Stations()
	if !d.probed {
		return d
	}
	d.views, _ = choice.Views(a, op.Posterior)
	// A band of 5 to 95 % does not see what weighs less.
	for n := len(d.views); n > 1 && d.views[n-1].W < 0.004; n-- {
		d.views = d.views[:n-1]
	}
	cells.Share(len(d.views), func(from, step int) {
		s := a.NewSolver()
		for k := from; k < len(d.views); k += step {
			choice.ViewAt(a, &d.views[k], state, s)
		}
	})
	d.good.At(state)
	d.closed = slices.Clone(d.good.Closed(state))
	return d
}

// amps fills in the motor's current, reckoned and read, and whether any flows.
func (d *drawing) amps(pic *Picture) {
	a := d.a
	m := a.Net.MotorStation()
	if m < 0 {
		return
	}
	if d.probed {
		var parts []gauss.Part
		row := make([]float64, a.Values)
		for i := range d.views {
			l := choice.ViewAt(a, &d.views[i], d.state, d.solver)
			l.AmpSlopes(row, m)
			mean, v := d.views[i].Sc.ProjectAround(row, float64(l.I[m]))
			parts = append(parts, gauss.Part{Weight: d.views[i].W, Mean: mean, SD: math.Sqrt(v)})
		}
		b := gauss.Mixture(parts)
		pic.Amps = &b
		most := 0.01 * math.Max(a.Model.Normal[m], 0.1)
		pic.Flows = math.Abs(float64(d.good.At(d.state).I[m])) > most || math.Max(math.Abs(b.High), math.Abs(b.Low)) > most
	}
	for i := range d.op.Job.Evidence {
		e := &d.op.Job.Evidence[i]
		if !e.Struck && e.State == d.st.ID && e.Measure == unit.Current && a.InPathOf(e.State, a.C.Stations[m].ID, e.Through) {
			pic.AmpsRead = new(e.Reading.Value)
		}
	}
}

// note says what the state itself keeps from being told.
func (d *drawing) note(pic *Picture) {
	switch {
	case d.st.Supply == "running":
		pic.Flows, pic.Note = true, "The engine turns the generator: alternating volts are read line to line, direct volts at the battery."
	case d.st.Supply == "mains":
		pic.Note = "Mains: covers on, look and listen only. Nothing is probed."
	case !d.st.Powered():
		pic.Note = "Nothing is connected: only ohms are read here, and a handheld tells open, short and tens of ohms apart, not milliohms."
	case pic.Amps != nil && !pic.Flows:
		pic.Note = "No current flows on the main path in this state: full volts here prove nothing, even a single strand shows them."
	}
}

// path draws one path, whose nodes are given.
func (d *drawing) path(p *circuit.Path, nodes []string) PicturePath {
	a := d.a
	out := PicturePath{ID: p.ID, Label: p.Label}
	for _, id := range nodes {
		i := a.C.NodeIndex(id)
		n := &a.C.Nodes[i]
		pn := PictureNode{ID: id, Label: n.Label, Place: n.Place, Access: n.Access, Hidden: n.Hidden || d.st.Powered() && !d.probed}
		if d.probed {
			b, loose := d.band(i, -1)
			pn.Low, pn.Mid, pn.High, pn.Loose = sigV(b.Low), sigV(b.Mid), sigV(b.High), loose
			pn.Ghost = sigV(float64(d.good.At(d.state).V[i]))
		}
		pn.read(d.measured, d.probed)
		out.Nodes = append(out.Nodes, pn)
	}
	for k, id := range p.Stations {
		x := a.C.Station(id)
		ps := PictureStation{ID: id, Kind: string(x.Kind), Label: x.Label, Side: x.Side, AtNormal: x.AllowedDrop,
			Suspect: gauss.Round(d.suspects[id])}
		if d.probed {
			b, _ := d.band(a.C.NodeIndex(nodes[k]), a.C.NodeIndex(nodes[k+1]))
			ps.Drop = gauss.Band90{Low: sigV(b.Low), Mid: sigV(b.Mid), High: sigV(b.High)}
			ps.Allowed = d.allowed(x)
			if x.Kind == circuit.Contact {
				ps.OpenAt = "open"
				if d.closed[a.C.StationIndex(id)] {
					ps.OpenAt = "closed"
				}
			}
		}
		ps.Measured = measuredAcross(d.op, d.st.ID, nodes[k], nodes[k+1], d.measured)
		ps.read(d.probed)
		out.Stations = append(out.Stations, ps)
	}
	return out
}

// read puts in what was measured at the node.
func (n *PictureNode) read(measured map[string]float64, probed bool) {
	v, ok := measured[n.ID]
	if !ok {
		return
	}
	n.Measured = new(v)
	if probed {
		n.Low, n.Mid, n.High = asRead(v)
	}
}

// read puts the band of what was measured across the station in place of what is reckoned.
func (s *PictureStation) read(probed bool) {
	if s.Measured != nil && probed {
		s.Drop.Low, s.Drop.Mid, s.Drop.High = asRead(*s.Measured)
	}
}

// asRead is the band of what was read: the meter's own. What another try would show is
// not what was measured.
func asRead(v float64) (low, mid, high float64) {
	lim := meter.Handheld().DCVoltage.Limit(v)
	return sigV(v - lim), sigV(v), sigV(v + lim)
}

// PictureOther is a station that lies on no path.
type PictureOther struct {
	ID      string  `json:"id"`
	Label   string  `json:"label"`
	Suspect float64 `json:"suspect"`
}

func sigV(v float64) float64 { return math.Round(v*1e4) / 1e4 }

// band is the posterior band of a node's voltage, or of the voltage between
// two nodes when b >= 0, and whether nothing holds the node.
func (d *drawing) band(n, b int) (gauss.Band90, bool) {
	a, views := d.a, d.views
	g := max(a.C.NodeIndex(circuit.Ground), 0)
	loose := 0.0
	parts, row := make([]gauss.Part, 0, len(views)), make([]float64, a.Values)
	for i := range views {
		l := choice.ViewAt(a, &views[i], d.state, d.solver)
		l.VoltSlopes(row, n, b)
		mean := float64(l.V[n])
		if b >= 0 {
			mean -= float64(l.V[b])
		} else if l.Island[n] != l.Island[g] {
			loose += views[i].W
		}
		m, v := views[i].Sc.ProjectAround(row, mean)
		parts = append(parts, gauss.Part{Weight: views[i].W, Mean: m, SD: math.Sqrt(v)})
	}
	return gauss.Mixture(parts), loose > 0.5
}

// allowed is a station's allowed drop at the current that flows: the limits of
// the trade hold at normal current and shrink with it.
func (d *drawing) allowed(x *circuit.Station) float64 {
	if x.AllowedDrop == 0 {
		return 0
	}
	k := d.a.C.StationIndex(x.ID)
	amps := 0.0
	for i := range d.views {
		amps += d.views[i].W * math.Abs(float64(choice.ViewAt(d.a, &d.views[i], d.state, d.solver).I[k]))
	}
	share := amps / math.Max(d.a.Model.Normal[k], 1e-6)
	return sigV(x.AllowedDrop * math.Min(math.Max(share, 0), 1))
}

// measuredNodes finds nodes whose voltage against bat_neg is known from
// readings in a state, directly or by adding drops.
func measuredNodes(op *explain.Opinion, state string) map[string]float64 {
	type edge struct {
		from, to string
		v        float64
	}
	var edges []edge
	for i := range op.Job.Evidence {
		e := &op.Job.Evidence[i]
		if !e.Struck && e.State == state && e.Measure == unit.Voltage && !e.Reading.Over {
			edges = append(edges, edge{e.From, e.To, e.Reading.Value})
		}
	}
	out := map[string]float64{}
	if len(edges) == 0 {
		return out
	}
	known := map[string]float64{circuit.Ground: 0}
	for range len(edges) {
		for i := len(edges) - 1; i >= 0; i-- { // the latest reading counts
			e := edges[i]
			vt, okT := known[e.to]
			vf, okF := known[e.from]
			switch {
			case okT && !okF:
				known[e.from] = vt + e.v
			case okF && !okT:
				known[e.to] = vf - e.v
			}
		}
	}
	for id, v := range known {
		out[id] = sigV(v)
	}
	return out
}

func measuredAcross(op *explain.Opinion, state, from, to string, nodes map[string]float64) *float64 {
	for i := len(op.Job.Evidence) - 1; i >= 0; i-- {
		e := &op.Job.Evidence[i]
		if e.Struck || e.State != state || e.Measure != unit.Voltage {
			continue
		}
		if e.From == from && e.To == to {
			return new(e.Reading.Value)
		}
		if e.From == to && e.To == from {
			return new(-e.Reading.Value)
		}
	}
	f, okF := nodes[from]
	t, okT := nodes[to]
	if okF && okT {
		return new(sigV(f - t))
	}
	return nil
}
