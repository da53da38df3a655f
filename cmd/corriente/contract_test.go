package main

import (
	"encoding/json"
	"fmt"
	"math"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"corriente/core/circuit"
)

// file writes a file for a command to read.
func file(t *testing.T, name, text string) string {
	t.Helper()
	p := filepath.Join(t.TempDir(), name)
	require.NoError(t, os.WriteFile(p, []byte(text), 0o600))
	return p
}

// object runs a command that prints one JSON object.
func object(t *testing.T, args ...string) map[string]any {
	t.Helper()
	code, out, err := call(t, args...)
	require.Zero(t, code, err)
	var v map[string]any
	require.NoError(t, json.Unmarshal([]byte(out), &v), out)
	return v
}

// A case with nothing in it but its circuit is a case: the families' defaults stand in.
func TestEveryFamilyIsSolvedInEveryState(t *testing.T) {
	for _, id := range circuit.Families() {
		c, err := circuit.Family(id)
		require.NoError(t, err)
		path := file(t, id+".json", fmt.Sprintf(`{"format":"corriente-case/1","circuit":%q,"evidence":[]}`, id))
		for _, st := range c.States {
			s := object(t, "solve", path, "--state", st.ID, "--format", "json")
			assert.Equal(t, st.ID, s["state"], id)
			nodes := s["nodes"].(map[string]any)
			for _, n := range c.Nodes {
				v, there := nodes[n.ID]
				if n.Hidden { // no probe reaches it
					assert.False(t, there, "%s %s: %s", id, st.ID, n.ID)
					continue
				}
				require.True(t, there, "%s %s: %s is missing", id, st.ID, n.ID)
				if v != nil {
					assert.False(t, math.IsNaN(v.(float64)) || math.Abs(v.(float64)) > 400, "%s %s %s", id, st.ID, n.ID)
				}
			}
			assert.Contains(t, s, "currents", "%s %s", id, st.ID)
			assert.Contains(t, s, "contacts", "%s %s", id, st.ID)
			turns := slices.ContainsFunc(c.Stations, func(x circuit.Station) bool { return x.Kind == circuit.Motor })
			_, there := s["motor"]
			assert.Equal(t, turns, there, "%s %s", id, st.ID)
		}
		code, text, _ := call(t, "diagnose", path)
		assert.Zero(t, code)
		assert.NotEmpty(t, text)
	}
}

// What the contract says of solve: a node that nothing holds is null, a seized motor is
// stalled and a dead one is not, contacts say how they stand.
func TestSolveSaysWhatTheContractPromises(t *testing.T) {
	path := file(t, "s.json", `{"format":"corriente-case/1","circuit":"starter","evidence":[]}`)
	motor := func(s map[string]any) map[string]any { return s["motor"].(map[string]any) }
	good := object(t, "solve", path, "--state", "crank", "--format", "json")
	assert.Greater(t, motor(good)["rpm"], 1000.0)
	assert.Equal(t, false, motor(good)["stalled"])
	assert.Equal(t, "closed", good["contacts"].(map[string]any)["main_contact"])
	held := object(t, "solve", path, "--state", "crank", "--fault", "motor.seized", "--format", "json")
	assert.Equal(t, true, motor(held)["stalled"])
	assert.Equal(t, 0.0, motor(held)["rpm"])
	assert.Greater(t, motor(held)["torque_nm"], motor(good)["torque_nm"])
	dead := object(t, "solve", path, "--state", "crank", "--fault", "coil.open", "--format", "json")
	assert.Equal(t, false, motor(dead)["stalled"], "not fed, so not stalled")
	assert.Equal(t, "open", dead["contacts"].(map[string]any)["main_contact"])
	// Added ohms lose volts by Ohm's law.
	lossy := object(t, "solve", path, "--state", "crank", "--fault", "pos_clamp.high_resistance=0.021ohm", "--format", "json")
	n, i := lossy["nodes"].(map[string]any), lossy["currents"].(map[string]any)
	drop := n["bat_pos"].(float64) - n["pos_cable_start"].(float64)
	assert.InDelta(t, 0.0212, drop/i["pos_clamp"].(float64), 1e-4, "the clamp's own 0.2 mΩ and 21 mΩ more")
	// Without a severity a middling one is taken, and named where it disturbs nobody.
	code, out, err := call(t, "solve", path, "--state", "crank", "--fault", "pos_clamp.high_resistance", "--format", "json")
	assert.Zero(t, code)
	assert.Contains(t, err, "pos_clamp.high_resistance: no severity given, taking ")
	assert.True(t, json.Valid([]byte(out)))
	// Two at once.
	two := object(t, "solve", path, "--state", "crank", "--fault", "battery.weak=x5", "--fault", "drive.binding=x1.5", "--format", "json")
	assert.Less(t, motor(two)["rpm"], motor(good)["rpm"])
}

