package learn

import (
	"math"
	"sort"
)

// Weight is how many jobs the shipped rates count for: with as many of its own, a
// workshop's share and the shipped share weigh the same (a Dirichlet prior of that
// concentration).
const Weight = 30

// Count is how often one fault was confirmed.
type Count struct {
	Fault string `json:"fault"` // station.mode
	N     int    `json:"n"`
}

// Rate is a fault's share, before and after learning.
type Rate struct {
	Fault   string  `json:"fault"`
	N       int     `json:"n"`       // confirmed here
	Of      int     `json:"of"`      // jobs here
	Shipped float64 `json:"shipped"` // share of all faults
	Here    float64 `json:"here"`    // posterior mean
	Low     float64 `json:"low"`     // 90 % interval
	High    float64 `json:"high"`
	Factor  float64 `json:"factor"` // by which the prior odds move
}

// Rates is the posterior mean of each fault's share: (w s + n)/(w + N), the mean of a
// Dirichlet with prior concentration w over the shipped shares s (Gelman and others,
// Bayesian Data Analysis, 3.4). shipped holds relative rates; they need not sum to one.
// The interval is that of the fault's own Beta marginal.
func Rates(shipped map[string]float64, counts []Count) []Rate {
	total, n := 0.0, 0
	for _, v := range shipped {
		total += v
	}
	by := map[string]int{}
	for _, c := range counts {
		if _, known := shipped[c.Fault]; known {
			by[c.Fault] += c.N
			n += c.N
		}
	}
	out := []Rate{}
	if total <= 0 {
		return out
	}
	for f, v := range shipped {
		s := v / total
		a := Weight*s + float64(by[f])
		b := Weight + float64(n) - a
		r := Rate{Fault: f, N: by[f], Of: n, Shipped: s, Here: a / (a + b)}
		if s > 0 {
			r.Factor = r.Here / s
		}
		r.Low, r.High = betaQuantile(0.05, a, b), betaQuantile(0.95, a, b)
		out = append(out, r)
	}
	sortRates(out)
	return out
}

// sortRates puts what was seen most often first.
func sortRates(rs []Rate) {
	sort.Slice(rs, func(i, j int) bool {
		if rs[i].N != rs[j].N {
			return rs[i].N > rs[j].N
		}
		if rs[i].Shipped != rs[j].Shipped {
			return rs[i].Shipped > rs[j].Shipped
		}
		return rs[i].Fault < rs[j].Fault
	})
}

// Nested is [Rates] through groups from the widest to the narrowest, each shrunk towards
// the one around it: a workshop's jobs on other machines, on this type of machine, on this
// type at this age. No job may be counted twice. A group without jobs is passed over.
func Nested(shipped map[string]float64, groups ...[]Count) []Rate {
	out := Rates(shipped, nil)
	base := map[string]float64{}
	for _, r := range out {
		base[r.Fault] = r.Shipped
	}
	around := base
	n, of := map[string]int{}, 0
	for _, g := range groups {
		rs := Rates(around, g)
		if len(rs) == 0 || rs[0].Of == 0 {
			continue
		}
		out, around = rs, map[string]float64{}
		of += rs[0].Of
		for _, r := range rs {
			around[r.Fault] = r.Here
			n[r.Fault] += r.N
		}
	}
	for i := range out {
		r := &out[i]
		r.N, r.Of, r.Shipped = n[r.Fault], of, base[r.Fault]
		if r.Shipped > 0 {
			r.Factor = r.Here / r.Shipped
		}
	}
	sortRates(out)
	return out
}

// ages are where a machine's age begins to count as another, in years.
var ages = [...]int{5, 12}

// Age is the group, from 1, of an age in years that its jobs are counted in: under 5, 5 to
// 11, 12 or more. A negative age is not known: 0.
func Age(years int) int {
	if years < 0 {
		return 0
	}
	group := 1
	for _, from := range ages {
		if years >= from {
			group++
		}
	}
	return group
}

// Factors are the prior factors of the faults whose share has moved by more than a
// twentieth; nil when none has.
func Factors(rs []Rate) map[string]float64 {
	var out map[string]float64
	for _, r := range rs {
		if r.Of > 0 && math.Abs(r.Factor-1) > 0.05 {
			if out == nil {
				out = map[string]float64{}
			}
			out[r.Fault] = math.Round(r.Factor*1000) / 1000
		}
	}
	return out
}

// Times updates a mean time (years a repair lasted, minutes an access took) by what was
// seen here: a Gamma prior on the rate worth w sightings of the shipped mean, and n
// ends in exposure in all (Gamma-Poisson, Bayesian Data Analysis, 2.6). Time that ended
// without an end counts as exposure.
func Times(shipped, w float64, ends int, exposure float64) float64 {
	if !(shipped > 0) || !(w > 0) || !(exposure >= 0) {
		return shipped
	}
	return (w*shipped + exposure) / (w + float64(ends))
}

// accessWeight is how many sightings the shipped minutes of an access count for.
const accessWeight = 3

