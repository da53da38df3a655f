package diagnose

import (
	"fmt"
	"maps"
	"math"
	"slices"
	"sort"
	"strings"

	"corriente/core/casefile"
	"corriente/core/circuit"
	"corriente/core/fault"
	"corriente/core/meter"
	"corriente/core/phrase"
	"corriente/core/unit"
)

// Picture is the current path of one state, ready to draw: nodes with their
// volts, stations with what they lose and are suspected of.
type Picture struct {
	State    string         `json:"state"`
	Powered  bool           `json:"powered"`
	Flows    bool           `json:"flows"` // does current flow on the main path
	Note     string         `json:"note,omitempty"`
	Amps     *Band90        `json:"amps,omitempty"` // through the motor
	AmpsRead *float64       `json:"amps_read,omitempty"`
	Paths    []PicturePath  `json:"paths"`
	SpentMin float64        `json:"spent_minutes"`
	ToGoMin  float64        `json:"to_go_minutes"`
	Others   []PictureOther `json:"others"` // stations that lie on no path: the battery, what the motor turns
}

// Band90 is a 5 to 95 % range with its middle.
type Band90 struct {
	Low  float64 `json:"low"`
	Mid  float64 `json:"mid"`
	High float64 `json:"high"`
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
	ID       string   `json:"id"`
	Kind     string   `json:"kind"`
	Label    string   `json:"label"`
	Side     string   `json:"side"`
	Drop     Band90   `json:"drop"`
	Measured *float64 `json:"measured,omitempty"` // volts lost, read across it or from both ends
	Allowed  float64  `json:"allowed"`            // V at the present current; 0: no limit
	AtNormal float64  `json:"at_normal"`          // V allowed at normal current
	Suspect  float64  `json:"suspect"`            // probability
	OpenAt   string   `json:"open_at,omitempty"`  // contacts: open or closed in a good circuit in this state
}

