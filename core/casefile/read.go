package casefile

import (
	"bytes"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"maps"
	"math"
	"slices"
	"strconv"
	"strings"

	"corriente/core/circuit"
	"corriente/core/conductor"
	"corriente/core/meter"
	"corriente/core/unit"
)

// MaxBytes is the largest case file that is read.
const MaxBytes = 8 << 20

// MaxEvidence is the most evidence one case may carry.
const MaxEvidence = 500

// Read decodes and checks a case file. The error is always a *[Problem].
func Read(r io.Reader) (*Case, error) {
	b, err := io.ReadAll(io.LimitReader(r, MaxBytes+1))
	if err != nil {
		return nil, problem("", "the file cannot be read: %v", err)
	}
	if len(b) > MaxBytes {
		return nil, problem("", "the file is larger than %d MiB: a case is text, put photos elsewhere", MaxBytes>>20)
	}
	b = bytes.TrimPrefix(b, []byte("\xef\xbb\xbf"))
	d := json.NewDecoder(bytes.NewReader(b))
	d.UseNumber()
	var raw any
	if err := d.Decode(&raw); err != nil {
		return nil, syntax(b, err)
	}
	if d.More() {
		return nil, problem(place(b, int(d.InputOffset())+1), "there is more after the end of the case: one file holds one case")
	}
	o := &object{}
	if p := o.from("", raw); p != nil {
		return nil, p
	}
	c := &Case{Instruments: map[string]meter.Instrument{}, AccessMinutes: map[string]float64{}, AmbientC: 20}
	if p := c.read(o); p != nil {
		return nil, p
	}
	return c, nil
}

func place(b []byte, off int) string {
	off = min(max(off, 0), len(b))
	head := b[:off]
	line := 1 + bytes.Count(head, []byte("\n"))
	col := len([]rune(string(head[bytes.LastIndexByte(head, '\n')+1:])))
	return fmt.Sprintf("line %d, column %d", line, max(col, 1))
}

func syntax(b []byte, err error) *Problem {
	var se *json.SyntaxError
	if errors.As(err, &se) {
		return problem(place(b, int(se.Offset)), "this is not JSON (%s): mend it there", strings.TrimPrefix(se.Error(), "json: "))
	}
	if len(bytes.TrimSpace(b)) == 0 {
		return problem("line 1, column 1", "the file is empty: a case needs format, circuit and evidence")
	}
	return problem(place(b, len(b)), "the file ends in the middle: it was cut short; copy it again")
}

// object walks one JSON object and remembers which fields were asked for, so
// that what is left over is an error.
type object struct {
	ptr  string
	m    map[string]any
	used map[string]bool
}

func (o *object) from(ptr string, v any) *Problem {
	m, ok := v.(map[string]any)
	if !ok {
		return problem(ptr, "an object in braces is expected here")
	}
	o.ptr, o.m, o.used = ptr, m, map[string]bool{}
	return nil
}

func (o *object) get(key string) (any, bool) {
	o.used[key] = true
	v, ok := o.m[key]
	return v, ok
}

func (o *object) str(key string, dst *string) *Problem {
	v, ok := o.get(key)
	if !ok {
		return nil
	}
	s, ok := v.(string)
	if !ok {
		return problem(o.ptr+"/"+key, "text in quotes is expected here")
	}
	if len(s) > 4000 {
		return problem(o.ptr+"/"+key, "this text is too long")
	}
	*dst = s
	return nil
}

// text takes a string or a number, as a value may be written.
func (o *object) text(key string, dst *string) *Problem {
	if n, ok := o.m[key].(json.Number); ok {
		o.used[key] = true
		*dst = n.String()
		return nil
	}
	return o.str(key, dst)
}

func number(ptr string, v any) (float64, *Problem) {
	n, ok := v.(json.Number)
	if !ok {
		return 0, problem(ptr, "a number is expected here")
	}
	f, err := n.Float64()
	if err != nil || math.IsInf(f, 0) {
		return 0, problem(ptr, "%s is not a number that can be used", n)
	}
	return f, nil
}

func (o *object) num(key string, dst *float64) *Problem {
	v, ok := o.get(key)
	if !ok {
		return nil
	}
	f, p := number(o.ptr+"/"+key, v)
	if p == nil {
		*dst = f
	}
	return p
}

