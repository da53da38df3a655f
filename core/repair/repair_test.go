package repair

import (
	"math"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"corriente/core/circuit"
	"corriente/core/fault"
)

var sure = []Diagnosis{{[]string{"motor.brushes_worn"}, 1}}

func family(t testing.TB, id string) *circuit.Circuit {
	c, err := circuit.Family(id)
	require.NoError(t, err)
	return c
}

func starter(t testing.TB) *circuit.Circuit { return family(t, "starter") }

// about compares what can be done about one part.
func about(t testing.TB, c *circuit.Circuit, station string, ds []Diagnosis, tm Terms) *Comparison {
	cmp, err := Compare(c, Question{Stations: []string{station}, Diagnoses: ds, Terms: tm})
	require.NoError(t, err)
	return cmp
}

func option(c *Comparison, id string) Option {
	for _, o := range c.Options {
		if o.ID == id {
			return o
		}
	}
	return Option{}
}

// By hand: a brush set of 24, 150 min at 60 an hour, 4 days at 20; works 88 times in 100;
// where it does not, half an hour goes into finding out, and an exchange starter follows.
func TestExpectedCostByHand(t *testing.T) {
	tm := Terms{HourRate: 60, LossPerDay: 20, Years: 4, Comeback: 30}
	cmp := about(t, starter(t), "motor", sure, tm)
	r, n := option(cmp, "repair"), option(cmp, "replace")
	labour := 150.0
	standing := (4 + 150.0/60/8) * 20
	assert.InDelta(t, labour, r.Labour, 1e-9)
	assert.InDelta(t, standing, r.Standing, 1e-9)
	assert.InDelta(t, 0.88, r.Works, 1e-12)
	assert.InDelta(t, 0.88, r.CuresThis, 1e-12)
	assert.InDelta(t, 0.5, r.ComebackP, 1e-12, "four years at a median life of four")
	new := Life{8, 2}
	all, covered := new.Renewals(4, 1)
	fail := 30 + n.Parts + n.Labour + n.Standing + all*(190+90+30+20) - covered*190
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
		cmp, err := Compare(starter(t), Question{Stations: []string{"motor"}, Diagnoses: sure,
			Terms: Terms{HourRate: 60, Years: 4}, With: map[string]Figures{"replace": f}})
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

func TestDangerousOptionsCannotBeChosenAway(t *testing.T) {
	tm := Terms{HourRate: 58, LossPerDay: 25, Years: 6, Burnt: true, NearFuel: true, Allowed: []string{"temporary", "rewind"}}
	cmp := about(t, starter(t), "motor", []Diagnosis{{[]string{"motor.winding_open"}, 1}}, tm)
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
	cmp = about(t, starter(t), "motor", sure, Terms{HourRate: 58, Years: 6, Brakes: true})
	assert.True(t, option(cmp, "donor").Veto.Dangerous)
	// Oil that got in once comes in again.
	oily := about(t, family(t, "traction"), "motor", sure, Terms{HourRate: 58, Years: 6, Oily: true})
	assert.NotNil(t, option(oily, "brushes").Veto)
	assert.Nil(t, option(oily, "seal").Veto)
	assert.Empty(t, option(cmp, "seal").ID, "no seal where there is no oil")
}

// A temporary repair pays where waiting is dear, and not where it is free.
func TestTemporaryRepairBridgesTheWait(t *testing.T) {
	wait := Figures{Parts: -1, Minutes: -1, WaitDays: 28}
	with := map[string]Figures{}
	for _, id := range []string{"repair", "replace", "brushes", "bearing", "donor", "rewind"} {
		with[id] = wait
	}
	dear, err := Compare(starter(t), Question{Stations: []string{"motor"}, Diagnoses: sure,
		Terms: Terms{HourRate: 58, LossPerDay: 300, Years: 4}, With: with})
	require.NoError(t, err)
	assert.Less(t, option(dear, "temporary").Expected, option(dear, "repair").Expected)
	assert.Contains(t, option(dear, "temporary").Limit, "14 days")
	free := about(t, starter(t), "motor", sure, Terms{HourRate: 58, LossPerDay: 0, Years: 4})
	assert.Greater(t, option(free, "temporary").Expected, option(free, "repair").Expected)
}

// A temporary repair never comes out cheaper than the lasting one that follows it where
// nobody waits for anything: it is that work and more.
func TestATemporaryRepairIsTheLastingOneAndMore(t *testing.T) {
	rapid.Check(t, func(rt *rapid.T) {
		ids := circuit.Families()
		c, err := circuit.Family(rapid.SampledFrom(ids).Draw(rt, "circuit"))
		if err != nil {
			rt.Fatal(err)
		}
		s := &c.Stations[rapid.IntRange(0, len(c.Stations)-1).Draw(rt, "station")]
		modes := slices.Sorted(func(yield func(string) bool) {
			for m := range s.Faults {
				if !yield(m) {
					return
				}
			}
		})
		ds := []Diagnosis{{[]string{s.ID + "." + rapid.SampledFrom(modes).Draw(rt, "mode")}, 0.8}, {[]string{"battery.weak"}, 0.2}}
		cmp, err := Compare(c, Question{Stations: []string{s.ID}, Diagnoses: ds, Terms: Terms{HourRate: 58, Years: 4, Comeback: 40}})
		if err != nil {
			rt.Fatal(err)
		}
		cheapest := math.Inf(1)
		for _, o := range cmp.Options {
			if !o.Temporary && o.Veto == nil && o.ID != "leave" {
				cheapest = math.Min(cheapest, o.Expected)
			}
		}
		for _, o := range cmp.Options {
			if o.Temporary && o.Expected < cheapest {
				rt.Fatalf("%s: %s at %g, the lasting one at %g", s.ID, o.ID, o.Expected, cheapest)
			}
		}
	})
}

// What only needs cleaning is cleaned: a free cleaning that holds comes out under a new part.
func TestWhatOnlyNeedsCleaningIsCleaned(t *testing.T) {
	tm := Terms{HourRate: 58, LossPerDay: 25, Years: 4, Comeback: 60, Postage: 8}
	for _, x := range []struct{ circuit, station, mode, want string }{
		{"starter", "battery", "discharged", "repair"},        // charged and tested before it is replaced
		{"starter", "pos_clamp", "high_resistance", "repair"}, // cleaned and tightened
		{"window", "door_switch", "high_resistance", "repair"},
		{"wiper", "park_switch", "high_resistance", "repair"},
		{"traction", "brake_coil", "sticking", "repair"},
		{"capacitor_fan", "bearing", "drag", "replace"}, // a bearing is replaced as a bearing
	} {
		cmp := about(t, family(t, x.circuit), x.station, []Diagnosis{{[]string{x.station + "." + x.mode}, 1}}, tm)
		assert.Equal(t, x.want, cmp.Options[0].ID, "%s %s.%s: %s", x.circuit, x.station, x.mode, cmp.Says)
	}
	// The plunger that sticks: cleaned, or its solenoid replaced, before the whole starter.
	cmp := about(t, starter(t), "coil", []Diagnosis{{[]string{"coil.sticking"}, 1}}, tm)
	assert.Less(t, option(cmp, "replace").Expected, option(cmp, "assembly").Expected)
	// A bearing as a bearing, brushes as brushes, before the whole motor.
	tm.LossPerDay = 5
	cmp = about(t, family(t, "traction"), "motor", []Diagnosis{{[]string{"motor.bearing_drag"}, 1}}, tm)
	assert.Equal(t, "bearing", cmp.Options[0].ID, cmp.Says)
	cmp = about(t, family(t, "traction"), "motor", sure, tm)
	assert.Equal(t, "brushes", cmp.Options[0].ID, cmp.Says)
}

// Each fault that a family knows can be treated by something that lasts.
func TestEveryFaultHasATreatment(t *testing.T) {
	for _, id := range circuit.Families() {
		c := family(t, id)
		for i := range c.Stations {
			s := &c.Stations[i]
			for mode := range s.Faults {
				f := fault.Fault{Station: s.ID, Mode: mode}.String()
				lasting := false
				for _, x := range steps(c, s, Terms{}) {
					lasting = lasting || !x.temporary && x.shares[f] > 0.5
					assert.NotContains(t, x.Label, "%", x.Does)
				}
				assert.True(t, lasting, "%s: nothing lasting is done about %s", id, f)
			}
		}
	}
}

// With two faults a new motor is no longer "cures none": it cures its own, what stays
// behind is its own figure, and a plan for both cures both.
func TestTwoFaultsAreDecidedTogetherOrOneByOne(t *testing.T) {
	c := family(t, "traction")
	ds := []Diagnosis{{[]string{"motor.brushes_worn", "motor_connector.high_resistance"}, 0.92},
		{[]string{"motor.brushes_worn"}, 0.05}, {[]string{"controller.no_output"}, 0.03}}
	cmp, err := Compare(c, Question{Stations: []string{"motor", "motor_connector"}, Diagnoses: ds,
		Terms: Terms{HourRate: 58, LossPerDay: 25, Years: 4, Comeback: 60}})
	require.NoError(t, err)
	alone := option(cmp, "motor.replace")
	assert.Nil(t, alone.Veto)
	assert.InDelta(t, 0.97, alone.CuresThis, 1e-9)
	assert.InDelta(t, 0.95, alone.Behind, 1e-9, "the connector is, and perhaps the controller")
	i := slices.IndexFunc(cmp.Options, func(o Option) bool { return len(o.Steps) == 2 })
	require.GreaterOrEqual(t, i, 0)
	both := cmp.Options[i]
	assert.Equal(t, 0, i, "it is the cheapest: %s", cmp.Says)
	assert.Contains(t, both.ID, "+")
	assert.InDelta(t, 0.03, both.Behind, 1e-9)
	assert.Greater(t, both.Works, 0.75)
	assert.Subset(t, both.Cures, []string{"motor.brushes_worn", "motor_connector.high_resistance"})
}

// A low chance is explained: of a motor that is bad for certain, brushes cure only what
// is wrong with brushes.
func TestALowChanceSaysWhatIsMissed(t *testing.T) {
	ds := []Diagnosis{{[]string{"motor.brushes_worn"}, 0.38}, {[]string{"motor.winding_open"}, 0.61}, {nil, 0.01}}
	cmp := about(t, starter(t), "motor", ds, Terms{HourRate: 58, Years: 4})
	o := option(cmp, "brushes")
	assert.InDelta(t, 0.9*0.38/0.99, o.CuresThis, 1e-9)
	require.Len(t, o.Misses, 1)
	assert.Equal(t, "motor.winding_open", o.Misses[0].Fault)
	assert.InDelta(t, 0.61/0.99, o.Misses[0].Probability, 1e-9)
	assert.Zero(t, o.Behind)
}

// The customer's wishes name the plans they rule out, and those stand after the rest.
func TestTheCustomersWishesCount(t *testing.T) {
	tm := Terms{HourRate: 58, LossPerDay: 5, Years: 4, Comeback: 60, MostCost: 150}
	cmp := about(t, starter(t), "motor", sure, tm)
	for i, o := range cmp.Options {
		if o.ID != "leave" && o.ID != "temporary" && o.Parts+o.Labour > 150 {
			assert.Contains(t, o.Against, "more than the limit of 150", o.ID)
			assert.Positive(t, i)
		}
	}
	assert.Contains(t, cmp.Ruled, "fit an exchange starter (costs 277, more than the limit of 150)")
	for code, says := range map[string]string{"EUR": "costs €277", "CHF": "costs CHF\u00a0277", "USD": "costs US$277"} {
		tm.Currency = code
		assert.Contains(t, about(t, starter(t), "motor", sure, tm).Ruled, says)
	}
	two := 2.0
	cmp = about(t, starter(t), "motor", sure, Terms{HourRate: 58, LossPerDay: 5, Years: 4, WithinDays: &two})
	assert.Contains(t, option(cmp, "rewind").Against, "too late")
	assert.Empty(t, option(cmp, "replace").Against)
	assert.Contains(t, option(cmp, "leave").Against, "will not run")
	cmp = about(t, starter(t), "motor", sure, Terms{HourRate: 58, LossPerDay: 5, Years: 4, Guarantee: GuaranteeWanted})
	assert.Contains(t, option(cmp, "donor").Against, "no guarantee")
	assert.Empty(t, option(cmp, "replace").Against)
	with := option(about(t, starter(t), "motor", sure, Terms{HourRate: 58, Years: 4}), "replace")
	waived := option(about(t, starter(t), "motor", sure, Terms{HourRate: 58, Years: 4, Guarantee: GuaranteeWaived}), "replace")
	assert.Zero(t, waived.Warranty)
	assert.Greater(t, waived.Expected, with.Expected)
	cmp = about(t, starter(t), "motor", sure, Terms{HourRate: 58, LossPerDay: 5, Years: 4, MostCost: 1})
	assert.Contains(t, cmp.Says, "No repair meets all the customer wants: leave it")
	none := 0.0
	cmp = about(t, starter(t), "motor", sure, Terms{HourRate: 58, Years: 4, MostCost: 1, WithinDays: &none})
	assert.Contains(t, cmp.Says, "Nothing that can be done meets all")
}

// One more reading stands in the list by its own value: it wins where the diagnosis is
// uncertain and the reading cheap, and is not there where nothing is left to learn.
func TestOneMoreReadingFirst(t *testing.T) {
	tm := Terms{HourRate: 58, LossPerDay: 25, Years: 4, Comeback: 60}
	ds := []Diagnosis{{[]string{"motor.brushes_worn"}, 0.55}, {[]string{"battery.weak"}, 0.45}}
	ask := func(ds []Diagnosis, r Reading) *Comparison {
		cmp, err := Compare(starter(t), Question{Stations: []string{"motor"}, Diagnoses: ds, Terms: tm, Readings: []Reading{r}})
		require.NoError(t, err)
		return cmp
	}
	cmp := ask(ds, Reading{"Volts under load", 3, 1, 0, 0.97})
	assert.Equal(t, "reading", cmp.Options[0].ID)
	assert.Contains(t, cmp.Says, "Take one more reading first, volts under load")
	assert.NotEqual(t, "reading", ask(ds, Reading{"Tear the dash out", 600, 2, 0, 0.6}).Options[0].ID)
	assert.Empty(t, option(ask(sure, Reading{"Volts", 3, 1, 0, 0.97}), "reading").ID)
	assert.Empty(t, option(ask(ds, Reading{"Volts at the far end", 3, 1, 0, 0.56}), "reading").ID,
		"it saves no more than the figures can tell apart")
}

func TestUncertainDiagnosisMakesEveryOptionDearer(t *testing.T) {
	tm := Terms{HourRate: 60, LossPerDay: 20, Years: 4, Comeback: 30}
	a := about(t, starter(t), "motor", sure, tm)
	b := about(t, starter(t), "motor", []Diagnosis{{[]string{"motor.brushes_worn"}, 0.6}, {[]string{"battery.weak"}, 0.4}}, tm)
	for _, id := range []string{"repair", "replace"} {
		assert.Greater(t, option(b, id).Expected, option(a, id).Expected, id)
		assert.InDelta(t, option(a, id).CuresThis, option(b, id).CuresThis, 1e-12)
		assert.InDelta(t, 0.4, option(b, id).Behind, 1e-12)
	}
}

// At each break-even the two options cost the same.
func TestBreakEvenIsWhereTheCostsMeet(t *testing.T) {
	c := starter(t)
	rapid.Check(t, func(rt *rapid.T) {
		f := func(n string, lo, hi float64) float64 { return rapid.Float64Range(lo, hi).Draw(rt, n) }
		tm := Terms{HourRate: f("rate", 20, 120), LossPerDay: f("loss", 1, 200), Years: f("years", 0.5, 15),
			Comeback: f("comeback", 0, 200)}
		id := rapid.SampledFrom([]string{"motor", "pos_clamp", "battery", "drive"}).Draw(rt, "station")
		q := Question{Stations: []string{id},
			Diagnoses: []Diagnosis{{[]string{id + "." + c.Station(id).Repair.Cures[0]}, f("p", 0.3, 1)},
				{[]string{"gnd_cable.open"}, 0.2}}, Terms: tm}
		cmp, err := Compare(c, q)
		if err != nil {
			rt.Fatal(err)
		}
		for _, b := range cmp.BreakEvens {
			best, other, t2 := cmp.Options[0], cmp.Options[1], tm // no reading is offered here
			switch b.Quantity {
			case "parts":
				best.Parts = b.Value
			case "wait_days":
				best.Standing += (b.Value - best.WaitDays) * tm.LossPerDay
			case "cures_this":
				best.assume = &b.Value
			case "years":
				t2.Years = b.Value
			default:
				continue
			}
			st := newStory(c, &q).under(t2)
			if x, y := st.cost(best), st.cost(other); math.Abs(x-y) > 0.01 {
				rt.Fatalf("%s at %g: %g against %g", b.Quantity, b.Value, x, y)
			}
		}
		for _, o := range cmp.Options {
			if o.Low > o.High || math.IsNaN(o.Expected) || o.Works < 0 || o.Works > 1 || o.CuresThis > 1 ||
				o.Behind < 0 || o.Behind > 1 || o.RiskCost < -1e-9 && o.Warranty == 0 {
				rt.Fatalf("%+v", o)
			}
		}
	})
}

func TestAccessIsPaidAsItIs(t *testing.T) {
	tm := Terms{HourRate: 60, LossPerDay: 0, Years: 4}
	ask := func(opened, harder float64) float64 {
		cmp, err := Compare(starter(t), Question{Stations: []string{"motor"}, Diagnoses: sure, Terms: tm,
			Opened: map[string]float64{"motor": opened}, Harder: map[string]float64{"motor": harder}})
		require.NoError(t, err)
		return option(cmp, "repair").Minutes
	}
	assert.InDelta(t, 31, ask(0, 0)-ask(31, 0), 1e-9, "what is open already is not paid twice")
	assert.InDelta(t, 25, ask(0, 25)-ask(0, 0), 1e-9, "minutes of access recorded here are in the labour")
}

func TestNonsenseIsRefused(t *testing.T) {
	for _, tm := range []Terms{{HourRate: -1, Years: 1}, {Years: 0}, {Years: math.NaN()},
		{LossPerDay: math.Inf(1), Years: 1}, {Years: 1, Guarantee: "gold"}, {Years: 1, MostCost: -3}} {
		_, err := Compare(starter(t), Question{Stations: []string{"motor"}, Diagnoses: sure, Terms: tm})
		assert.Error(t, err)
	}
	for _, stations := range [][]string{nil, {"mast"}, {"motor", "motor"}, {"motor", "coil", "battery", "drive", "mount"}} {
		_, err := Compare(starter(t), Question{Stations: stations, Diagnoses: sure, Terms: Terms{Years: 1}})
		require.Error(t, err, stations)
		assert.False(t, strings.HasSuffix(err.Error(), "."))
	}
}
