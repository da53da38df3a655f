package calc

import (
	"fmt"
	"math"
	"strconv"
	"strings"

	"corriente/core/casefile"
	"corriente/core/circuit"
	"corriente/core/phrase"
	"corriente/core/unit"
)

// Kind is how an input is given.
type Kind string

// The kinds of input.
const (
	Quantity Kind = "quantity" // one value with a unit
	Choice   Kind = "choice"   // one of a list
	List     Kind = "list"     // values one after the other
	Rows     Kind = "rows"     // rows of several values
)

// Word is one choice.
type Word struct {
	ID    string `json:"id"`
	Label string `json:"label"`
}

// Input is one thing a calculator asks for.
type Input struct {
	ID       string   `json:"id"`
	Label    string   `json:"label"`
	Kind     Kind     `json:"kind"`
	Unit     string   `json:"unit,omitempty"` // V, A, Ω, F, Hz, mm, m, mm², °C, %, h, rpm, W
	Columns  []string `json:"columns,omitempty"`
	Choices  []Word   `json:"choices,omitempty"`
	Default  string   `json:"default,omitempty"`
	Optional bool     `json:"optional,omitempty"`
	Hint     string   `json:"hint,omitempty"`
}

// Calculator is one question of the bench.
type Calculator struct {
	ID      string  `json:"id"`
	Group   string  `json:"group"`
	Title   string  `json:"title"`
	Answers string  `json:"answers"`
	Formula string  `json:"formula"`
	Source  string  `json:"source"`
	Caution string  `json:"caution,omitempty"`
	Inputs  []Input `json:"inputs"`

	example example
	run     func(*ask, *Result)
}

// example is a question of a calculator with what its answer says: each has one, and is tried on it.
type example struct {
	in     map[string]string
	says   string // among other words
	judged string
}

// Line is one figure of a result.
type Line struct {
	Label string `json:"label"`
	Text  string `json:"text"` // with its unit and, where there is one, its expanded uncertainty (k = 2)
}

// Way is one school's way of doing it.
type Way struct {
	Way string `json:"way"`
	Why string `json:"why"`
}

// Result is the answer.
type Result struct {
	Says     string              `json:"says"`
	Judged   string              `json:"judged"` // good, near, bad, cannot_tell or none
	Lines    []Line              `json:"lines"`
	Next     string              `json:"next"` // the test that can decide, where this one cannot
	Steps    []string            `json:"steps"`
	Ways     []Way               `json:"ways"`
	Bars     []float64           `json:"bars"` // a pattern to draw, each against the greatest
	Marked   []int               `json:"marked"`
	Evidence []casefile.Evidence `json:"evidence"` // what it would put into the job
	Note     string              `json:"note"`
}

// Problem says which input is wrong and how to mend it.
type Problem struct {
	Input string
	Why   string
}

func (p *Problem) Error() string { return p.Why }

// ask hands a calculator its inputs; the first thing wrong is kept.
type ask struct {
	calc *Calculator
	in   map[string]string
	c    *circuit.Circuit
	part *circuit.Station
	err  *Problem
}

func (a *ask) fail(id, format string, args ...any) {
	if a.err == nil {
		label := id
		for _, i := range a.calc.Inputs {
			if i.ID == id {
				label = i.Label
			}
		}
		a.err = &Problem{id, label + ": " + fmt.Sprintf(format, args...)}
	}
}

// wrong keeps an error of the physics itself.
func (a *ask) wrong(err error) bool {
	if err != nil && a.err == nil {
		text := err.Error()
		a.err = &Problem{"", phrase.Sentence(text)}
	}
	return a.err != nil
}

func (a *ask) input(id string) *Input {
	for i := range a.calc.Inputs {
		if a.calc.Inputs[i].ID == id {
			return &a.calc.Inputs[i]
		}
	}
	return &Input{ID: id}
}

func (a *ask) text(id string) string {
	t := strings.TrimSpace(a.in[id])
	if t == "" {
		t = a.input(id).Default
	}
	return t
}

// has reports whether an input was given.
func (a *ask) has(id string) bool { return a.text(id) != "" }

// num reads an input in the SI unit of its unit: mm become metres, % stay per cent.
func (a *ask) num(id string) float64 {
	in := a.input(id)
	t := a.text(id)
	if t == "" {
		if !in.Optional {
			a.fail(id, "is needed, in %s", unitName(in.Unit))
		}
		return 0
	}
	v, err := Parse(t, in.Unit)
	if err != nil {
		a.fail(id, "%v", err)
	}
	return v
}

func (a *ask) choice(id string) string {
	t := a.text(id)
	for _, w := range a.input(id).Choices {
		if w.ID == t {
			return t
		}
	}
	var words []string
	for _, w := range a.input(id).Choices {
		words = append(words, w.ID)
	}
	a.fail(id, "choose one of %s", strings.Join(words, ", "))
	return ""
}

