package repair

import (
	"math"
	"math/rand/v2"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"corriente/core/circuit"
)

var sure = []Diagnosis{{[]string{"motor.brushes_worn"}, 1}}

func starter(t testing.TB) *circuit.Circuit {
	c, err := circuit.Family("starter")
	require.NoError(t, err)
	return c
}

func option(c *Comparison, id string) Option {
	for _, o := range c.Options {
		if o.ID == id {
			return o
		}
	}
	return Option{}
}

// By hand: a brush set of 24, 150 min at 60 an hour, 4 days at 20; works 88 times in 100,
// and what comes back is the same again with the comeback and a day's loss.
func TestExpectedCostByHand(t *testing.T) {
	tm := Terms{HourRate: 60, LossPerDay: 20, Years: 4, Comeback: 30}
	cmp, err := Compare(starter(t), "motor", sure, tm, 0, nil, nil)
	require.NoError(t, err)
	r, n := option(cmp, "repair"), option(cmp, "replace")
	labour := 150.0
	standing := (4 + 150.0/60/8) * 20
	assert.InDelta(t, labour, r.Labour, 1e-9)
	assert.InDelta(t, standing, r.Standing, 1e-9)
	assert.InDelta(t, 0.88, r.Success, 1e-12)
	assert.InDelta(t, 0.5, r.ComebackP, 1e-12, "four years at a median life of four")
	fail := 60 + 30 + 20 + n.Parts + n.Labour + n.Standing
	again := 24 + labour + 30 + 20
	assert.InDelta(t, 24+labour+standing+0.12*fail+0.88*r.Comebacks*again, r.Expected, 1e-9)
}

// Closed forms: a life without ageing fails t/mean times in t years (Poisson process). A
// Weibull life is renewed t/mean + (cv² - 1)/2 times in the long run (Cox, Renewal
// Theory, 4.2).
func TestRenewalsAgainstClosedForms(t *testing.T) {
	for _, y := range []float64{0.3, 1, 4, 20} {
		l := Life{Median: 3, Shape: 1}
		mean := 3 / math.Ln2
		m, covered := l.Renewals(y, 0)
		assert.InEpsilon(t, y/mean, m, 2e-3)
		assert.Zero(t, covered)
		// Of a process without memory, the share of lives under w is F(w) of the renewals, but
		// for the last piece: by simulation below. A warranty longer than the time covers all.
		m, covered = l.Renewals(y, 100)
		assert.InEpsilon(t, m, covered, 5e-3)
	}
	l := Life{Median: 2, Shape: 2}
	mean := l.scale() * math.Gamma(1.5)
	cv2 := math.Gamma(2)/math.Pow(math.Gamma(1.5), 2) - 1
	m, _ := l.Renewals(40, 0)
	assert.InEpsilon(t, 40/mean+(cv2-1)/2, m, 2e-3)
	assert.InDelta(t, 2, l.Quantile(0.5), 1e-12)
	assert.InDelta(t, 0.5, l.CDF(2), 1e-12)
}

// A longer warranty never makes an option dearer, and saying that there is none is not
// the same as saying nothing: new parts usually have a year.
func TestAWarrantyPaysForComebacks(t *testing.T) {
	cost := func(years float64) (expected, warranty float64) {
		f := Keep
		f.Warranty, f.Life = years, 1
		cmp, err := Compare(starter(t), "motor", []Diagnosis{{Faults: []string{"motor.brushes_worn"}, Probability: 1}}, Terms{HourRate: 60, Years: 4}, 0, map[string]Figures{"replace": f}, nil)
		require.NoError(t, err)
		o := option(cmp, "replace")
		return o.Expected, o.Warranty
	}
	none, w := cost(-1)
	assert.Zero(t, w)
	usual, w := cost(0)
	assert.Equal(t, 1.0, w)
	long, _ := cost(3)
	assert.Greater(t, none, usual)
	assert.Greater(t, usual, long)
}