func (o *object) flag(key string, dst *bool) *Problem {
	v, ok := o.get(key)
	if !ok {
		return nil
	}
	b, ok := v.(bool)
	if !ok {
		return problem(o.ptr+"/"+key, "true or false is expected here")
	}
	*dst = b
	return nil
}

func (o *object) list(key string) ([]any, *Problem) {
	v, ok := o.get(key)
	if !ok {
		return nil, nil
	}
	l, ok := v.([]any)
	if !ok {
		return nil, problem(o.ptr+"/"+key, "a list in brackets is expected here")
	}
	return l, nil
}

func (o *object) sub(key string) (*object, *Problem) {
	v, ok := o.get(key)
	if !ok {
		return nil, nil
	}
	s := &object{}
	return s, s.from(o.ptr+"/"+escape(key), v)
}

// rest refuses fields that nobody asked for.
func (o *object) rest() *Problem {
	for _, k := range slices.Sorted(maps.Keys(o.m)) {
		if !o.used[k] {
			return problem(o.ptr+"/"+escape(k), "there is no field %q here%s; the fields are %s", k,
				near(k, slices.Sorted(maps.Keys(o.used))), strings.Join(slices.Sorted(maps.Keys(o.used)), ", "))
		}
	}
	return nil
}

func escape(s string) string {
	return strings.NewReplacer("~", "~0", "/", "~1").Replace(s)
}

func first(ps ...*Problem) *Problem {
	for _, p := range ps {
		if p != nil {
			return p
		}
	}
	return nil
}

func (c *Case) read(o *object) *Problem {
	for _, part := range []func(*object) *Problem{readFormat, c.readCircuit, c.readConditions, c.readParameters,
		c.readInstruments, c.readAccess, c.readSpecifications, c.readCodes, c.readComplaint, c.readKnown, c.readJob,
		c.readAllEvidence, c.readRepairs} {
		if p := part(o); p != nil {
			return p
		}
	}
	return o.rest()
}

func readFormat(o *object) *Problem {
	var format string
	if p := o.str("format", &format); p != nil {
		return p
	}
	switch format {
	case Format:
		return nil
	case "":
		return problem("/format", "is missing: write \"format\": %q", Format)
	}
	return problem("/format", "%q is not read here: this reads %s", format, Format)
}

// readConditions reads the supply's volts and the temperature around the machine.
func (c *Case) readConditions(o *object) *Problem {
	if p := first(o.num("nominal_voltage", &c.NominalVoltage), o.num("ambient_c", &c.AmbientC)); p != nil {
		return p
	}
	if v, ok := o.m["nominal_voltage"]; ok && !(c.NominalVoltage > 0) {
		return problem("/nominal_voltage", "%v V is not a supply: give 6 to 48", v)
	}
	if p := c.setVoltage(); p != nil {
		return p
	}
	if !(c.AmbientC >= -60 && c.AmbientC <= 90) {
		return problem("/ambient_c", "%g °C cannot be: give -60 to 90", c.AmbientC)
	}
	return nil
}

func (c *Case) readComplaint(o *object) *Problem {
	co, p := o.sub("complaint")
	if p != nil || co == nil {
		return p
	}
	return first(co.flag("intermittent", &c.Intermittent), co.rest())
}

func (c *Case) readAllEvidence(o *object) *Problem {
	if _, ok := o.m["evidence"]; !ok {
		return problem("/evidence", "is missing: write \"evidence\": [] when nothing was taken yet")
	}
	l, p := o.list("evidence")
	if p != nil {
		return p
	}
	if len(l) > MaxEvidence {
		return problem("/evidence", "%d pieces of evidence are more than the %d a case may carry", len(l), MaxEvidence)
	}
	for i, v := range l {
		ptr := fmt.Sprintf("/evidence/%d", i)
		e, p := readEvidence(ptr, v)
		if p != nil {
			return p
		}
		if p := e.Check(c.Circuit, c.Instruments); p != nil {
			p.Pointer = ptr + p.Pointer
			return p
		}
		c.Evidence = append(c.Evidence, e)
	}
	return nil
}

