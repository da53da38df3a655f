package casefile

import (
	"bytes"
	"errors"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/santhosh-tekuri/jsonschema/v6"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"corriente/core/circuit"
	"corriente/core/unit"
)

const base = `{
  "format": "corriente-case/1",
  "circuit": "starter",
  "evidence": [
    {"measure": "voltage", "state": "crank", "from": "sol_b", "to": "sol_m", "value": "2.3 V"}
  ]
}`

func TestBadCasesNameThePlaceAndTheMend(t *testing.T) {
	cases := []struct{ name, from, to, place, says string }{
		{"unknown node", `"sol_b"`, `"sol_x"`, "/evidence/0/from", `did you mean "sol_b"`},
		{"state the family has not", `"crank"`, `"idle_unloaded"`, "/evidence/0/state", "no state"},
		{"ohms in a powered state", `"voltage", "state": "crank", "from": "sol_b", "to": "sol_m", "value": "2.3 V"`,
			`"resistance", "state": "crank", "from": "sol_b", "to": "sol_m", "value": "2.3 ohm"`, "/evidence/0/state", "disconnect first"},
		{"volts with nothing connected", `"crank"`, `"isolated"`, "/evidence/0/state", "nothing is connected"},
		{"unit that does not fit", `"2.3 V"`, `"2.3 A"`, "/evidence/0/value", "amperes do not fit"},
		{"value no meter shows", `"2.3 V"`, `"230 V"`, "/evidence/0/value", "above 60 V DC"},
		{"volts over range", `"2.3 V"`, `"OL"`, "/evidence/0/value", "next range"},
		{"unknown field", `"to": "sol_m"`, `"to": "sol_m", "colour": "red"`, "/evidence/0/colour", "no field"},
		{"unknown family", `"starter"`, `"startr"`, "/circuit", "starter"},
		{"unknown parameter", `"circuit": "starter",`, `"circuit": "starter", "parameters": {"motor.kv": 3},`,
			"/parameters/motor.kv", "no parameter"},
		{"impossible parameter", `"circuit": "starter",`,
			`"circuit": "starter", "parameters": {"motor.resistance": -3},`, "/parameters/motor.resistance", "cannot be"},
		{"both probes on one node", `"sol_m"`, `"sol_b"`, "/evidence/0/to", "both probes"},
		{"above 60 V", `"circuit": "starter",`, `"circuit": "starter", "nominal_voltage": 96,`, "/nominal_voltage", "licensed"},
		{"wrong format", `corriente-case/1`, `corriente-case/9`, "/format", "corriente-case/1"},
		{"unknown instrument", `"value"`, `"instrument": "mine", "value"`, "/evidence/0/instrument", "no instrument"},
		{"cut short", "]\n}", "", "line", "cut short"},
		{"not JSON", `"circuit":`, `circuit:`, "line 3", "not JSON"},
		{"wrong word", `{"measure": "voltage", "state": "crank", "from": "sol_b", "to": "sol_m", "value": "2.3 V"}`,
			`{"observe": "click", "outcome": "loud"}`, "/evidence/0/outcome", "chatter"},
		{"leads on volts", `"value"`, `"leads": "0.1", "value"`, "/evidence/0/leads", "ohms only"},
		{"a code for a fault there is not", `"circuit": "starter",`,
			`"circuit": "starter", "codes": {"6": ["motor.sleepy"]},`, "/codes/6/0", "no fault"},
		{"a code that is no number", `"circuit": "starter",`, `"circuit": "starter", "codes": {"six": []},`, "/codes/six", "whole number"},
		{"unknown access group", `"circuit": "starter",`, `"circuit": "starter", "access_minutes": {"boot": 3},`,
			"/access_minutes/boot", "access group"},
	}
	for _, c := range cases {
		t.Run(c.name, func(t *testing.T) {
			text := strings.Replace(base, c.from, c.to, 1)
			require.NotEqual(t, base, text)
			_, err := Read(strings.NewReader(text))
			var p *Problem
			require.True(t, errors.As(err, &p), "%v", err)
			assert.Contains(t, p.Pointer, c.place)
			assert.Contains(t, p.Error(), c.says)
			assert.NotContains(t, p.Error(), "\n", "one line")
		})
	}
}

func TestEmptyAndHugeFiles(t *testing.T) {
	_, err := Read(strings.NewReader(""))
	assert.ErrorContains(t, err, "empty")
	_, err = Read(bytes.NewReader(bytes.Repeat([]byte(" "), MaxBytes+2)))
	assert.ErrorContains(t, err, "larger than")
	_, err = Read(strings.NewReader(base + "{}"))
	assert.ErrorContains(t, err, "more after the end")
}

func TestParametersSayHowWellTheyAreKnown(t *testing.T) {
	c, err := Read(strings.NewReader(strings.Replace(base, `"circuit": "starter",`, `"circuit": "starter", "ambient_c": 20,
	  "parameters": {"motor.resistance": 0.011, "motor.ke": {"value": 0.02, "percent": 20}, "battery.emf": 12.7, "motor.load_law": "constant",
	  "pos_cable.area_mm2": 35, "pos_cable.length_m": 2},`, 1)))
	require.NoError(t, err)
	m := c.Circuit.Station("motor")
	assert.Equal(t, circuit.Param{Value: 0.011, Spread: 0.05}, m.Params["resistance"])
	assert.InDelta(t, 0.2, m.Params["ke"].Spread, 1e-12)
	assert.InDelta(t, 0.06, c.Circuit.Station("battery").Params["emf"].SD, 1e-12)
	assert.Equal(t, "constant", m.LoadLaw)
	// 2 m of 35 mm² copper at 20 °C: 2/58/35 Ω (IEC 60028).
	assert.InEpsilon(t, 2.0/58/35, c.Circuit.Station("pos_cable").Params["resistance"].Value, 1e-9)
	f, err := circuit.Family("starter")
	require.NoError(t, err)
	assert.NotEqual(t, 0.011, f.Station("motor").Params["resistance"].Value, "the shared family must not change")
}

