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

// Draw draws one state from the surviving diagnoses.
func Draw(op *explain.Opinion, state string) (*Picture, error) {
	a := op.Reasoner
	si := a.Net.StatePos(state)
	if si < 0 {
		return nil, fmt.Errorf("circuit %s has no state %q", a.C.ID, state)
	}
	st := &a.C.States[si]
	// What hangs on the mains is looked at, never probed: no volts are drawn that somebody might check.
	probed := st.Powered() && st.Supply != "mains"
	pic := &Picture{Others: []PictureOther{}, State: state, Powered: probed, SpentMin: choice.Spent(a, op.Job)}
	for i, n := range op.Next {
		if i < 2 {
			pic.ToGoMin += n.Minutes
		}
	}
	if op.Verdict.Status == explain.Isolated || op.Verdict.Status == explain.NothingWrong {
		pic.ToGoMin = 0
	}
	sus, _ := op.Posterior.Stations()
	good := a.GoodCircuit(op.Posterior)
	var views []choice.View
	s := a.NewSolver()
	if probed {
		views, _ = choice.Views(a, op.Posterior)
		// A band of 5 to 95 % does not see what weighs less.
		for n := len(views); n > 1 && views[n-1].W < 0.004; n-- {
			views = views[:n-1]
		}
		cells.Share(len(views), func(from, step int) {
			s := a.NewSolver()
			for k := from; k < len(views); k += step {
				choice.ViewAt(a, &views[k], si, s)
			}
		})
		good.At(si)
	}
	measured := measuredNodes(op, state)
	var ampParts []gauss.Part
	if m := a.Net.MotorStation(); m >= 0 && probed {
		for i := range views {
			l := choice.ViewAt(a, &views[i], si, s)
			mean, v := views[i].Sc.ProjectRow(l.DI[m*a.Values:(m+1)*a.Values], float64(l.I[m]))
			ampParts = append(ampParts, gauss.Part{Weight: views[i].W, Mean: mean, SD: math.Sqrt(v)})
		}
		b := gauss.Mixture(ampParts)
		pic.Amps = &b
		most := 0.01 * math.Max(a.Model.Normal[m], 0.1)
		pic.Flows = math.Abs(good.At(si).At(m)) > most || math.Max(math.Abs(b.High), math.Abs(b.Low)) > most
		if !pic.Flows {
			pic.Note = "No current flows on the main path in this state: full volts here prove nothing, even a single strand shows them."
		}
	}
	switch st.Supply {
	case "running":
		pic.Flows, pic.Note = true, "The engine turns the generator: alternating volts are read line to line, direct volts at the battery."
	case "mains":
		pic.Note = "Mains: covers on, look and listen only. Nothing is probed."
	}
	if !st.Powered() {
		pic.Note = "Nothing is connected: only ohms are read here, and a handheld tells open, short and tens of ohms apart, not milliohms."
	}
	for i := range op.Job.Evidence {
		e := &op.Job.Evidence[i]
		if e.Struck || e.State != state || e.Measure != unit.Current {
			continue
		}
		if m := a.Net.MotorStation(); m >= 0 && a.InPathOf(state, a.C.Stations[m].ID, e.Through) {
			pic.AmpsRead = new(e.Reading.Value)
		}
	}
	for i := range a.C.Paths {
		p := &a.C.Paths[i]
		nodes, _, ok := a.C.Walk(p, state)
		if !p.In(state) || !ok {
			continue
		}
		pp := PicturePath{ID: p.ID, Label: p.Label}
		for _, id := range nodes {
			i := a.C.NodeIndex(id)
			n := &a.C.Nodes[i]
			pn := PictureNode{ID: id, Label: n.Label, Place: n.Place, Access: n.Access, Hidden: n.Hidden || st.Powered() && !probed}
			if probed {
				b, loose := nodeBand(op, views, si, i, -1, s)
				pn.Low, pn.Mid, pn.High, pn.Loose = sigV(b.Low), sigV(b.Mid), sigV(b.High), loose
				pn.Ghost = sigV(float64(good.At(si).V[i]))
			}
			pn.read(measured, probed)
			pp.Nodes = append(pp.Nodes, pn)
		}
		for k, id := range p.Stations {
			x := a.C.Station(id)
			ps := PictureStation{ID: id, Kind: string(x.Kind), Label: x.Label, Side: x.Side, AtNormal: x.AllowedDrop, Suspect: gauss.Round(sus[id])}
			if probed {
				b, _ := nodeBand(op, views, si, a.C.NodeIndex(nodes[k]), a.C.NodeIndex(nodes[k+1]), s)
				ps.Drop = gauss.Band90{Low: sigV(b.Low), Mid: sigV(b.Mid), High: sigV(b.High)}
				ps.Allowed = allowed(a, x, op, views, si, s)
				if x.Kind == circuit.Contact {
					ps.OpenAt = "open"
					if good.S.W.Closed[a.C.StationIndex(id)] {
						ps.OpenAt = "closed"
					}
				}
			}
			ps.Measured = measuredAcross(op, state, nodes[k], nodes[k+1], measured)
			ps.read(probed)
			pp.Stations = append(pp.Stations, ps)
		}
		pic.Paths = append(pic.Paths, pp)
	}
	for k := range a.C.Stations {
		x := &a.C.Stations[k]
		if !slices.ContainsFunc(pic.Paths, func(p PicturePath) bool {
			return slices.ContainsFunc(p.Stations, func(s PictureStation) bool { return s.ID == x.ID })
		}) {
			pic.Others = append(pic.Others, PictureOther{x.ID, x.Label, gauss.Round(sus[x.ID])})
		}
	}
	return pic, nil
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

// nodeBand is the posterior band of a node's voltage, or of the voltage between
// two nodes when b >= 0.
func nodeBand(op *explain.Opinion, views []choice.View, state, n, b int, s *cells.Solver) (gauss.Band90, bool) {
	a := op.Reasoner
	g := max(a.C.NodeIndex(circuit.Ground), 0)
	loose := 0.0
	parts := make([]gauss.Part, 0, len(views))
	for i := range views {
		l := choice.ViewAt(a, &views[i], state, s)
		row := slices.Clone(l.DV[n*a.Values : (n+1)*a.Values])
		mean := float64(l.V[n])
		if b >= 0 {
			mean -= float64(l.V[b])
			for k, x := range l.DV[b*a.Values : (b+1)*a.Values] {
				row[k] -= x
			}
		} else if l.Island[n] != l.Island[g] {
			loose += views[i].W
		}
		m, v := views[i].Sc.ProjectRow(row, mean)
		parts = append(parts, gauss.Part{Weight: views[i].W, Mean: m, SD: math.Sqrt(v)})
	}
	return gauss.Mixture(parts), loose > 0.5
}

// allowed is a station's allowed drop at the current that flows: the limits of
// the trade hold at normal current and shrink with it.
func allowed(a *belief.Reasoner, x *circuit.Station, op *explain.Opinion, views []choice.View, state int, s *cells.Solver) float64 {
	if x.AllowedDrop == 0 {
		return 0
	}
	k := a.C.StationIndex(x.ID)
	amps := 0.0
	for i := range views {
		amps += views[i].W * math.Abs(float64(choice.ViewAt(a, &views[i], state, s).I[k]))
	}
	share := amps / math.Max(a.Model.Normal[k], 1e-6)
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