// strict decodes one part of the case into v, refusing what v does not have.
func (o *object) strict(key string, v any) (bool, *Problem) {
	raw, ok := o.get(key)
	if !ok {
		return false, nil
	}
	b, err := json.Marshal(raw)
	if err != nil {
		return true, problem(o.ptr+"/"+key, "%v", err)
	}
	d := json.NewDecoder(bytes.NewReader(b))
	d.DisallowUnknownFields()
	if err := d.Decode(v); err != nil {
		return true, problem(o.ptr+"/"+key, "%s", strings.TrimPrefix(err.Error(), "json: "))
	}
	return true, nil
}

func (c *Case) readKnown(o *object) *Problem {
	ok, p := o.strict("known", &c.Known)
	if p == nil && ok {
		if p = c.Known.Check(c.Circuit); p != nil {
			p.Pointer = "/known" + p.Pointer
		}
	}
	return p
}

func (c *Case) readRepairs(o *object) *Problem {
	if _, p := o.strict("repairs", &c.Repairs); p != nil {
		return p
	}
	last := 0
	for i, r := range c.Repairs {
		ptr := fmt.Sprintf("/repairs/%d", i)
		if c.Circuit.Station(r.Station) == nil {
			_, ids, _ := c.Circuit.IDs()
			return problem(ptr+"/station", "circuit %s has no station %q%s; it has %s", c.CircuitID, r.Station,
				near(r.Station, ids), strings.Join(ids, ", "))
		}
		if r.After < last || r.After > len(c.Evidence) {
			return problem(ptr+"/after", "%d does not stand in order: give how many of the %d pieces of evidence "+
				"were taken before the repair", r.After, len(c.Evidence))
		}
		last = r.After
	}
	return nil
}

func (c *Case) readCircuit(o *object) *Problem {
	v, ok := o.get("circuit")
	switch x := v.(type) {
	case string:
		f, err := circuit.Family(x)
		if err != nil {
			return problem("/circuit", "%v%s", err, near(x, circuit.Families()))
		}
		c.CircuitID, c.Circuit = f.ID, f.Clone()
	case map[string]any:
		b, err := json.Marshal(x)
		if err != nil {
			return problem("/circuit", "%v", err)
		}
		cc, err := circuit.Read(bytes.NewReader(b))
		if err != nil {
			var inv *circuit.Invalid
			if errors.As(err, &inv) {
				return problem("/circuit"+inv.Pointer, "%s", inv.What)
			}
			return problem("/circuit", "%v", err)
		}
		c.CircuitID, c.Circuit, c.Inline = cc.ID, cc, true
	default:
		if !ok {
			return problem("/circuit", "is missing: name a family, one of %s", strings.Join(circuit.Families(), ", "))
		}
		return problem("/circuit", "name a family in quotes, or give a whole circuit in braces")
	}
	return nil
}

func (c *Case) setVoltage() *Problem {
	if c.NominalVoltage == 0 {
		c.NominalVoltage = c.Circuit.NominalVoltage
		return nil
	}
	switch v := c.NominalVoltage; {
	case c.Circuit.Mains && v > 250: // of mains parts only dead tests are asked, and those of a household's
		return problem("/nominal_voltage", "%g V is above 250 V AC: stop, that is work for people licensed for it", v)
	case !c.Circuit.Mains && v > 60:
		return problem("/nominal_voltage", "%g V is above 60 V DC: stop, that is work for people licensed for it", v)
	}
	c.Circuit.ScaleTo(c.NominalVoltage)
	return nil
}

func (c *Case) readParameters(o *object) *Problem {
	po, p := o.sub("parameters")
	if p != nil || po == nil {
		return p
	}
	wires := map[string]*wireSize{}
	for _, name := range slices.Sorted(maps.Keys(po.m)) {
		ptr := po.ptr + "/" + escape(name)
		v, _ := po.get(name)
		g, p := c.readGiven(name, ptr, v)
		if p != nil {
			return p
		}
		c.Parameters = append(c.Parameters, g)
		if g.Word != "" {
			continue
		}
		station, param, _ := strings.Cut(name, ".")
		if c.Circuit.Station(station).Kind == circuit.Wire && isSize(param) {
			if wires[station] == nil {
				wires[station] = &wireSize{celsius: c.AmbientC, percent: g.Percent}
			}
			wires[station].set(param, g.Value)
			continue
		}
		if err := c.Circuit.SetParam(station, param, known(param, g)); err != nil {
			return problem(ptr, "%v", err)
		}
	}
	for _, station := range slices.Sorted(maps.Keys(wires)) {
		if p := c.setWire(station, po.ptr+"/"+station, wires[station]); p != nil {
			return p
		}
	}
	return nil
}