func (a *ask) list(id string) []float64 {
	in := a.input(id)
	fields := split(a.text(id))
	if len(fields) > 1000 {
		a.fail(id, "more than 1000 values: give one turn")
		return nil
	}
	out := make([]float64, 0, len(fields))
	for i, f := range fields {
		v, err := Parse(f, in.Unit)
		if err != nil {
			a.fail(id, "value %d: %v", i+1, err)
			return nil
		}
		out = append(out, v)
	}
	return out
}

// rows reads lines of as many values as there are columns.
func (a *ask) rows(id string) [][]float64 {
	in := a.input(id)
	var out [][]float64
	for n, line := range strings.FieldsFunc(a.text(id), func(r rune) bool { return r == '\n' || r == ';' }) {
		f := split(line)
		if len(f) == 0 {
			continue
		}
		if len(f) != len(in.Columns) {
			a.fail(id, "line %d has %d values, not %d: %s", n+1, len(f), len(in.Columns), strings.Join(in.Columns, ", "))
			return nil
		}
		row := make([]float64, len(f))
		for i := range f {
			_, u, _ := strings.Cut(in.Columns[i], " in ")
			v, err := Parse(f[i], u)
			if err != nil {
				a.fail(id, "line %d, %s: %v", n+1, in.Columns[i], err)
				return nil
			}
			row[i] = v
		}
		out = append(out, row)
		if len(out) > 500 {
			a.fail(id, "more than 500 lines")
			return nil
		}
	}
	return out
}

// split cuts a line at blanks, tabs and commas that are followed by a blank; a comma
// between digits is a decimal comma.
func split(s string) []string {
	return strings.FieldsFunc(strings.ReplaceAll(s, ", ", " "), func(r rune) bool {
		return r == ' ' || r == '\t' || r == '\n' || r == ';' || r == '\u00a0'
	})
}

func unitName(u string) string {
	if u == "" {
		return "a number"
	}
	return u
}

var measures = map[string]unit.Measure{"V": unit.Voltage, "A": unit.Current, "Ω": unit.Resistance, "F": unit.Capacitance,
	"Hz": unit.Frequency}

// ending is what may stand behind a number: the value is number·factor + offset.
type ending struct {
	text           string
	factor, offset float64
}

// endings lists what may stand behind a number of a unit, a longer one before one that it ends with; a bare number
// has bare's factor.
var endings = map[string]struct {
	bare float64
	ends []ending
}{
	"mm": {1e-3, []ending{{"inch", 25.4e-3, 0}, {"in", 25.4e-3, 0}, {"\"", 25.4e-3, 0}, {"″", 25.4e-3, 0},
		{"mm", 1e-3, 0}, {"um", 1e-6, 0}, {"µm", 1e-6, 0}, {"m", 1, 0}}},
	"m":  {1, []ending{{"mm", 1e-3, 0}, {"cm", 1e-2, 0}, {"ft", 0.3048, 0}, {"'", 0.3048, 0}, {"m", 1, 0}}},
	"°C": {1, []ending{{"°f", 5.0 / 9, -160.0 / 9}, {"f", 5.0 / 9, -160.0 / 9}, {"°c", 1, 0}, {"c", 1, 0}}},
	"mV": {1e-3, []ending{{"mv", 1e-3, 0}, {"v", 1, 0}}}, // a list of drops: a bare number is millivolts
	"h":  {1, []ending{{"hours", 1, 0}, {"hour", 1, 0}, {"h", 1, 0}}},
	"W":  {1, []ending{{"kw", 1000, 0}, {"w", 1, 0}}},
}

// withoutEnding takes what stands behind a number off it, and says how the number becomes a value.
func withoutEnding(low, u string) (number string, e ending) {
	known, ok := endings[u]
	if !ok {
		return strings.TrimSpace(strings.TrimSuffix(low, strings.ToLower(u))), ending{factor: 1}
	}
	for _, e := range known.ends {
		if rest, ok := strings.CutSuffix(low, e.text); ok {
			return strings.TrimSpace(rest), e
		}
	}
	return low, ending{factor: known.bare}
}

