package evaluate

import (
	"fmt"
	"math"
	"math/rand/v2"
	"strconv"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"corriente/core/casefile"
	"corriente/core/circuit"
	"corriente/core/diagnose"
	"corriente/core/unit"
)

// mistyped is a reading as it may be typed by mistake, with what was done to it; ok is false
// where that is no mistake that could be seen.
func mistyped(e *casefile.Evidence, kind int) (value, what string, ok bool) {
	if e.Reading.Over {
		return "0", "0 for OL", e.Measure == unit.Resistance
	}
	v := e.Reading.Value
	units := map[unit.Measure]string{unit.Voltage: " V", unit.Current: " A", unit.Resistance: " ohm"}
	least := map[unit.Measure]float64{unit.Voltage: 0.1, unit.Current: 1, unit.Resistance: 1}
	if math.Abs(v) < least[e.Measure] {
		return "", "", false
	}
	switch kind {
	case 0:
		v, what = v/1000, "a thousandth"
	case 1:
		v, what = v*10, "ten times"
	case 2:
		v, what = v/10, "a tenth"
	case 3:
		if e.Measure == unit.Resistance {
			return "OL", "OL for ohms", true
		}
		v, what = -v, "leads swapped"
	default:
		v, what = v*1000, "a thousand times"
	}
	return strconv.FormatFloat(v, 'g', 5, 64) + units[e.Measure], what, true
}

// slips tallies what came of readings that were typed wrongly.
type slips struct{ typed, refused, named, wrong, leaning, honest, accused int }

func (s *slips) add(o slips) {
	*s = slips{s.typed + o.typed, s.refused + o.refused, s.named + o.named, s.wrong + o.wrong, s.leaning + o.leaning,
		s.honest + o.honest, s.accused + o.accused}
}

// TestTypedSlips types one reading of a job wrongly and weighs it: no sure verdict may be
// wrong because of it, and nearly always the slip is named. The machines are of other
// equations than the adviser's. Of each family two draws: with one, how many are named hangs by four or five on
// which machines it happens to hold.
func TestTypedSlips(t *testing.T) {
	if testing.Short() {
		t.Skip("minutes")
	}
	var all slips
	for _, family := range []string{"starter", "two_wire_motor", "traction", "window", "contactor_motor"} {
		f, err := circuit.Family(family)
		require.NoError(t, err)
		a, err := diagnose.NewAdviser(f)
		require.NoError(t, err)
		for _, seed := range []uint64{77, 78} {
			one := slips{}
			for rng := rand.New(rand.NewPCG(seed, uint64(len(family)))); one.typed < 21; {
				one.typedOnce(t, a, f, rng)
			}
			t.Logf("%s %d: %+v", family, seed, one)
			all.add(one)
		}
	}
	t.Logf("all, of which sure and wrong, or leaning the wrong way without a word; and honest jobs, of which accused of a slip: %+v", all)
	assert.LessOrEqual(t, all.wrong, 1)
	assert.GreaterOrEqual(t, float64(all.named), 0.8*float64(all.typed))
}

// typedOnce works one machine to its verdict, where that is the right one, types one of its readings wrongly and
// counts what comes of it. The slip is to be the only thing wrong.
func (s *slips) typedOnce(t *testing.T, a *diagnose.Adviser, f *circuit.Circuit, rng *rand.Rand) {
	o := Options{Circuit: f.ID, Machines: Tuning, Most: 12}
	m, err := newSubject(a, o, rng)
	require.NoError(t, err)
	stations := m.Stations()
	if len(stations) != 1 {
		return
	}
	tk := &taker{a: a, o: o, mc: m, rng: rng, j: &diagnose.Job{Instruments: m.Instruments(), Brief: true}}
	op, err := tk.toVerdict(t.Context(), newChooser("", a, rng), &Trial{}, stations)
	require.NoError(t, err)
	if op.Verdict.Status != diagnose.Isolated || !named(a, stations, *op.Verdict.Station) {
		return
	}
	s.honest++
	if says(op) != "" {
		s.accused++
	}
	for range 8 {
		i := rng.IntN(len(tk.j.Evidence))
		e := tk.j.Evidence[i]
		if e.Observe != "" {
			continue
		}
		value, what, ok := mistyped(&e, rng.IntN(5))
		if !ok {
			continue
		}
		s.typed++
		e.Value = value
		if p := e.Check(f, tk.j.Instruments); p != nil {
			s.refused++
			s.named++
			return
		}
		j := *tk.j
		j.Evidence = append([]casefile.Evidence{}, tk.j.Evidence...)
		j.Evidence[i] = e
		got, err := a.Glance(t.Context(), &j)
		require.NoError(t, err)
		v := &got.Verdict
		told := strings.Contains(says(got), fmt.Sprintf("eading %d", i+1))
		sure := v.Status == diagnose.NothingWrong || v.Status == diagnose.Isolated && !named(a, stations, *v.Station)
		switch {
		case told:
			s.named++
		case v.Station != nil && !named(a, stations, *v.Station):
			s.leaning++
		}
		if sure {
			s.wrong++
		}
		if sure || !told {
			t.Logf("%s %v: reading %d %s %s %s-%s%s was typed as %s (%s): %s %s", f.ID, m.Truth(), i+1, e.Measure,
				e.State, e.From, e.To, e.Through, value, what, v.Status, v.Says)
		}
		return
	}
}

// says is what an opinion tells of slips.
func says(op *diagnose.Opinion) string {
	out := op.Verdict.Slip
	for _, w := range op.Warnings {
		if w.Code == "slip" {
			out += " " + w.Says
		}
	}
	return out
}