func TestLeadsAreSubtracted(t *testing.T) {
	c, err := Read(strings.NewReader(strings.Replace(base,
		`{"measure": "voltage", "state": "crank", "from": "sol_b", "to": "sol_m", "value": "2.3 V"}`,
		`{"measure": "resistance", "state": "isolated", "from": "sol_s", "to": "case", "value": "1.1 ohm", "leads": "0.2"}`, 1)))
	require.NoError(t, err)
	assert.InDelta(t, 0.9, c.Evidence[0].Reading.Value, 1e-12)
}

func compile(t testing.TB) *jsonschema.Schema {
	t.Helper()
	jc := jsonschema.NewCompiler()
	for _, n := range []string{"corriente-circuit-1.schema.json", "corriente-case-1.schema.json"} {
		f, err := os.Open(filepath.Join("../../schema", n))
		require.NoError(t, err)
		doc, err := jsonschema.UnmarshalJSON(f)
		f.Close()
		require.NoError(t, err)
		require.NoError(t, jc.AddResource("https://corriente.invalid/"+n, doc))
		require.NoError(t, jc.AddResource(n, doc))
	}
	s, err := jc.Compile("corriente-case-1.schema.json")
	require.NoError(t, err)
	return s
}

// The shipped examples and families fit the shipped schemas, and what Write
// writes fits too and reads back the same.
func TestSchemaExamplesAndRoundTrip(t *testing.T) {
	s := compile(t)
	files, err := filepath.Glob("../../examples/*.json")
	require.NoError(t, err)
	require.NotEmpty(t, files)
	for _, f := range files {
		b, err := os.ReadFile(f)
		require.NoError(t, err)
		doc, err := jsonschema.UnmarshalJSON(bytes.NewReader(b))
		require.NoError(t, err)
		require.NoError(t, s.Validate(doc), f)
		c, err := Read(bytes.NewReader(b))
		require.NoError(t, err, f)
		c.Job = &Job{ID: "x", Machine: "Punt 2", Complaint: "only clicks",
			Decisions: []Decision{{Option: "repair", Price: 40, By: "customer"}}}
		var out bytes.Buffer
		require.NoError(t, c.Write(&out))
		doc, err = jsonschema.UnmarshalJSON(bytes.NewReader(out.Bytes()))
		require.NoError(t, err)
		require.NoError(t, s.Validate(doc), out.String())
		d, err := Read(&out)
		require.NoError(t, err)
		assert.Equal(t, c.Evidence, d.Evidence)
		assert.Equal(t, c.Parameters, d.Parameters)
		assert.Equal(t, c.Instruments, d.Instruments)
		assert.Equal(t, c.Job, d.Job)
	}
	for _, id := range circuit.Families() {
		b, err := os.ReadFile("../circuit/families/" + id + ".json")
		require.NoError(t, err)
		c, err := Read(strings.NewReader(`{"format":"corriente-case/1","evidence":[],"circuit":` + string(b) + `}`))
		require.NoError(t, err)
		assert.True(t, c.Inline)
		doc, err := jsonschema.UnmarshalJSON(strings.NewReader(`{"format":"corriente-case/1","evidence":[],"circuit":` + string(b) + `}`))
		require.NoError(t, err)
		require.NoError(t, s.Validate(doc), id)
	}
}

// Whatever evidence is accepted comes back from its own writing unchanged.
func TestEvidenceRoundTrip(t *testing.T) {
	c, err := circuit.Family("starter")
	require.NoError(t, err)
	nodes, _, _ := c.IDs()
	rapid.Check(t, func(t *rapid.T) {
		e := Evidence{Measure: unit.Voltage, State: rapid.SampledFrom([]string{"rest", "crank", "direct_feed"}).Draw(t, "state"),
			From: rapid.SampledFrom(nodes).Draw(t, "from"), To: rapid.SampledFrom(nodes).Draw(t, "to"),
			Value:     rapid.SampledFrom([]string{"11.9", "250m", "-0,02 V", "0"}).Draw(t, "value"),
			Condition: rapid.SampledFrom(conditions).Draw(t, "condition"), Struck: rapid.Bool().Draw(t, "struck"),
			ID: rapid.StringMatching(`[a-z0-9]{0,8}`).Draw(t, "id")}
		if p := e.Check(c, nil); p != nil {
			return
		}
		cs := &Case{CircuitID: "starter", Circuit: c, AmbientC: 20, Evidence: []Evidence{e}}
		var b bytes.Buffer
		if err := cs.Write(&b); err != nil {
			t.Fatal(err)
		}
		d, err := Read(&b)
		if err != nil {
			t.Fatal(err)
		}
		if d.Evidence[0] != e {
			t.Fatalf("%+v became %+v", e, d.Evidence[0])
		}
	})
}

func FuzzRead(f *testing.F) {
	f.Add([]byte(base))
	f.Add([]byte(`{"format":"corriente-case/1","circuit":"starter","evidence":[],"parameters":{"motor.ke":{"value":1e308}}}`))
	f.Add([]byte(`{"format":"corriente-case/1","circuit":{"format":"corriente-circuit/1"},"evidence":[]}`))
	f.Fuzz(func(t *testing.T, b []byte) {
		c, err := Read(bytes.NewReader(b))
		if err != nil {
			var p *Problem
			if !errors.As(err, &p) {
				t.Fatalf("%T: %v", err, err)
			}
			return
		}
		if err := c.Write(&bytes.Buffer{}); err != nil {
			t.Fatal(err)
		}
	})
}
