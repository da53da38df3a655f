package trace

import (
	"errors"
	"io"
	"math"
	"sort"
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
	if err := v.analyse(x, f.Dt, o); err != nil {
		return v, err
	}
	v.Result.Channel, v.Result.Scale = name, scale
	v.Result.Warnings = append(append(append([]string{}, f.Warnings...), warn...), v.Result.Warnings...) // never null
	return v, nil
}

// Captured is a view of samples that came from an instrument, A.
func Captured(x []float32, dt float64, o Options) (*View, error) {
	v := &View{Channels: []string{"scope"}, Units: []string{"A"}}
	if err := v.analyse(x, dt, o); err != nil {
		return v, err
	}
	v.Result.Channel, v.Result.Scale = "scope", "A"
	return v, nil
}

func (v *View) analyse(x []float32, dt float64, o Options) error {
	r, err := Analyse(x, dt, o)
	if err != nil {
		return err
	}
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

// Alongside cuts the other trace to this one's time, in so many columns: hump by
// hump, so that both stay in step however their speeds drift, turned by shift
// humps (see [Comparison]). Where either has no humps to hold on to, both just
// begin together.
func (v *View) Alongside(o *View, shift int, from, to float64, columns int) ([]Point, error) {
	if v == nil || o == nil || v.Result == nil || o.Result == nil {
		return nil, errors.New("open both traces first")
	}
	there := func(t float64) float64 { return t }
	a, b := v.Result, o.Result
	if len(a.marks) > 1 && len(b.marks) > 1 {
		there = func(t float64) float64 {
			h := position(a.marks, t/a.Interval-float64(a.From)) + float64(shift)
			return (place(b.marks, h) + float64(b.From)) * b.Interval
		}
	}
	n := max(1, min(columns, int((to-from)/a.Interval)+1))
	out := make([]Point, 0, n)
	step := (to - from) / float64(n)
	for k := range n {
		t := from + float64(k)*step
		i, j := int(math.Floor(there(t)/b.Interval)), int(math.Ceil(there(t+step)/b.Interval))
		i, j = max(i, 0), min(max(j, i+1), len(o.x))
		if i >= j {
			continue
		}
		p := Point{T: t, Low: o.x[i], High: o.x[i]}
		for _, x := range o.x[i:j] {
			p.Low, p.High = min(p.Low, x), max(p.High, x)
		}
		out = append(out, p)
	}
	return out, nil
}

// position is the hump, with its fraction, that sample x lies in; beyond the
// first and last mark the humps go on as they were there.
func position(marks []float64, x float64) float64 {
	i := sort.SearchFloat64s(marks, x) - 1
	i = max(0, min(i, len(marks)-2))
	return float64(i) + (x-marks[i])/(marks[i+1]-marks[i])
}

// place is the sample at which hump h begins: the inverse of position.
func place(marks []float64, h float64) float64 {
	i := max(0, min(int(math.Floor(h)), len(marks)-2))
	return marks[i] + (h-float64(i))*(marks[i+1]-marks[i])
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