// Parse reads a value of a unit as a technician types it. Lengths in mm may be
// given in inches (0.5 in, 1/2"), temperatures in °F (68 F); sizes in mm² as AWG 4. The
// result is SI but for mm² and the plain units %, h, rpm and °C.
func Parse(text, u string) (float64, error) {
	t := strings.TrimSpace(text)
	if m, ok := measures[u]; ok {
		r, err := unit.Parse(t, m)
		if err != nil {
			return 0, err
		}
		if r.Over {
			return math.Inf(1), nil
		}
		return r.Value, nil
	}
	if strings.HasPrefix(u, "V (") { // what a mark or a tester says: nothing is probed at it
		u = "V"
	}
	number, e := withoutEnding(strings.ToLower(strings.ReplaceAll(t, ",", ".")), u)
	if a, b, ok := strings.Cut(number, "/"); ok && u == "mm" {
		x, err1 := strconv.ParseFloat(strings.TrimSpace(a), 64)
		y, err2 := strconv.ParseFloat(strings.TrimSpace(b), 64)
		if err1 == nil && err2 == nil && y > 0 {
			return x / y * e.factor, nil
		}
	}
	v, err := strconv.ParseFloat(number, 64)
	if err != nil || math.IsNaN(v) || math.IsInf(v, 0) {
		return 0, fmt.Errorf("%q is not %s: type a number, such as 12.5", text, unitName(u))
	}
	return v*e.factor + e.offset, nil
}

// Find returns a calculator by id, nil when there is none.
func Find(id string) *Calculator {
	for _, c := range All() {
		if c.ID == id {
			return &c
		}
	}
	return nil
}

// Run answers a calculator's question. c is the job's circuit, nil outside one; part
// is the station it is about, which its evidence will name. A *[Problem] says which
// input is wrong.
func Run(id string, in map[string]string, c *circuit.Circuit, part string) (*Result, error) {
	k := Find(id)
	if k == nil {
		return nil, &Problem{"", fmt.Sprintf("There is no calculator named %q.", id)}
	}
	for name := range in {
		if k.input(name) == nil {
			return nil, &Problem{name, fmt.Sprintf("%s asks for no %q.", k.Title, name)}
		}
	}
	a := &ask{calc: k, in: in, c: c}
	if c != nil && part != "" {
		if a.part = c.Station(part); a.part == nil {
			return nil, &Problem{"part", fmt.Sprintf("circuit %s has no station %q", c.ID, part)}
		}
	}
	r := &Result{Judged: "none", Lines: []Line{}, Steps: []string{}, Ways: []Way{}, Bars: []float64{},
		Marked: []int{}, Evidence: []casefile.Evidence{}}
	for i := range k.Inputs { // all that was given must be readable, used or not
		switch x := &k.Inputs[i]; {
		case strings.TrimSpace(in[x.ID]) == "":
		case x.Kind == Choice:
			a.choice(x.ID)
		case x.Unit == "mm²":
			a.size()
		case x.Kind == Quantity:
			a.num(x.ID)
		}
	}
	if a.err != nil {
		return nil, a.err
	}
	k.run(a, r)
	if a.err != nil {
		return nil, a.err
	}
	// What it would put into the job must be what the job can take.
	keep := r.Evidence[:0]
	for i := range r.Evidence {
		e := r.Evidence[i]
		if c != nil && e.Check(c, nil) == nil {
			keep = append(keep, r.Evidence[i])
		}
	}
	r.Evidence = keep
	r.Note = note(k, a, r)
	return r, nil
}

func (k *Calculator) input(id string) *Input {
	for i := range k.Inputs {
		if k.Inputs[i].ID == id {
			return &k.Inputs[i]
		}
	}
	return nil
}

// note is the result as one line for the job's record.
func note(k *Calculator, a *ask, r *Result) string {
	var b strings.Builder
	b.WriteString(k.Title)
	if a.part != nil {
		b.WriteString(", " + strings.ToLower(a.part.Label))
	}
	b.WriteString(": " + r.Says)
	return b.String()
}

func (r *Result) line(label, format string, args ...any) {
	r.Lines = append(r.Lines, Line{label, fmt.Sprintf(format, args...)})
}

// pm writes a value with its expanded uncertainty, k = 2.
func pm(v, u float64, m unit.Measure) string {
	if math.IsInf(v, 1) {
		return "OL"
	}
	if u <= 0 {
		return unit.Format(v, m)
	}
	return unit.Format(v, m) + " ± " + unit.Format(2*u, m)
}

// observe offers a word as evidence, where the job's circuit knows it.
func (a *ask) observe(r *Result, id, outcome string) {
	if a.c == nil || outcome == "" {
		return
	}
	if o := a.c.Observation(id); o != nil {
		r.Evidence = append(r.Evidence, casefile.Evidence{Observe: id, State: o.States[0], Outcome: outcome})
	}
}

// ohms offers a resistance of the part as evidence.
func (a *ask) ohms(r *Result, v, u float64) {
	if a.c == nil || a.part == nil || a.part.From == "" || a.part.To == "" {
		return
	}
	e := casefile.Evidence{Measure: unit.Resistance, State: "isolated", From: a.part.From, To: a.part.To,
		Value: strconv.FormatFloat(v, 'g', 5, 64) + " ohm"}
	if math.IsInf(v, 1) {
		e.Value = "OL"
	} else if u > 0 {
		e.Uncertainty = strconv.FormatFloat(u, 'g', 3, 64) + " ohm"
	}
	r.Evidence = append(r.Evidence, e)
}