// readGiven reads one parameter: a number, a number with how well it is known, or a word for what has variants.
func (c *Case) readGiven(name, ptr string, v any) (g Given, p *Problem) {
	g.Name = name
	if variants, ok := c.Circuit.Variants[name]; ok {
		if g.Word, ok = v.(string); !ok {
			return g, problem(ptr, "a word in quotes is expected here: %s", strings.Join(slices.Sorted(maps.Keys(variants)), ", "))
		}
		if err := c.Circuit.SetVariant(name, g.Word); err != nil {
			return g, problem(ptr, "%v", err)
		}
		return g, nil
	}
	station, param, ok := strings.Cut(name, ".")
	s := c.Circuit.Station(station)
	if !ok || s == nil {
		_, ids, _ := c.Circuit.IDs()
		return g, problem(ptr, "%q is not station.parameter of circuit %s%s; its stations are %s", name, c.CircuitID,
			near(station, ids), strings.Join(ids, ", "))
	}
	switch x := v.(type) {
	case string:
		g.Word = x
		return g, setWord(s, param, x, ptr)
	case map[string]any:
		return g, g.from(ptr, x)
	}
	g.Value, p = number(ptr, v)
	return g, p
}

// from reads a value with how well it is known.
func (g *Given) from(ptr string, x map[string]any) *Problem {
	vo := &object{}
	if p := first(vo.from(ptr, x), vo.num("value", &g.Value), vo.num("percent", &g.Percent), vo.rest()); p != nil {
		return p
	}
	if _, ok := x["value"]; !ok {
		return problem(ptr+"/value", "is missing")
	}
	if pc, ok := x["percent"]; ok && !(g.Percent > 0 && g.Percent <= 200) {
		return problem(ptr+"/percent", "%v %% cannot be: give above 0 and up to 200", pc)
	}
	return nil
}

// wireSize is a wire given by its size instead of its resistance.
type wireSize struct {
	area, length *float64 // mm², m; nil: not given
	celsius      float64  // °C
	percent      float64  // how well it is known
}

func isSize(param string) bool {
	return param == "area_mm2" || param == "length_m" || param == "temperature_c"
}

func (w *wireSize) set(param string, v float64) {
	switch param {
	case "area_mm2":
		w.area = &v
	case "length_m":
		w.length = &v
	default:
		w.celsius = v
	}
}

// setWire gives a wire the resistance of its size.
func (c *Case) setWire(station, ptr string, w *wireSize) *Problem {
	if w.area == nil {
		return problem(ptr+".area_mm2", "is missing: a wire's resistance needs area_mm2 and length_m")
	}
	if w.length == nil {
		return problem(ptr+".length_m", "is missing: a wire's resistance needs area_mm2 and length_m")
	}
	r, err := conductor.Resistance(*w.area, *w.length, w.celsius)
	if err == nil {
		err = c.Circuit.SetParam(station, "resistance", known("resistance", Given{Value: r, Percent: math.Max(w.percent, 10)}))
	}
	if err != nil {
		return problem(ptr+".area_mm2", "%v", err)
	}
	return nil
}

// known turns a given value into a parameter with its uncertainty: within 5 %,
// a battery's EMF within 0.06 V, or as the case says.
func known(param string, g Given) circuit.Param {
	p := circuit.Param{Value: g.Value}
	switch {
	case param == "emf" && g.Percent == 0:
		p.SD = 0.06
	case param == "emf" || param == "surface_charge" || param == "brush_drop" && g.Value == 0:
		p.SD = math.Abs(g.Value) * g.Percent / 100
	case g.Percent > 0:
		p.Spread = g.Percent / 100
	default:
		p.Spread = 0.05
	}
	return p
}