// Expected costs and renewals against a Monte Carlo simulation of the same renewal
// process, written on its own.
func TestAgainstMonteCarlo(t *testing.T) {
	tm := Terms{HourRate: 58, LossPerDay: 25, Years: 6, Comeback: 60, Postage: 8, MinimumOrder: 40, Travel: 15}
	ds := []Diagnosis{{[]string{"motor.brushes_worn"}, 0.7}, {[]string{"motor.winding_open"}, 0.2}, {[]string{"battery.weak"}, 0.1}}
	cmp, err := Compare(starter(t), "motor", ds, tm, 0, nil, nil)
	require.NoError(t, err)
	rng := rand.New(rand.NewPCG(1, 2))
	for _, id := range []string{"repair", "replace", "donor"} {
		o := option(cmp, id)
		const n = 60000
		sum, sumsq := 0.0, 0.0
		for range n {
			x := o.Parts + o.Labour + o.Standing
			if rng.Float64() >= o.Success {
				x += o.FailCost
			} else {
				scale := o.LifeYears / math.Pow(math.Ln2, 1/o.shape)
				for age := 0.0; ; {
					life := scale * math.Pow(-math.Log(1-rng.Float64()), 1/o.shape)
					if age += life; age > tm.Years {
						break
					}
					x += o.Parts + o.Labour + tm.Comeback + tm.LossPerDay
					if life <= o.Warranty {
						x -= o.Parts
					}
				}
			}
			sum, sumsq = sum+x, sumsq+x*x
		}
		mean := sum / n
		se := math.Sqrt((sumsq/n - mean*mean) / n)
		assert.InDelta(t, mean, o.Expected, 4*se+0.002*mean, id)
		assert.Less(t, o.Low, o.Expected, id)
		assert.Greater(t, o.High, o.Low, id)
	}
	assert.InDelta(t, 0.7, option(cmp, "repair").Cure, 1e-12)
	assert.InDelta(t, 48, option(cmp, "repair").Parts, 1e-9, "24 is under the minimum order of 40; postage on top")
}

func TestDangerousOptionsCannotBeChosenAway(t *testing.T) {
	tm := Terms{HourRate: 58, LossPerDay: 25, Years: 6, Burnt: true, NearFuel: true, Allowed: []string{"temporary", "rewind"}}
	cmp, err := Compare(starter(t), "motor", []Diagnosis{{[]string{"motor.winding_open"}, 1}}, tm, 0, nil, nil)
	require.NoError(t, err)
	v := option(cmp, "temporary").Veto
	require.NotNil(t, v)
	assert.True(t, v.Dangerous)
	assert.False(t, v.SetAside)
	v = option(cmp, "rewind").Veto
	require.NotNil(t, v)
	assert.False(t, v.Dangerous)
	assert.True(t, v.SetAside, "no winder within reach: may be set aside with a reason")
	assert.Nil(t, option(cmp, "replace").Veto)
	last := cmp.Options[len(cmp.Options)-1]
	assert.NotNil(t, last.Veto, "ruled out ones stand last")
	tm = Terms{HourRate: 58, Years: 6, Brakes: true}
	cmp, err = Compare(starter(t), "motor", sure, tm, 0, nil, nil)
	require.NoError(t, err)
	assert.True(t, option(cmp, "donor").Veto.Dangerous)
}

// A temporary repair pays where waiting is dear, and not where it is free.
func TestTemporaryRepairBridgesTheWait(t *testing.T) {
	dear, err := Compare(starter(t), "motor", sure, Terms{HourRate: 58, LossPerDay: 300, Years: 4}, 0, map[string]Figures{"repair": {Parts: -1, Minutes: -1, WaitDays: 28}, "replace": {Parts: -1, Minutes: -1, WaitDays: 28}}, nil)
	require.NoError(t, err)
	assert.Less(t, option(dear, "temporary").Expected, option(dear, "repair").Expected)
	assert.Contains(t, option(dear, "temporary").Limit, "14 days")
	free, err := Compare(starter(t), "motor", sure, Terms{HourRate: 58, LossPerDay: 0, Years: 4}, 0, nil, nil)
	require.NoError(t, err)
	assert.Greater(t, option(free, "temporary").Expected, option(free, "repair").Expected)
}

