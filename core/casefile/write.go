package casefile

import (
	"encoding/json"
	"io"
	"maps"
	"slices"
	"strconv"

	"corriente/core/meter"
)

// Write writes a case as Read reads it.
func (c *Case) Write(w io.Writer) error {
	out := ordered{}
	out.add("format", Format)
	if c.Inline {
		out.add("circuit", c.Circuit)
	} else {
		out.add("circuit", c.CircuitID)
	}
	if c.NominalVoltage > 0 {
		out.add("nominal_voltage", c.NominalVoltage)
	}
	out.add("ambient_c", c.AmbientC)
	if len(c.Parameters) > 0 {
		ps := ordered{}
		for _, g := range c.Parameters {
			switch {
			case g.Word != "":
				ps.add(g.Name, g.Word)
			case g.Percent > 0:
				ps.add(g.Name, map[string]float64{"value": g.Value, "percent": g.Percent})
			default:
				ps.add(g.Name, g.Value)
			}
		}
		out.add("parameters", ps)
	}
	if len(c.Specifications) > 0 {
		var l []ordered
		for _, s := range c.Specifications {
			o := ordered{}
			o.add("measure", s.Measure)
			o.add("state", s.State)
			o.add("from", s.From)
			o.add("to", s.To)
			o.add("low", s.Low.Original)
			o.add("high", s.High.Original)
			l = append(l, o)
		}
		out.add("specifications", l)
	}
	if len(c.Instruments) > 0 {
		is := ordered{}
		for _, n := range slices.Sorted(maps.Keys(c.Instruments)) {
			in := c.Instruments[n]
			if in.InputResistance == meter.DefaultInput {
				in.InputResistance = 0
			}
			is.add(n, in)
		}
		out.add("instruments", is)
	}
	if len(c.AccessMinutes) > 0 {
		out.add("access_minutes", c.AccessMinutes)
	}
	if c.Intermittent {
		out.add("complaint", map[string]bool{"intermittent": true})
	}
	if len(c.Codes) > 0 {
		codes := ordered{}
		for _, k := range slices.Sorted(maps.Keys(c.Codes)) {
			codes.add(strconv.Itoa(k), c.Codes[k])
		}
		out.add("codes", codes)
	}
	if !c.Known.IsZero() {
		out.add("known", c.Known)
	}
	if len(c.Repairs) > 0 {
		out.add("repairs", c.Repairs)
	}
	if c.Job != nil {
		out.add("job", c.Job)
	}
	ev := []ordered{}
	for i := range c.Evidence {
		ev = append(ev, c.Evidence[i].ordered())
	}
	out.add("evidence", ev)
	enc := json.NewEncoder(w)
	enc.SetEscapeHTML(false)
	enc.SetIndent("", "  ")
	return enc.Encode(out)
}

func (e *Evidence) ordered() ordered {
	o := ordered{}
	for _, f := range [...]struct{ k, v string }{{"id", e.ID}, {"measure", string(e.Measure)}, {"observe", e.Observe}, {"state", e.State},
		{"from", e.From}, {"to", e.To}, {"through", e.Through}, {"value", e.Value}, {"outcome", e.Outcome}, {"instrument", e.Instrument},
		{"leads", e.Leads}, {"uncertainty", e.Uncertainty}, {"condition", e.Condition}, {"symptom", e.Symptom}, {"taken_at", e.TakenAt}} {
		if f.v != "" {
			o.add(f.k, f.v)
		}
	}
	if e.Struck {
		o.add("struck", true)
	}
	return o
}

// ordered is a JSON object whose fields keep the order they were added in.
type ordered struct {
	keys []string
	vals []any
}

func (o *ordered) add(k string, v any) {
	o.keys = append(o.keys, k)
	o.vals = append(o.vals, v)
}

// MarshalJSON writes the fields in order.
func (o ordered) MarshalJSON() ([]byte, error) {
	b := []byte{'{'}
	for i, k := range o.keys {
		if i > 0 {
			b = append(b, ',')
		}
		kb, err := json.Marshal(k)
		if err != nil {
			return nil, err
		}
		vb, err := json.Marshal(o.vals[i])
		if err != nil {
			return nil, err
		}
		b = append(append(append(b, kb...), ':'), vb...)
	}
	return append(b, '}'), nil
}
