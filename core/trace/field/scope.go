package field

import (
	"math"
	"math/rand/v2"
)

// look runs the motor under a clamp and a scope.
func (s *Sample) look(m *motor, set Settings, rng *rand.Rand) {
	t := &s.Truth
	hz := t.RPM / 60 * float64(t.Humps)
	rate := hz * t.PerHump
	run := t.Turns * 60 / t.RPM
	p := &pickup{rng: rng, rate: rate, mean: m.mean}
	p.draw(t, set, hz)
	drift := set.MostDrift * (2*rng.Float64() - 1) * rng.Float64()
	wander, wanderHz := 0.006*rng.Float64(), (0.3+rng.Float64())/run
	quiet, ramp := 0.0, 0.0
	if t.Started = rng.IntN(5) == 0 && t.Turns > 15; t.Started {
		quiet, ramp = 0.08*run, (0.03+0.03*rng.Float64())*run
	}
	total := quiet + run
	if t.Started {
		total += 6 * ramp
	}
	s.Dt = 1 / rate
	sub := int(math.Ceil(math.Max(24*hz, 20*t.Chop) / rate))
	dt := s.Dt / float64(sub)
	n := int(total * rate)
	s.Amperes = make([]float32, n)
	i, turn, duty := 0.0, rng.Float64(), 0.35+0.5*rng.Float64()
	if !t.Started {
		i = m.mean
	}
	turns, seconds := 0.0, 0.0
	for k := range n {
		clamp := 0.0
		for j := range sub {
			now := (float64(k) + float64(j)/float64(sub)) * s.Dt
			speed, v := 0.0, 0.0
			if now >= quiet {
				u := now - quiet
				speed = 1 + drift*(u/(total-quiet)-0.5) + wander*math.Sin(2*math.Pi*wanderHz*u)
				pulse := 1 + m.drag*math.Cos(2*math.Pi*(turn-m.phase)) + m.second*math.Cos(4*math.Pi*(turn-m.phase2))
				v = m.supply(speed, pulse)
				if t.Started {
					speed *= 1 - math.Exp(-u/ramp)
				}
				turn += speed * t.RPM / 60 * dt
				if !t.Started || u > 6*ramp {
					turns += speed * t.RPM / 60 * dt
					seconds += dt
				}
			}
			on := true
			if t.Chop > 0 && now >= quiet {
				ph := now * t.Chop
				if on = ph-math.Floor(ph) < duty; on {
					v /= duty
				} else {
					v = -0.7
				}
			}
			if now >= quiet {
				i = math.Max(m.step(i, v, speed, turn, dt), 0)
			}
			x := i
			if !on && t.ChopSupply {
				x = 0
			}
			p.clamp += (x - p.clamp) * (1 - math.Exp(-2*math.Pi*p.bandwidth*dt))
			clamp = p.clamp
		}
		s.Amperes[k] = float32(p.at(clamp, float64(k)*s.Dt))
	}
	t.RPM = 60 * turns / seconds
	p.convert(s.Amperes)
}

// supply is the voltage at which the mean current, times pulse, flows at a speed against the
// middle one.
func (m *motor) supply(speed, pulse float64) float64 {
	if m.sumN == 0 {
		for _, x := range m.rev {
			m.sumR += x.ohm + m.ohm
			m.sumE += x.emf
		}
		m.sumN = float64(len(m.rev))
	}
	return speed*m.emf*m.sumE/m.sumN + m.brushDrop/1.1 + m.mean*pulse*m.sumR/m.sumN
}

// pickup is what a clamp and a scope add.
type pickup struct {
	rng                       *rand.Rand
	rate, mean                float64
	bandwidth, clamp          float64
	offset, slope, noise      float64
	mains, mainsHz, mainsAt   float64
	third                     float64
	alternator, altHz, altBow float64
	bits                      int
	span                      float64
}

func (p *pickup) draw(t *Truth, set Settings, hz float64) {
	rng := p.rng
	p.bandwidth = logBetween([2]float64{20e3, 100e3}, rng)
	p.offset, p.slope = 0.03*p.mean*rng.NormFloat64(), 0.005*p.mean*rng.NormFloat64()
	p.noise = logBetween(set.Noise, rng) * p.mean * math.Max(1, math.Sqrt(p.rate/200e3))
	p.bits = []int{8, 8, 10, 12, 14, 16}[rng.IntN(6)]
	p.span = 1.2 * math.Pow(3, rng.Float64())
	if t.Mains = rng.IntN(4) == 0; t.Mains {
		p.mains, p.mainsHz, p.mainsAt = logBetween([2]float64{0.002, 0.03}, rng)*p.mean, []float64{50, 60}[rng.IntN(2)], rng.Float64()
		p.third = 0.4 * rng.Float64()
	}
	if t.Alternator = rng.IntN(7) == 0; t.Alternator {
		p.alternator, p.altHz, p.altBow = logBetween([2]float64{0.003, 0.03}, rng)*p.mean,
			logBetween([2]float64{400, 2500}, rng), 0.03*rng.NormFloat64()
	}
	if rng.IntN(6) == 0 {
		t.Chop = logBetween([2]float64{100, 20e3}, rng)
		t.ChopSupply = rng.IntN(4) == 0
	}
}

// at is the clamp's output, A, at a time.
func (p *pickup) at(x, now float64) float64 {
	x += p.offset + p.slope*now + p.noise*p.rng.NormFloat64()
	if p.mains > 0 {
		w := 2 * math.Pi * (p.mainsHz*now + p.mainsAt)
		x += p.mains * (math.Sin(w) + p.third*math.Sin(3*w))
	}
	if p.alternator > 0 {
		ph := p.altHz * now * (1 + p.altBow*now)
		x += p.alternator * (math.Abs(math.Sin(math.Pi*ph)) - 2/math.Pi)
	}
	return x
}

// convert rounds to the converter's steps; what is beyond its range is held at its end.
func (p *pickup) convert(x []float32) {
	top := 0.0
	for _, v := range x {
		top = math.Max(top, math.Abs(float64(v)))
	}
	step := 2 * p.span * top / float64(int(1)<<p.bits)
	for i, v := range x {
		x[i] = float32(math.Round(float64(v)/step) * step)
	}
}