func setWord(s *circuit.Station, param, word, ptr string) *Problem {
	var allowed []string
	var dst *string
	switch {
	case s.Kind == circuit.Motor && param == "load_law":
		allowed, dst = []string{"constant", "linear", "square"}, &s.LoadLaw
	case s.Kind == circuit.Motor && param == "excitation":
		allowed, dst = []string{"permanent_magnet", "series"}, &s.Excitation
	default:
		return problem(ptr, "a number is expected here, in SI units")
	}
	if !slices.Contains(allowed, word) {
		return problem(ptr, "%q is not one of %s", word, strings.Join(allowed, ", "))
	}
	*dst = word
	return nil
}

func (c *Case) readInstruments(o *object) *Problem {
	io, p := o.sub("instruments")
	if p != nil || io == nil {
		return p
	}
	for _, name := range slices.Sorted(maps.Keys(io.m)) {
		mo, p := io.sub(name)
		if p != nil {
			return p
		}
		in := meter.Instrument{Name: name}
		var kind string
		if p := first(mo.str("kind", &kind), mo.num("input_resistance", &in.InputResistance)); p != nil {
			return p
		}
		in.Kind = meter.Kind(kind)
		if in.Kind != meter.Multimeter && in.Kind != meter.DCClamp {
			return problem(mo.ptr+"/kind", "%q is not a kind of instrument: use multimeter or dc_clamp", kind)
		}
		for _, f := range []struct {
			key string
			dst **meter.Accuracy
		}{{"dc_voltage", &in.DCVoltage}, {"dc_current", &in.DCCurrent}, {"resistance", &in.Resistance},
			{"ac_voltage", &in.ACVoltage}, {"capacitance", &in.Capacitance}, {"frequency", &in.Frequency}} {
			ao, p := mo.sub(f.key)
			if p != nil {
				return p
			}
			if ao == nil {
				continue
			}
			a := &meter.Accuracy{}
			if p := first(ao.num("percent", &a.Percent), ao.num("counts", &a.Counts), ao.num("resolution", &a.Resolution)); p != nil {
				return p
			}
			rs, p := ao.list("ranges")
			if p != nil {
				return p
			}
			for i, v := range rs {
				x, p := number(fmt.Sprintf("%s/ranges/%d", ao.ptr, i), v)
				if p != nil {
					return p
				}
				if !(x > 0) || len(a.Ranges) > 0 && x <= a.Ranges[len(a.Ranges)-1] {
					return problem(fmt.Sprintf("%s/ranges/%d", ao.ptr, i), "ranges rise from small to large, each above zero")
				}
				a.Ranges = append(a.Ranges, x)
			}
			if p := ao.rest(); p != nil {
				return p
			}
			switch {
			case !(a.Resolution > 0):
				return problem(ao.ptr+"/resolution", "is missing or not above zero: give the size of one count")
			case a.Percent < 0 || a.Percent > 50:
				return problem(ao.ptr+"/percent", "%g %% is not an accuracy: give 0 to 50", a.Percent)
			case a.Counts < 0 || a.Counts > 1000:
				return problem(ao.ptr+"/counts", "%g counts is not an accuracy: give 0 to 1000", a.Counts)
			}
			*f.dst = a
		}
		if p := mo.rest(); p != nil {
			return p
		}
		c.Instruments[name] = in
	}
	return nil
}

func (c *Case) readAccess(o *object) *Problem {
	ao, p := o.sub("access_minutes")
	if p != nil || ao == nil {
		return p
	}
	for _, k := range slices.Sorted(maps.Keys(ao.m)) {
		v, _ := ao.get(k)
		if !slices.Contains(circuit.AccessGroups(), k) {
			return problem(ao.ptr+"/"+escape(k), "there is no access group %q%s; the groups are %s", k,
				near(k, circuit.AccessGroups()), strings.Join(circuit.AccessGroups(), ", "))
		}
		x, p := number(ao.ptr+"/"+k, v)
		if p != nil {
			return p
		}
		if !(x >= 0 && x <= 10000) {
			return problem(ao.ptr+"/"+k, "%g minutes cannot be: give 0 to 10000", x)
		}
		c.AccessMinutes[k] = x
		c.Circuit.AccessMinutes[k] = x
	}
	return nil
}