// Minutes is how long getting at something takes, from the shipped minutes and from what
// was seen on other machines and on this type of machine, each shrunk towards the one
// around it by [Times].
func Minutes(shipped float64, others, own []float64) float64 {
	for _, seen := range [][]float64{others, own} {
		total := 0.0
		for _, m := range seen {
			total += m
		}
		shipped = Times(shipped, accessWeight, len(seen), total)
	}
	return shipped
}

// Event is one repair of a part of one machine, at a time in years; they come machine by
// machine, in order.
type Event struct {
	Machine string
	Option  string
	At      float64
}

// Life is how long repairs of one option lasted so far: how many ended in the next repair of
// the same part, and the years that passed in all.
type Life struct {
	Ends  int     `json:"ends"`
	Years float64 `json:"years"`
}

// Lifetimes sums up how long repairs of each option lasted: how many ended in the next
// repair of the same part, and the years that passed in all, those that still hold
// counted to now.
func Lifetimes(es []Event, now float64) map[string]Life {
	out := map[string]Life{}
	for i, e := range es {
		x := out[e.Option]
		if i+1 < len(es) && es[i+1].Machine == e.Machine {
			x.Ends++
			x.Years += es[i+1].At - e.At
		} else {
			x.Years += max(0, now-e.At)
		}
		out[e.Option] = x
	}
	return out
}

// Claim is one verdict and whether it was right.
type Claim struct {
	P     float64
	Right bool
	N     int // as many alike; 0: one
}

// Band is a band of stated probabilities.
type Band struct {
	Low   float64 `json:"low"`
	High  float64 `json:"high"`
	N     int     `json:"n"`
	Mean  float64 `json:"mean"`   // stated
	Right float64 `json:"right"`  // share that was right
	WLow  float64 `json:"w_low"`  // Wilson 95 %
	WHigh float64 `json:"w_high"` // Wilson 95 %
}

// Calibration sorts claims into bands of their stated probability.
func Calibration(cs []Claim) []Band {
	edges := []float64{0, 0.5, 0.7, 0.8, 0.9, 0.95, 0.99, 1.0000001}
	out := []Band{}
	for k := 0; k+1 < len(edges); k++ {
		b := Band{Low: edges[k], High: math.Min(edges[k+1], 1)}
		right := 0
		for _, c := range cs {
			if n := max(c.N, 1); c.P >= edges[k] && c.P < edges[k+1] {
				b.N += n
				b.Mean += c.P * float64(n)
				if c.Right {
					right += n
				}
			}
		}
		if b.N == 0 {
			continue
		}
		n := float64(b.N)
		b.Mean /= n
		b.Right = float64(right) / n
		b.WLow, b.WHigh = Wilson(right, b.N)
		out = append(out, b)
	}
	return out
}

// Wilson is the 95 % score interval of a share (Wilson, JASA 22, 1927).
func Wilson(k, n int) (low, high float64) {
	if n == 0 {
		return 0, 1
	}
	const z = 1.959964
	p, m := float64(k)/float64(n), float64(n)
	mid := p + z*z/(2*m)
	d := z * math.Sqrt(p*(1-p)/m+z*z/(4*m*m))
	return math.Max(0, (mid-d)/(1+z*z/m)), math.Min(1, (mid+d)/(1+z*z/m))
}

// betaQuantile inverts the regularised incomplete beta function by bisection.
func betaQuantile(q, a, b float64) float64 {
	lo, hi := 0.0, 1.0
	for range 60 {
		m := (lo + hi) / 2
		if betaCDF(m, a, b) < q {
			lo = m
		} else {
			hi = m
		}
	}
	return (lo + hi) / 2
}

// betaCDF is the regularised incomplete beta function by its continued fraction
// (Abramowitz and Stegun, 26.5.8).
func betaCDF(x, a, b float64) float64 {
	if x <= 0 {
		return 0
	}
	if x >= 1 {
		return 1
	}
	la, _ := math.Lgamma(a)
	lb, _ := math.Lgamma(b)
	lab, _ := math.Lgamma(a + b)
	front := math.Exp(lab - la - lb + a*math.Log(x) + b*math.Log1p(-x))
	if x > (a+1)/(a+b+2) {
		return 1 - front*fraction(1-x, b, a)/b
	}
	return front * fraction(x, a, b) / a
}

// fraction evaluates that continued fraction by Lentz's method.
func fraction(x, a, b float64) float64 {
	const tiny = 1e-300
	c, d := 1.0, 1-(a+b)*x/(a+1)
	if math.Abs(d) < tiny {
		d = tiny
	}
	d = 1 / d
	h := d
	for m := 1; m < 300; m++ {
		k := float64(m)
		for _, t := range [2]float64{k * (b - k) * x / ((a + 2*k - 1) * (a + 2*k)),
			-(a + k) * (a + b + k) * x / ((a + 2*k) * (a + 2*k + 1))} {
			d = 1 + t*d
			if math.Abs(d) < tiny {
				d = tiny
			}
			c = 1 + t/c
			if math.Abs(c) < tiny {
				c = tiny
			}
			d = 1 / d
			h *= d * c
			if math.Abs(d*c-1) < 1e-14 {
				return h
			}
		}
	}
	return h
}
