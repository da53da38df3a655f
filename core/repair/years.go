package repair

// OverYears is what the plans worth comparing cost in all, on average, by how long the machine
// stays: the work itself, its not curing, and its failures in that time.
type OverYears struct {
	Years []float64   `json:"years" doc:"how long the machine stays, rising"`
	Plans []PlanYears `json:"plans" doc:"the cheapest first, as they stand among the options"`
}

// PlanYears is one plan's cost for each of the times.
type PlanYears struct {
	ID    string    `json:"id"`
	Label string    `json:"label"`
	Costs []float64 `json:"costs"`
}

// horizons are the times shown, as shares of how long the machine is to stay.
var horizons = [...]float64{0.1, 0.25, 0.5, 0.75, 1, 1.25, 1.5, 2}

// How many plans are drawn beside each other, and the longest time, years.
const (
	mostDrawn    = 4
	longestYears = 100
)

// overYears works it out for the plans that may be chosen: neither leaving it nor reading on, and
// nothing that is ruled out.
func (st *story) overYears(options []Option) *OverYears {
	v := &OverYears{Plans: []PlanYears{}}
	for _, h := range horizons {
		if y := h * st.t.Years; y <= longestYears {
			v.Years = append(v.Years, y)
		}
	}
	for _, o := range options {
		if o.ID == "leave" || o.ID == "reading" || o.Veto != nil && !o.Veto.SetAside || o.Against != "" || len(v.Plans) == mostDrawn {
			continue
		}
		p := PlanYears{ID: o.ID, Label: o.Label}
		for _, y := range v.Years {
			t := st.t
			t.Years = y
			p.Costs = append(p.Costs, st.under(t).cost(o))
		}
		v.Plans = append(v.Plans, p)
	}
	return v
}