// Picture draws one state from the surviving diagnoses.
func (op *Opinion) Picture(state string) (*Picture, error) {
	a := op.a
	si := a.Net.StatePos(state)
	if si < 0 {
		return nil, fmt.Errorf("circuit %s has no state %q", a.C.ID, state)
	}
	st := &a.C.States[si]
	// What hangs on the mains is looked at, never probed: no volts are drawn that somebody might check.
	probed := st.Powered() && st.Supply != "mains"
	pic := &Picture{Others: []PictureOther{}, State: state, Powered: probed, SpentMin: a.Spent(op.job)}
	for i, n := range op.Next {
		if i < 2 {
			pic.ToGoMin += n.Minutes
		}
	}
	if op.Verdict.Status == Isolated || op.Verdict.Status == NothingWrong {
		pic.ToGoMin = 0
	}
	sus, _ := op.post.stations()
	good := a.healthyView(op.post)
	var views []cellView
	s := a.newSolver()
	if probed {
		views, _ = a.views(op.post)
		// A band of 5 to 95 % does not see what weighs less.
		for n := len(views); n > 1 && views[n-1].w < 0.004; n-- {
			views = views[:n-1]
		}
		share(len(views), func(from, step int) {
			s := a.newSolver()
			for k := from; k < len(views); k += step {
				a.viewAt(&views[k], si, s)
			}
		})
		good.at(si)
	}
	measured := op.measuredNodes(state)
	var ampParts []gaussPart
	if m := a.Net.MotorStation(); m >= 0 && probed {
		for i := range views {
			l := a.viewAt(&views[i], si, s)
			mean, v := views[i].sc.projectRow(l.ji[m*a.q:(m+1)*a.q], float64(l.i[m]))
			ampParts = append(ampParts, gaussPart{views[i].w, mean, math.Sqrt(v)})
		}
		b := mixture(ampParts)
		pic.Amps = &b
		most := 0.01 * math.Max(a.Model.Normal[m], 0.1)
		pic.Flows = math.Abs(good.at(si).at(m)) > most || math.Max(math.Abs(b.High), math.Abs(b.Low)) > most
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
	for i := range op.job.Evidence {
		e := &op.job.Evidence[i]
		if e.Struck || e.State != state || e.Measure != unit.Current {
			continue
		}
		if m := a.Net.MotorStation(); m >= 0 && a.inPathOf(state, a.C.Stations[m].ID, e.Through) {
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
				b, loose := op.nodeBand(views, si, i, -1, s)
				pn.Low, pn.Mid, pn.High, pn.Loose = sigV(b.Low), sigV(b.Mid), sigV(b.High), loose
				pn.Ghost = sigV(float64(good.at(si).v[i]))
			}
			pn.read(measured, probed)
			pp.Nodes = append(pp.Nodes, pn)
		}
		for k, id := range p.Stations {
			x := a.C.Station(id)
			ps := PictureStation{ID: id, Kind: string(x.Kind), Label: x.Label, Side: x.Side, AtNormal: x.AllowedDrop, Suspect: round(sus[id])}
			if probed {
				b, _ := op.nodeBand(views, si, a.C.NodeIndex(nodes[k]), a.C.NodeIndex(nodes[k+1]), s)
				ps.Drop = Band90{sigV(b.Low), sigV(b.Mid), sigV(b.High)}
				ps.Allowed = a.allowed(x, op, views, si, s)
				if x.Kind == circuit.Contact {
					ps.OpenAt = "open"
					if good.s.w.Closed[a.C.StationIndex(id)] {
						ps.OpenAt = "closed"
					}
				}
			}
			ps.Measured = op.measuredAcross(state, nodes[k], nodes[k+1], measured)
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
			pic.Others = append(pic.Others, PictureOther{x.ID, x.Label, round(sus[x.ID])})
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

func (l *linear) at(k int) float64 { return float64(l.i[k]) }

// wholly is how many standard deviations hold all of a part, for a figure of two digits.
const wholly = 5

type gaussPart struct{ w, mean, sd float64 }

func mixture(parts []gaussPart) Band90 {
	if len(parts) == 0 {
		return Band90{}
	}
	tot := 0.0
	lo, hi := math.Inf(1), math.Inf(-1)
	for _, p := range parts {
		tot += p.w
		lo, hi = math.Min(lo, p.mean-4*p.sd), math.Max(hi, p.mean+4*p.sd)
	}
	live := make([]gaussPart, len(parts))
	q := func(f float64) float64 {
		a, b := lo, hi
		// Parts that lie whole on one side of what is still searched count fully or not at all.
		live, below := live[:copy(live, parts)], 0.0
		for range 22 {
			m := (a + b) / 2
			s, n := below, 0
			for _, p := range live {
				sd := math.Max(p.sd, 1e-6)
				switch {
				case p.mean+wholly*sd < a:
					below += p.w
					s += p.w
					continue
				case p.mean-wholly*sd > b:
					continue
				}
				live[n] = p
				n++
				s += p.w * normCDF((m-p.mean)/sd)
			}
			if live = live[:n]; s < f*tot {
				a = m
			} else {
				b = m
			}
		}
		return (a + b) / 2
	}
	return Band90{q(0.05), q(0.5), q(0.95)}
}

// projectRow is project for a float32 row around a mean; a cell that was moved
// stands at its own best values already.
func (c *scored) projectRow(row []float32, mean float64) (float64, float64) {
	j := make([]float64, len(row))
	for i, x := range row {
		j[i] = float64(x)
	}
	m, v := c.project(j)
	if c.theta == nil {
		mean += m
	}
	return mean, v
}

// nodeBand is the posterior band of a node's voltage, or of the voltage between
// two nodes when b >= 0.
func (op *Opinion) nodeBand(views []cellView, state, n, b int, s *solver) (Band90, bool) {
	a := op.a
	g := max(a.C.NodeIndex(circuit.Ground), 0)
	loose := 0.0
	parts := make([]gaussPart, 0, len(views))
	for i := range views {
		l := a.viewAt(&views[i], state, s)
		row := slices.Clone(l.jv[n*a.q : (n+1)*a.q])
		mean := float64(l.v[n])
		if b >= 0 {
			mean -= float64(l.v[b])
			for k, x := range l.jv[b*a.q : (b+1)*a.q] {
				row[k] -= x
			}
		} else if l.isle[n] != l.isle[g] {
			loose += views[i].w
		}
		m, v := views[i].sc.projectRow(row, mean)
		parts = append(parts, gaussPart{views[i].w, m, math.Sqrt(v)})
	}
	return mixture(parts), loose > 0.5
}

// allowed is a station's allowed drop at the current that flows: the limits of
// the trade hold at normal current and shrink with it.
func (a *Adviser) allowed(x *circuit.Station, op *Opinion, views []cellView, state int, s *solver) float64 {
	if x.AllowedDrop == 0 {
		return 0
	}
	k := a.C.StationIndex(x.ID)
	amps := 0.0
	for i := range views {
		amps += views[i].w * math.Abs(float64(a.viewAt(&views[i], state, s).i[k]))
	}
	share := amps / math.Max(a.Model.Normal[k], 1e-6)
	return sigV(x.AllowedDrop * math.Min(math.Max(share, 0), 1))
}

// measuredNodes finds nodes whose voltage against bat_neg is known from
// readings in a state, directly or by adding drops.
func (op *Opinion) measuredNodes(state string) map[string]float64 {
	type edge struct {
		from, to string
		v        float64
	}
	var edges []edge
	for i := range op.job.Evidence {
		e := &op.job.Evidence[i]
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

func (op *Opinion) measuredAcross(state, from, to string, nodes map[string]float64) *float64 {
	for i := len(op.job.Evidence) - 1; i >= 0; i-- {
		e := &op.job.Evidence[i]
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

// Rivals lists the explanations worth showing as suspects: one part at fault, or two
// together said as two, or nothing; each with the piece of evidence that accuses it most and
// the one that clears it most. Their probabilities add up to 1: what is not shown by itself
// stands together at the end.
func (op *Opinion) Rivals(n int) []Rival {
	by := map[string]*Rival{}
	lead := map[string]int{} // the likeliest diagnosis of each
	for d, w := range op.post.diag {
		var stations []string
		for _, f := range op.a.diags[d].faults {
			stations = append(stations, f.Station)
		}
		slices.Sort(stations)
		stations = slices.Compact(stations)
		k := strings.Join(stations, "+")
		if by[k] == nil {
			by[k] = &Rival{Stations: append([]string{}, stations...)}
			lead[k] = d
		}
		by[k].Probability += w
		if w > op.post.diag[lead[k]] {
			lead[k] = d
		}
	}
	part := map[string]float64{}
	for _, s := range op.Stations {
		part[s.Station] = s.Probability
	}
	out := []Rival{}
	for _, k := range slices.Sorted(maps.Keys(by)) {
		r := by[k]
		op.accused(r, op.a.diags[lead[k]].faults, part)
		out = append(out, *r)
	}
	sort.SliceStable(out, func(i, k int) bool { return out[i].Probability > out[k].Probability })
	shown := 0.0
	if len(out) > n {
		out = out[:n]
	}
	for i := range out {
		out[i].Probability = round(out[i].Probability)
		shown += out[i].Probability
	}
	if rest := round(1 - shown); rest > 0.0005 {
		out = append(out, Rival{Stations: []string{}, Label: "Anything else", Fault: "Anything else", Probability: rest, Rest: true})
	}
	return out
}

// accused fills in how an explanation reads, and what speaks on it.
func (op *Opinion) accused(r *Rival, faults []fault.Fault, part map[string]float64) {
	if len(faults) == 0 {
		r.Label, r.Fault = "Nothing wrong", "Nothing wrong"
	}
	var labels, says, names []string
	for _, f := range faults {
		label := op.a.C.Station(f.Station).Label
		if r.Station == "" || part[f.Station] > part[r.Station] {
			r.Station = f.Station
		}
		if len(labels) > 0 {
			label = phrase.Lower(label)
		}
		labels, says, names = append(labels, label), append(says, label+": "+fault.Label(f.Mode)), append(names, f.String())
	}
	if len(faults) > 0 {
		r.Label, r.Fault = strings.Join(labels, " and "), strings.Join(says, ", and the ")
		// The part by itself and with others: where that is another figure.
		if t := part[r.Station]; t > r.Probability+0.02 {
			r.Total = t
		}
	}
	key := "none"
	if len(names) > 0 {
		key = strings.Join(names, "+")
	}
	for _, e := range op.Evidence {
		if b, ok := e.Bits[key]; ok {
			if b > r.ForBits {
				r.ForBits, r.For = b, e.Index
			}
			if b < r.AgainstBits {
				r.AgainstBits, r.Against = b, e.Index
			}
		}
	}
}

// Rival is one suspect: an explanation of what was read.
type Rival struct {
	Station     string   `json:"station"` // the part most likely at fault in it; "" for none
	Stations    []string `json:"stations"`
	Label       string   `json:"label"`
	Fault       string   `json:"fault"`
	Probability float64  `json:"probability"`
	Total       float64  `json:"total,omitempty"` // of its part, alone or with others, where that differs
	Rest        bool     `json:"rest,omitempty"`  // all that is not shown by itself
	For         int      `json:"for,omitempty"`   // evidence that accuses it most, 1-based
	ForBits     float64  `json:"for_bits,omitempty"`
	Against     int      `json:"against,omitempty"` // evidence that clears it most
	AgainstBits float64  `json:"against_bits,omitempty"`
}

// Preview says how a reading that is being typed would be understood, before it
// is stored.
type Preview struct {
	Text     string    `json:"text"`
	Value    float64   `json:"value"`
	Over     bool      `json:"over"`
	Low      float64   `json:"low"`
	High     float64   `json:"high"`
	Good     *Range    `json:"good,omitempty"`
	GoodOL   bool      `json:"good_ol,omitempty"`
	Verdict  string    `json:"verdict"` // good, bad, open or unclear
	Warnings []Warning `json:"warnings"`
}

// Preview interprets one checked piece of evidence against the opinion.
func (op *Opinion) Preview(e *casefile.Evidence) Preview {
	a := op.a
	r := a.prepare(e, casefile.MeterFor(e, op.job.Instruments), 0)
	lim := r.acc.Limit(r.value)
	p := Preview{Text: e.Reading.String(e.Measure), Value: r.value, Over: r.over, Low: r.value - lim, High: r.value + lim, Verdict: "unclear", Warnings: []Warning{}}
	m, sd, open := a.healthyView(op.post).expect(&r)
	p.GoodOL = open
	switch {
	case open && r.over:
		p.Verdict = "good"
	case open:
		p.Verdict = "bad"
	case r.over:
		p.Verdict = "bad"
	default:
		lo, hi := m-1.645*sd, m+1.645*sd
		p.Good = new(a.possible(e.Measure, lo, hi, direction(e.Measure, m)))
		p.Verdict = "good"
		if p.High < lo || p.Low > hi {
			p.Verdict = "bad"
		}
	}
	add := func(code, says string) { p.Warnings = append(p.Warnings, Warning{Code: code, Says: says}) }
	if !r.over && e.Measure == unit.Resistance && r.acc.CannotTell(r.value) {
		if open && r.value == 0 {
			add("zero_or_ol", "Did the display show 0 or OL? A good circuit shows OL here.")
		} else {
			add("below_meter_resolution", "Under three counts: this meter cannot tell this from a short. Volts under load can.")
		}
	}
	if e.Measure == unit.Voltage && p.Verdict == "good" && !a.carries(e) {
		add("decides_nothing", "No current flows there in this state: full volts prove nothing.")
	}
	if says := a.tooCoarse(e, lim, p.Good); says != "" && !r.over {
		add("too_coarse", says)
	}
	if p.Verdict == "bad" && !r.over && !open {
		for _, slip := range []struct {
			f    float64
			what string
		}{{1e-3, "milli"}, {1e3, "kilo"}} {
			if v := r.value * slip.f; p.Good != nil && v >= p.Good.Low && v <= p.Good.High && math.Abs(v) > 3*r.acc.Count(v) {
				add("unit_slip", fmt.Sprintf("Was that %s? Read as %s it would fit a good circuit.", slip.what, unit.Format(v, e.Measure)))
			}
		}
		if v := -r.value; e.Measure == unit.Voltage && p.Good != nil && v >= p.Good.Low && v <= p.Good.High && math.Abs(v) > 0.05 {
			add("swapped_leads", "The sign is the other way round: were the leads swapped?")
		}
	}
	return p
}

// tooCoarse says that a meter's range cannot decide here: it may be off by more
// than half of what is allowed across a station, or of the current a good circuit
// passes.
func (a *Adviser) tooCoarse(e *casefile.Evidence, lim float64, good *Range) string {
	switch e.Measure {
	case unit.Voltage:
		if on := a.between(e.State, e.From, e.To); len(on) == 1 {
			if allowed := a.C.Station(on[0]).AllowedDrop; allowed > 0 && lim > allowed/2 {
				return fmt.Sprintf("This range may be off by %s, where %s is allowed: take a finer one.", unit.Format(lim, e.Measure), unit.Format(allowed, e.Measure))
			}
		}
	case unit.Current:
		if good != nil && lim > math.Abs(good.Low+good.High)/4 && good.High > 0 {
			return fmt.Sprintf("This clamp may be off by %s, where a good circuit passes some %s: it cannot decide. Use a finer one.", unit.Format(lim, e.Measure), unit.Format((good.Low+good.High)/2, e.Measure))
		}
	}
	return ""
}

// carries reports whether a good circuit passes current between the probes.
func (a *Adviser) carries(e *casefile.Evidence) bool {
	w := a.Net.NewWork()
	w.Solve(a.Net.StatePos(e.State), a.theta, a.Net.SoundAll())
	for _, id := range a.between(e.State, e.From, e.To) {
		k := a.C.StationIndex(id)
		if math.Abs(w.I[k]) > 0.02*math.Max(a.Model.Normal[k], 1e-3) {
			return true
		}
	}
	return false
}