// One more reading stands in the list by its own value: it wins where the diagnosis is
// uncertain and the reading cheap, and is not there where nothing is left to learn.
func TestOneMoreReadingFirst(t *testing.T) {
	tm := Terms{HourRate: 58, LossPerDay: 25, Years: 4, Comeback: 60}
	ds := []Diagnosis{{[]string{"motor.brushes_worn"}, 0.55}, {[]string{"battery.weak"}, 0.45}}
	cmp, err := Compare(starter(t), "motor", ds, tm, 0, nil, []Reading{{"Volts under load", 3, 1, 0, 0.97}})
	require.NoError(t, err)
	assert.Equal(t, "reading", cmp.Options[0].ID)
	assert.Contains(t, cmp.Says, "One more reading first saves")
	cmp, err = Compare(starter(t), "motor", ds, tm, 0, nil, []Reading{{"Tear the dash out", 600, 2, 0, 0.6}})
	require.NoError(t, err)
	assert.NotEqual(t, "reading", cmp.Options[0].ID)
	cmp, err = Compare(starter(t), "motor", sure, tm, 0, nil, []Reading{{"Volts", 3, 1, 0, 0.97}})
	require.NoError(t, err)
	assert.Empty(t, option(cmp, "reading").ID)
}

func TestUncertainDiagnosisMakesEveryOptionDearer(t *testing.T) {
	tm := Terms{HourRate: 60, LossPerDay: 20, Years: 4, Comeback: 30}
	a, err := Compare(starter(t), "motor", sure, tm, 0, nil, nil)
	require.NoError(t, err)
	b, err := Compare(starter(t), "motor", []Diagnosis{{[]string{"motor.brushes_worn"}, 0.6}, {[]string{"battery.weak"}, 0.4}}, tm, 0, nil, nil)
	require.NoError(t, err)
	for _, id := range []string{"repair", "replace"} {
		assert.Greater(t, option(b, id).Expected, option(a, id).Expected, id)
		assert.InDelta(t, 0.6, option(b, id).Cure, 1e-12)
	}
}

// At each break-even the two options cost the same.
func TestBreakEvenIsWhereTheCostsMeet(t *testing.T) {
	c := starter(t)
	rapid.Check(t, func(rt *rapid.T) {
		f := func(n string, lo, hi float64) float64 { return rapid.Float64Range(lo, hi).Draw(rt, n) }
		tm := Terms{HourRate: f("rate", 20, 120), LossPerDay: f("loss", 1, 200), Years: f("years", 0.5, 15), Comeback: f("comeback", 0, 200)}
		st := rapid.SampledFrom([]string{"motor", "pos_clamp", "battery", "drive"}).Draw(rt, "station")
		ds := []Diagnosis{{[]string{st + "." + c.Station(st).Repair.Cures[0]}, f("p", 0.3, 1)}}
		cmp, err := Compare(c, st, ds, tm, 0, nil, nil)
		if err != nil {
			rt.Fatal(err)
		}
		for _, b := range cmp.BreakEvens {
			best, other, t2 := cmp.Options[0], cmp.Options[1], tm // no reading is offered here
			if b.Quantity == "loss_per_day" || other.ID == "reading" {
				continue
			}
			switch b.Quantity {
			case "parts":
				best.Parts = b.Value
			case "wait_days":
				best.Standing += (b.Value - best.WaitDays) * tm.LossPerDay
			case "success":
				best.Cure, best.workmanship = b.Value, 1
			case "years":
				t2.Years = b.Value
			}
			best.settle(t2)
			other.settle(t2)
			if math.Abs(best.Expected-other.Expected) > 0.01 {
				rt.Fatalf("%s at %g: %g against %g", b.Quantity, b.Value, best.Expected, other.Expected)
			}
		}
		for _, o := range cmp.Options {
			if o.Low > o.High || math.IsNaN(o.Expected) {
				rt.Fatalf("range %g to %g", o.Low, o.High)
			}
		}
	})
}

func TestAccessAlreadyOpenIsNotPaidTwice(t *testing.T) {
	tm := Terms{HourRate: 60, LossPerDay: 0, Years: 4}
	a, _ := Compare(starter(t), "motor", sure, tm, 0, nil, nil)
	b, _ := Compare(starter(t), "motor", sure, tm, 31, nil, nil)
	assert.InDelta(t, 31, option(a, "repair").Minutes-option(b, "repair").Minutes, 1e-9)
}

func TestNonsenseTermsAreRefused(t *testing.T) {
	for _, tm := range []Terms{{HourRate: -1, Years: 1}, {Years: 0}, {Years: math.NaN()}, {LossPerDay: math.Inf(1), Years: 1}} {
		_, err := Compare(starter(t), "motor", sure, tm, 0, nil, nil)
		assert.Error(t, err)
	}
	_, err := Compare(starter(t), "mast", sure, Terms{Years: 1}, 0, nil, nil)
	assert.Error(t, err)
}