func (c *Case) readSpecifications(o *object) *Problem {
	l, p := o.list("specifications")
	if p != nil {
		return p
	}
	for i, v := range l {
		so, ptr := &object{}, fmt.Sprintf("/specifications/%d", i)
		var measure, low, high string
		var s Specification
		if p := so.from(ptr, v); p != nil {
			return p
		}
		if p := first(so.str("measure", &measure), so.str("state", &s.State), so.str("from", &s.From), so.str("to", &s.To),
			so.text("low", &low), so.text("high", &high), so.rest()); p != nil {
			return p
		}
		s.Measure = unit.Measure(measure)
		if !s.Measure.Valid() {
			return problem(ptr+"/measure", "%q is not a measure", measure)
		}
		if s.State == "" {
			only, p := onlyState(c.Circuit, s.Measure)
			if p != nil {
				return problem(ptr+p.Pointer, "%s", p.What)
			}
			s.State = only
		}
		if c.Circuit.State(s.State) == nil {
			return problem(ptr+"/state", "circuit %s has no state %q", c.CircuitID, s.State)
		}
		for _, f := range [2]struct{ k, id string }{{"from", s.From}, {"to", s.To}} {
			if c.Circuit.Node(f.id) == nil {
				return problem(ptr+"/"+f.k, "circuit %s has no node %q", c.CircuitID, f.id)
			}
		}
		var err error
		if s.Low, err = unit.Parse(low, s.Measure); err != nil {
			return problem(ptr+"/low", "%v", err)
		}
		if s.High, err = unit.Parse(high, s.Measure); err != nil {
			return problem(ptr+"/high", "%v", err)
		}
		if s.Low.Value > s.High.Value && !s.High.Over {
			return problem(ptr+"/low", "the low limit %s stands above the high one %s", low, high)
		}
		c.Specifications = append(c.Specifications, s)
	}
	c.applySpecifications()
	return nil
}

func (c *Case) readCodes(o *object) *Problem {
	co, p := o.sub("codes")
	if p != nil || co == nil {
		return p
	}
	c.Codes = map[int][]string{}
	for _, k := range slices.Sorted(maps.Keys(co.m)) {
		n, err := strconv.Atoi(k)
		if err != nil || n < 0 || n > 99 {
			return problem(co.ptr+"/"+escape(k), "%q is not a blink code: use a whole number", k)
		}
		l, p := co.list(k)
		if p != nil {
			return p
		}
		for i, v := range l {
			s, ok := v.(string)
			if !ok {
				return problem(fmt.Sprintf("%s/%s/%d", co.ptr, k, i), "a fault in quotes is expected here, such as motor.brushes_worn")
			}
			station, mode, _ := strings.Cut(s, ".")
			if st := c.Circuit.Station(station); st == nil || !slices.Contains(circuit.KindModes(st.Kind), mode) {
				return problem(fmt.Sprintf("%s/%s/%d", co.ptr, k, i),
					"circuit %s has no fault %q: write station.mode, such as motor.brushes_worn", c.CircuitID, s)
			}
			c.Codes[n] = append(c.Codes[n], s)
		}
	}
	return nil
}

func (c *Case) readJob(o *object) *Problem {
	j := &Job{}
	ok, p := o.strict("job", j)
	if ok && p == nil {
		c.Job = j
	}
	return p
}

func readEvidence(ptr string, v any) (Evidence, *Problem) {
	o, e := &object{}, Evidence{}
	if p := o.from(ptr, v); p != nil {
		return e, p
	}
	var measure string
	p := first(o.str("id", &e.ID), o.str("measure", &measure), o.str("observe", &e.Observe), o.str("state", &e.State),
		o.str("from", &e.From), o.str("to", &e.To), o.str("through", &e.Through), o.text("value", &e.Value),
		o.text("outcome", &e.Outcome), o.str("instrument", &e.Instrument), o.text("leads", &e.Leads), o.text("uncertainty", &e.Uncertainty),
		o.str("condition", &e.Condition), o.str("symptom", &e.Symptom), o.str("taken_at", &e.TakenAt),
		o.flag("struck", &e.Struck), o.rest())
	e.Measure = unit.Measure(measure)
	return e, p
}
