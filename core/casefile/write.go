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
	out.addIf(c.NominalVoltage > 0, "nominal_voltage", c.NominalVoltage)
	out.add("ambient_c", c.AmbientC)
	out.addIf(len(c.Parameters) > 0, "parameters", c.parameters())
	out.addIf(len(c.Specifications) > 0, "specifications", c.specifications())
	out.addIf(len(c.Instruments) > 0, "instruments", c.instruments())
	out.addIf(len(c.AccessMinutes) > 0, "access_minutes", c.AccessMinutes)
	out.addIf(c.Intermittent, "complaint", map[string]bool{"intermittent": true})
	out.addIf(len(c.Codes) > 0, "codes", c.codes())
	out.addIf(!c.Known.IsZero(), "known", c.Known)
	out.addIf(len(c.Repairs) > 0, "repairs", c.Repairs)
	out.addIf(c.Job != nil, "job", c.Job)
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

func (c *Case) parameters() (o ordered) {
	for _, g := range c.Parameters {
		switch {
		case g.Word != "":
			o.add(g.Name, g.Word)
		case g.Percent > 0:
			o.add(g.Name, map[string]float64{"value": g.Value, "percent": g.Percent})
		default:
			o.add(g.Name, g.Value)
		}
	}
	return o
}

func (c *Case) specifications() (l []ordered) {
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
	return l
}

func (c *Case) instruments() (o ordered) {
	for _, n := range slices.Sorted(maps.Keys(c.Instruments)) {
		in := c.Instruments[n]
		if in.InputResistance == meter.DefaultInput {
			in.InputResistance = 0
		}
		o.add(n, in)
	}
	return o
}

func (c *Case) codes() (o ordered) {
	for _, k := range slices.Sorted(maps.Keys(c.Codes)) {
		o.add(strconv.Itoa(k), c.Codes[k])
	}
	return o
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

// addIf adds a field where there is something to say.
func (o *ordered) addIf(said bool, k string, v any) {
	if said {
		o.add(k, v)
	}
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