// circuits lists what there is to say of a family: outside programs take their ids from it.
func TestCircuitsListsEveryFamilysIds(t *testing.T) {
	code, out, _ := call(t, "circuits", "--format", "json")
	require.Zero(t, code)
	for _, id := range circuit.Families() {
		assert.Contains(t, out, `"`+id+`"`)
		c, err := circuit.Family(id)
		require.NoError(t, err)
		code, one, msg := call(t, "circuits", id, "--format", "json")
		require.Zero(t, code, msg)
		_, text, _ := call(t, "circuits", id)
		for _, s := range c.Stations {
			assert.Contains(t, one, `"`+s.ID+`"`, id)
			assert.Contains(t, text, s.ID, id)
		}
		for _, n := range c.Nodes {
			assert.Contains(t, one, `"`+n.ID+`"`, id)
		}
		for _, o := range c.Observations {
			assert.Contains(t, one, `"`+o.ID+`"`, id)
		}
	}
}

// The document's own example: a value as typed, OL beside 0, leads, a clamp, and what the
// answer must hold of each.
func TestTheExampleOfTheFormat(t *testing.T) {
	path := file(t, "case.json", `{"format":"corriente-case/1","circuit":"starter","nominal_voltage":12,"ambient_c":20,
	"parameters":{"motor.resistance":0.011,"pos_cable.resistance":{"value":0.0012,"percent":20}},
	"instruments":{"dmm":{"kind":"multimeter","dc_voltage":{"percent":0.5,"counts":2,"resolution":0.01,"ranges":[0.6,6,60]},"resistance":{"percent":0.8,"counts":3,"resolution":0.1}},
		"clamp":{"kind":"dc_clamp","dc_current":{"percent":2.0,"counts":5,"resolution":0.1}}},
	"evidence":[{"measure":"voltage","state":"rest","from":"bat_pos","to":"bat_neg","value":"12.61 V","instrument":"dmm"},
		{"measure":"voltage","state":"crank","from":"sol_m","to":"case","value":"11.9 V","instrument":"dmm"},
		{"measure":"current","state":"crank","through":"pos_cable","value":"5 A","instrument":"clamp"},
		{"measure":"resistance","state":"isolated","from":"sol_m","to":"case","value":"OL","leads":"0.1 ohm","instrument":"dmm"},
		{"observe":"click","state":"crank","outcome":"single"}]}`)
	d := object(t, "diagnose", path, "--format", "json")
	assert.Equal(t, "motor", d["verdict"].(map[string]any)["station"])
	ev := d["evidence"].([]any)
	require.Len(t, ev, 5)
	for i, x := range ev {
		e := x.(map[string]any)
		assert.EqualValues(t, i+1, e["index"])
		assert.NotEmpty(t, e["says"])
		assert.Contains(t, e, "bits")
	}
	volts := ev[1].(map[string]any)
	assert.InDelta(t, 11.9, volts["reading"], 1e-9)
	assert.InDelta(t, 11.9-(0.005*11.9+0.02), volts["low"], 0.011, "0.5 % and two counts")
	assert.Less(t, volts["low"], volts["reading"])
	assert.Equal(t, true, ev[3].(map[string]any)["over"])
	sum := 0.0
	for _, x := range d["diagnoses"].([]any) {
		sum += x.(map[string]any)["probability"].(float64)
	}
	assert.LessOrEqual(t, sum, 1.0001)
}

