package trace

import (
	"errors"
	"io"
)

// View is what the screen keeps of one trace: its samples in amperes, and what
// they tell. It is not safe for concurrent use.
type View struct {
	Result   *Analysis `json:"result"`
	Channels []string  `json:"channels"` // of the file
	Units    []string  `json:"units"`

	x   []float32
	raw *File
}

// Open reads a file and analyses it.
func Open(r io.Reader, size int64, o Options) (*View, error) {
	f, err := ReadSized(r, size)
	if err != nil {
		return nil, err
	}
	v := &View{raw: f}
	for _, c := range f.Channels {
		v.Channels, v.Units = append(v.Channels, c.Name), append(v.Units, c.Unit)
	}
	x, name, scale, warn, err := Amperes(f, o)
	if err != nil {
		return nil, err
	}
	return v, v.analyse(x, f.Dt, name, scale, append(append([]string{}, f.Warnings...), warn...), o)
}

// Captured is a view of samples that came from an instrument, A.
func Captured(x []float32, dt float64, o Options) (*View, error) {
	v := &View{Channels: []string{"scope"}, Units: []string{"A"}}
	return v, v.analyse(x, dt, "scope", "A", nil, o)
}

func (v *View) analyse(x []float32, dt float64, name, scale string, warn []string, o Options) error {
	r, err := Analyse(x, dt, o)
	if err != nil {
		return err
	}
	r.Channel, r.Scale = name, scale
	r.Warnings = append(warn, r.Warnings...)
	v.Result, v.x, v.raw = r, x, nil
	return nil
}

// Zoom is the trace between two times, seconds, in so many columns, and the times
// at which revolutions begin, where they are known and not too many to draw.
type Zoom struct {
	Points      []Point   `json:"points"`
	Revolutions []float64 `json:"revolutions"`
	Weak        []float64 `json:"weak"` // middles of weak humps, s
	HumpS       float64   `json:"hump_s"`
}

// mostMarks is how many marks a picture bears.
const mostMarks = 120

// Between cuts the view.
func (v *View) Between(from, to float64, columns int) (*Zoom, error) {
	if v == nil || v.Result == nil {
		return nil, errors.New("no trace is open")
	}
	r := v.Result
	z := &Zoom{Revolutions: []float64{}, Weak: []float64{}}
	a, b := int(from/r.Interval), int(to/r.Interval)+1
	z.Points = Decimate(v.x, r.Interval, a, b, columns)
	if r.folds == 0 || len(r.marks) < 2 {
		return z, nil
	}
	at := func(k int) float64 { return (float64(r.From) + r.marks[k]) * r.Interval }
	z.HumpS = (at(len(r.marks)-1) - at(0)) / float64(len(r.marks)-1)
	if (to-from)/(z.HumpS*float64(r.folds)) > mostMarks {
		return z, nil
	}
	weak := map[int]bool{}
	if r.WeakBars != nil {
		for _, i := range *r.WeakBars {
			weak[i] = true
		}
	}
	for k := range r.marks {
		t := at(k)
		if t < from || t > to {
			continue
		}
		if k%r.folds == 0 {
			z.Revolutions = append(z.Revolutions, t)
		}
		if weak[k%r.folds] {
			z.Weak = append(z.Weak, t+z.HumpS/2)
		}
	}
	return z, nil
}
