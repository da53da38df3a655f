package assume

import (
	"fmt"
	"math"
	"reflect"
	"strconv"
	"strings"
	"sync"

	"corriente/core/circuit"
)

// Table is everything assumed. The tag "is" gives a number's value, "from" its source:
// "common practice" of the trade, "memory" of its workshops, or a published one.
type Table struct {
	Prior       Prior
	Word        Word
	Reading     Reading
	Discrepancy Discrepancy
	Slip        Slip
	Choice      Choice
	// Circumstances move the rates of faults by when the complaint shows.
	Circumstances []Circumstance
}

// Curve is a chance that rises along an S: Base + Rise/(1+exp(-(x-At)/Width)). With a negative
// width it falls.
type Curve struct{ Base, Rise, At, Width float64 }

// Of is the curve's value at x.
func (c Curve) Of(x float64) float64 { return c.Base + c.Rise*Logistic((x-c.At)/c.Width) }

// OfLog is the curve along the logarithm: at x its value is that of [Curve.Of] with the
// logarithms of x and At. x is 0 or more.
func (c Curve) OfLog(x float64) float64 {
	return c.Base + c.Rise*Logistic((math.Log(x+1e-9)-math.Log(c.At))/c.Width)
}

// Blurred is the curve where x itself is uncertain by a standard deviation of sd.
func (c Curve) Blurred(x, sd float64) float64 {
	// A logistic of scale s has the spread of a Gaussian of 1.8 s.
	c.Width = math.Copysign(math.Hypot(c.Width, sd/1.8), c.Width)
	return c.Of(x)
}

// Logistic is 1/(1+exp(-x)).
func Logistic(x float64) float64 { return 1 / (1 + math.Exp(-x)) }

// Circumstance moves the rate of a fault by when the complaint shows; an empty mode stands for
// every mode of the kind.
type Circumstance struct {
	When   string // cold, hot, wet, after_knock
	Kind   circuit.Kind
	Mode   string
	Factor float64
	From   string // its source
}

// Entry is one number of the table.
type Entry struct {
	Name  string // Word.Lapse, Word.Heard.At
	Value float64
	From  string
	at    *float64
}

// Entries lists every number of a table in the order of its fields.
func (t *Table) Entries() []Entry {
	var out []Entry
	walk(reflect.ValueOf(t).Elem(), "", "", func(name, from string, x *float64) {
		out = append(out, Entry{Name: name, Value: *x, From: from, at: x})
	})
	for i := range t.Circumstances {
		c := &t.Circumstances[i]
		name := strings.Trim(strings.Join([]string{"Circumstances", c.When, string(c.Kind), c.Mode}, "."), ".")
		out = append(out, Entry{Name: name, Value: c.Factor, From: c.From, at: &c.Factor})
	}
	return out
}

// With is the table with one of its numbers changed, named as in [Table.Entries]. The receiver
// stays as it is.
func (t *Table) With(name string, value float64) (*Table, error) {
	out := *t
	out.Circumstances = append([]Circumstance(nil), t.Circumstances...)
	for _, e := range out.Entries() {
		if e.Name == name {
			*e.at = value
			return &out, nil
		}
	}
	return nil, fmt.Errorf("nothing called %q is assumed", name)
}

// walk visits every number under v.
func walk(v reflect.Value, name, from string, visit func(name, from string, x *float64)) {
	switch v.Kind() {
	case reflect.Float64:
		visit(name, from, v.Addr().Interface().(*float64))
	case reflect.Struct:
		for i := range v.NumField() {
			f := v.Type().Field(i)
			source := from
			if s := f.Tag.Get("from"); s != "" {
				source = s
			}
			walk(v.Field(i), strings.TrimPrefix(name+"."+f.Name, "."), source, visit)
		}
	}
}

// fill sets every number under v that has a value in its tag.
func fill(v reflect.Value, name string) error {
	if v.Kind() != reflect.Struct {
		return nil
	}
	for i := range v.NumField() {
		f, at := v.Type().Field(i), name+"."+v.Type().Field(i).Name
		is := strings.Fields(f.Tag.Get("is"))
		switch {
		case f.Type.Kind() == reflect.Float64 && len(is) == 1:
			if err := parse(v.Field(i), is[0], at); err != nil {
				return err
			}
		case f.Type == reflect.TypeFor[Curve]() && len(is) == 4:
			for k, s := range is {
				if err := parse(v.Field(i).Field(k), s, at); err != nil {
					return err
				}
			}
		case f.Type.Kind() == reflect.Struct && len(is) == 0:
			if err := fill(v.Field(i), at); err != nil {
				return err
			}
		case f.Type.Kind() == reflect.Slice:
		default:
			return fmt.Errorf("%s: the tag %q does not give its value", at, f.Tag)
		}
	}
	return nil
}

func parse(v reflect.Value, s, at string) error {
	x, err := strconv.ParseFloat(s, 64)
	if err != nil {
		return fmt.Errorf("%s: %w", at, err)
	}
	v.SetFloat(x)
	return nil
}

var standard = sync.OnceValues(func() (*Table, error) {
	t := &Table{Circumstances: circumstances()}
	return t, fill(reflect.ValueOf(t).Elem(), "")
})

// Standard is the table that the reasoning uses. It is shared: [Table.With] changes a copy. An
// error means that a tag in this package is mistyped; a test holds them all.
func Standard() (*Table, error) { return standard() }