// What is wrong in a case is named by its place, and nothing is printed of an answer.
func TestWrongCasesNameThePlace(t *testing.T) {
	whole := func(evidence string) string {
		return `{"format":"corriente-case/1","circuit":"starter","evidence":[` + evidence + `]}`
	}
	for name, c := range map[string]struct{ text, place string }{
		"unknown field":   {`{"format":"corriente-case/1","circuit":"starter","evidence":[],"mood":"good"}`, "mood"},
		"unknown circuit": {`{"format":"corriente-case/1","circuit":"toaster","evidence":[]}`, "/circuit"},
		"other format":    {`{"format":"corriente-case/9","circuit":"starter","evidence":[]}`, "/format"},
		"above 60 V":      {`{"format":"corriente-case/1","circuit":"traction","nominal_voltage":80,"evidence":[]}`, "60 V"},
		"unknown node": {whole(`{"measure":"voltage","state":"crank","from":"attic","to":"bat_neg","value":"1 V"}`),
			"/evidence/0/from"},
		"unknown state": {whole(`{"measure":"voltage","state":"flying","from":"bat_pos","to":"bat_neg","value":"1 V"}`),
			"/evidence/0/state"},
		"unknown outcome": {whole(`{"observe":"click","state":"crank","outcome":"boom"}`), "/evidence/0/outcome"},
		"volts of amperes": {whole(`{"measure":"voltage","state":"crank","from":"bat_pos","to":"bat_neg","value":"12 A"}`),
			"/evidence/0/value"},
		"no number": {whole(`{"measure":"voltage","state":"crank","from":"bat_pos","to":"bat_neg","value":"much"}`),
			"/evidence/0/value"},
		"second of two": {whole(`{"observe":"click","state":"crank","outcome":"single"},{"observe":"smell"}`), "/evidence/1"},
		"unknown parameter": {`{"format":"corriente-case/1","circuit":"starter","parameters":{"motor.mood":1},"evidence":[]}`,
			"/parameters/motor.mood"},
		"unknown meter": {whole(`{"measure":"voltage","state":"crank","from":"bat_pos","to":"bat_neg","value":"12 V","instrument":"mine"}`),
			"/evidence/0/instrument"},
		"not JSON": {"{\n\"format\": corriente\n}", "line 2"},
		"a list":   {`[]`, ""},
		"empty":    {``, ""},
	} {
		t.Run(name, func(t *testing.T) {
			path := file(t, "bad.json", c.text)
			for _, command := range [][]string{{"diagnose", path}, {"solve", path, "--state", "crank"},
				{"netlist", path, "--state", "crank"}} {
				code, out, err := call(t, command...)
				assert.Equal(t, 2, code)
				assert.Empty(t, out)
				assert.Contains(t, err, c.place)
				assert.Contains(t, err, "bad.json")
				assert.Equal(t, 1, strings.Count(err, "\n"), err)
			}
		})
	}
}

// A trace that cannot be read is refused with its line; one that can has every figure of
// the contract.
func TestTraceFilesGoodAndBad(t *testing.T) {
	var b strings.Builder
	b.WriteString("s,A\n")
	for i := range 4000 {
		x := float64(i) / 10000
		fmt.Fprintf(&b, "%.5f,%.4f\n", x, 5+0.4*math.Sin(2*math.Pi*200*x))
	}
	good := file(t, "good.csv", b.String())
	d := object(t, "trace", good, "--format", "json")
	for _, k := range []string{"channel", "mean_a", "rms_a", "peak_a", "inrush_a", "offset_a", "ripple_percent",
		"ripple_hz", "bars", "humps_per_revolution", "rpm", "weak_bars", "bar_levels", "dropouts", "verdict", "warnings"} {
		assert.Contains(t, d, k)
	}
	assert.InDelta(t, 5, d["mean_a"], 0.01)
	assert.InDelta(t, math.Sqrt(25+0.08), d["rms_a"], 0.01, "a sine of 0.4 A on 5 A")
	assert.InDelta(t, 200, d["ripple_hz"], 2)
	assert.InDelta(t, 100*2*0.4*math.Sin(0.45*math.Pi)/5, d["ripple_percent"], 0.4, "95th less 5th percentile of a sine")
	assert.Nil(t, d["bars"], "nothing marks a revolution")
	two := object(t, "trace", good, "--against", good, "--format", "json")
	for _, k := range []string{"trace", "against", "comparison"} {
		assert.Contains(t, two, k)
	}
	for name, c := range map[string]struct{ text, says string }{
		"volts without a scale": {"s,V\n0,1\n0.1,2\n0.2,1\n0.3,2\n", "scale"},
		"one sample":            {"s,A\n0,1\n", ""},
		"backwards":             {"s,A\n0,1\n0.2,2\n0.1,3\n0.3,1\n", "line"},
		"cut short":             {"s,A\n0,1\n0.1,2\n0.2", "line"},
		"nothing numeric":       {"s,A\nx,y\nz,w\n", ""},
		"constant":              {"s,A\n0,1\n0.1,1\n0.2,1\n0.3,1\n", ""},
		"empty":                 {"", ""},
	} {
		t.Run(name, func(t *testing.T) {
			code, out, err := call(t, "trace", file(t, "bad.csv", c.text), "--format", "json")
			assert.Equal(t, 2, code)
			assert.Empty(t, out)
			assert.Contains(t, err, c.says)
			assert.Equal(t, 1, strings.Count(err, "\n"), err)
		})
	}
}

// The judge of traces counts, and refuses a number that is none.
func TestEvaluateTraces(t *testing.T) {
	code, out, err := call(t, "evaluate", "traces", "--traces", "3", "--seed", "5")
	assert.Equal(t, 0, code, err)
	assert.Regexp(t, `^3 traces: speed right or not said [0-3]; of [0-3] that can be told`, out)
	code, out, err = call(t, "evaluate", "traces", "--traces", "0")
	assert.Equal(t, 2, code)
	assert.Empty(t, out)
	assert.Contains(t, err, "--traces 0: give 1 to 100000")
}
