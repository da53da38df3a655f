package web_test

import (
	"bytes"
	"encoding/json"
	"image"
	"image/png"
	"math/rand/v2"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"corriente/core/blink"
	"corriente/core/casefile"
	"corriente/core/circuit"
	"corriente/core/intake"
	"corriente/internal/store"
	"corriente/internal/web"
)

func TestAComplaintFindsItsCircuitAndBeginsWithWhatWasSaid(t *testing.T) {
	c, _ := serve(t)
	c.signIn("pip")
	var adv intake.Advice
	require.Equal(t, 200, c.do("POST", "/api/intake",
		map[string]any{"text": "the heater fan is dead", "answers": map[string]string{"control": "steps"}}, &adv))
	assert.Equal(t, "blower_resistor", adv.Fits[0].Circuit)
	id := store.NewID().String()
	in := map[string]any{"id": id, "machine_id": store.NewID().String(), "new_machine": "Box van Dunnock",
		"kind": "van", "circuit": "blower_resistor",
		"complaint": "the heater fan is dead", "answers": map[string]string{"speeds": "full"}}
	var j, again web.JobView
	require.Equal(t, 200, c.do("POST", "/api/jobs", in, &j))
	require.Len(t, j.Evidence, 2, "only full speed works: two observations")
	assert.Equal(t, "resistor_pack", j.Suspects[0].Station)
	require.Equal(t, 200, c.do("POST", "/api/jobs", in, &again))
	assert.Len(t, again.Evidence, 2, "sent again, it is there once")
}

func TestWhatIsKnownIsKeptExportedAndRefusedWithTheMend(t *testing.T) {
	c, _ := serve(t)
	c.signIn("jory")
	j := c.job("Frost fan east")
	at := "/api/jobs/" + j.ID
	patch := func(body map[string]any, want int) (v web.JobView, p problem) {
		t.Helper()
		var raw json.RawMessage
		require.Equal(t, want, c.do("PATCH", at, body, &raw), string(raw))
		if want == 200 {
			require.NoError(t, json.Unmarshal(raw, &v))
		} else {
			require.NoError(t, json.Unmarshal(raw, &p))
		}
		return v, p
	}
	v, _ := patch(map[string]any{"known": map[string]any{"new_parts": []string{"battery"}, "leaning": 1}}, 200)
	require.NotEmpty(t, v.Diagnosis.Shifts)
	assert.Equal(t, 1.0, v.Known.Leaning)
	v, _ = patch(map[string]any{"parameter": map[string]any{"name": "pos_cable.resistance", "size": "AWG 2", "length": 1.5}}, 200)
	assert.Len(t, v.Parameters, 2)
	v, _ = patch(map[string]any{"parameter": map[string]any{"name": "motor.resistance", "value": "11 mohm"}}, 200)
	assert.Len(t, v.Parameters, 3)
	v, _ = patch(map[string]any{"plate": map[string]any{"power": "1.4 kW", "voltage": "12 V"}}, 200)
	assert.Len(t, v.Parameters, 5, "the plate takes the place of what was given of the motor")
	require.NotNil(t, v.Known.Plate)
	var set web.SettingsView
	require.Equal(t, 200, c.do("GET", at+"/settings", nil, &set))
	require.NotNil(t, set.Plate)
	assert.InDelta(t, 117, set.Plate.Amps.Low, 1)
	assert.InDelta(t, 233, set.Plate.Amps.High, 1)
	require.Len(t, set.Given, 2, "the cable; what the plate says stands with the plate")
	assert.Equal(t, "Plus cable: size", set.Given[0].Label)
	v, _ = patch(map[string]any{"known": map[string]any{"new_parts": []string{"battery"}}}, 200)
	assert.NotNil(t, v.Known.Plate, "another change leaves it")
	v, _ = patch(map[string]any{"plate": map[string]any{}}, 200)
	assert.Len(t, v.Parameters, 2)
	assert.Nil(t, v.Known.Plate)
	v, _ = patch(map[string]any{"parameter": map[string]any{"name": "motor.resistance", "value": "11 mohm"}}, 200)
	assert.Len(t, v.Parameters, 3)
	v, _ = patch(map[string]any{"specification": map[string]any{"from": "sol_s", "to": "case", "low": "0.8 ohm", "high": "1.2"}}, 200)
	require.Len(t, v.Specifications, 1)
	_, p := patch(map[string]any{"specification": map[string]any{"from": "sol_s", "to": "case", "low": "2", "high": "1"}}, 422)
	assert.Contains(t, p.Detail, "stands above")
	v, _ = patch(map[string]any{"voltage": 24}, 200)
	assert.Equal(t, 24.0, v.Voltage)
	for body, says := range map[string]map[string]any{
		"kilowatts":        {"plate": map[string]any{"speed": "3000 rpm"}},
		"W or kW":          {"plate": map[string]any{"power": "900 kW"}},
		"not a cable size": {"parameter": map[string]any{"name": "pos_cable.resistance", "size": "thick", "length": 1}},
		"How long":         {"parameter": map[string]any{"name": "pos_cable.resistance", "size": "35"}},
		"no station":       {"known": map[string]any{"new_parts": []string{"mast"}}},
		"above 60 V":       {"voltage": 96},
		"no state":         {"acknowledge": "flying"},
		"does not turn":    {"parameter": map[string]any{"name": "motor.resistance", "value": "90 ohm"}},
	} {
		_, p := patch(says, 422)
		assert.Contains(t, p.Detail, body)
	}
	var cs map[string]any
	require.Equal(t, 200, c.do("GET", at+"/case", nil, &cs))
	assert.Contains(t, cs, "known")
	assert.EqualValues(t, 24, cs["nominal_voltage"])
	b, err := json.Marshal(cs)
	require.NoError(t, err)
	_, err = casefile.Read(bytes.NewReader(b))
	require.NoError(t, err, "what is exported can be imported")
}

func TestARepairInMidJobIsKeptOnce(t *testing.T) {
	c, _ := serve(t)
	c.signIn("jory")
	j := c.job("Ferry Waterlily, main engine")
	require.Equal(t, "gnd_cable", j.Suspects[0].Station)
	in := map[string]any{"id": store.NewID().String(), "station": "gnd_cable", "what": "new ground cable"}
	var v web.JobView
	for range 2 {
		require.Equal(t, 200, c.do("POST", "/api/jobs/"+j.ID+"/repairs", in, &v))
	}
	require.Len(t, v.Repairs, 1)
	assert.Equal(t, len(j.Evidence), v.Repairs[0].After)
	for _, s := range v.Diagnosis.Stations {
		if s.Station == "gnd_cable" {
			assert.Less(t, s.Probability, 0.2, "what was put right is no longer the suspect")
		}
	}
	assert.Equal(t, 422, c.do("POST", "/api/jobs/"+j.ID+"/repairs", map[string]any{"id": store.NewID().String(), "station": "mast"}, nil))
}

func TestTablesOfCodesAreRefusedWhole(t *testing.T) {
	c, _ := serve(t)
	c.signIn("wanda")
	put := func(csv string) (int, problem) {
		var p problem
		s := c.do("PUT", "/api/codes?controller=Sedge%2048&circuit=traction", []byte(csv), &p)
		return s, p
	}
	s, p := put("code,meaning,faults\n3,Motor,motor.brushes_worn\n3,Again,\n")
	assert.Equal(t, 422, s)
	assert.Contains(t, p.Detail, "line 3")
	var ts []blink.Table
	require.Equal(t, 200, c.do("GET", "/api/codes", nil, &ts))
	for _, x := range ts {
		assert.NotEqual(t, "Sedge 48", x.Controller, "nothing half-imported")
	}
	require.Equal(t, 200, c.do("PUT", "/api/codes?controller=Sedge%2048&circuit=traction",
		[]byte("code,meaning,faults\n3,Motor,motor.brushes_worn\n"), &ts))
	var n blink.Count
	require.Equal(t, 200, c.do("POST", "/api/blink", map[string]any{"taps": []float64{0, 0.5, 2.5, 3}, "now": 6}, &n))
	assert.Equal(t, 2, n.Code)
	assert.Equal(t, 422, c.do("POST", "/api/blink", map[string]any{"taps": []float64{1, 0}, "now": 6}, nil))
	// The same controller in a pallet truck has a table of its own.
	j := c.job("Picking cart Teasel")
	assert.Contains(t, j.CodesSay, "half")
	assert.NotEmpty(t, j.Codes)
}

func TestOwnCircuitsAreCheckedBeforeTheyAreKept(t *testing.T) {
	c, _ := serve(t)
	c.signIn("wanda")
	f, err := circuit.Family("wiper")
	require.NoError(t, err)
	var e web.Edited
	require.Equal(t, 200, c.do("POST", "/api/circuits/edit",
		map[string]any{"circuit": f, "edit": map[string]any{"op": "copy", "id": "own_wiper", "label": "Our wiper"}}, &e))
	require.Equal(t, 200, c.do("POST", "/api/circuits/edit",
		map[string]any{"circuit": e.Circuit,
			"edit": map[string]any{"op": "insert", "after": "low_wire", "id": "plug", "label": "Plug", "kind": "joint", "ohms": 0.01}}, &e))
	require.NotNil(t, e.Picture)
	var p problem
	require.Equal(t, 422, c.do("POST", "/api/circuits/edit",
		map[string]any{"circuit": e.Circuit, "edit": map[string]any{"op": "remove", "id": "motor"}}, &p))
	assert.Contains(t, p.Detail, "wiper motor")
	require.Equal(t, 200, c.do("PUT", "/api/circuits", e.Circuit, nil))
	two := *e.Circuit
	two.Stations = append(append([]circuit.Station{}, two.Stations...),
		circuit.Station{ID: "second", Kind: circuit.Source, From: "fuse_in", To: "bat_neg", Label: "Second", Access: "battery",
			Params: map[string]circuit.Param{"emf": {Value: 12}, "resistance": {Value: 0.01}}, Faults: map[string]float64{}})
	require.Equal(t, 422, c.do("PUT", "/api/circuits", two, &p))
	assert.Contains(t, p.Detail, "2 batteries")
	require.Equal(t, 422, c.do("PUT", "/api/circuits", f, &p))
	assert.Contains(t, p.Detail, "ships with Corriente")
	assert.Equal(t, 422, c.do("PUT", "/api/circuits", []byte(`{"format":`), nil))
	var j web.JobView
	require.Equal(t, 200, c.do("POST", "/api/jobs",
		map[string]any{"id": store.NewID(), "machine_id": store.NewID(), "new_machine": "Hay van", "circuit": "own_wiper"}, &j))
	assert.Equal(t, "Our wiper", j.Title)
	var rows []web.Row
	require.Equal(t, 200, c.do("GET", "/api/board", nil, &rows))
	assert.NotEmpty(t, rows)
}

func TestMarksOfTheWiringDiagramStayWithTheTypeOfMachine(t *testing.T) {
	c, _ := serve(t)
	c.signIn("jory")
	j := c.job("Orchard tractor 3")
	photo := store.NewID().String()
	img := image.NewGray(image.Rect(0, 0, 1400, 1000)) // larger than one row holds
	for i := range img.Pix {
		img.Pix[i] = byte(rand.N(256))
	}
	var b bytes.Buffer
	require.NoError(t, png.Encode(&b, img))
	require.Greater(t, b.Len(), 1<<20)
	assert.Less(t, c.do("PUT", "/api/photos/"+photo, b.Bytes(), nil), 300)
	assert.Equal(t, 422, c.do("PUT", "/api/photos/"+store.NewID().String(), []byte("no picture"), nil))
	res, err := c.http.Get(c.base + "/api/photos/" + photo)
	require.NoError(t, err)
	defer res.Body.Close()
	var back bytes.Buffer
	_, err = back.ReadFrom(res.Body)
	require.NoError(t, err)
	// It is encoded anew, so that nothing a camera wrote beside it stays.
	kept, format, err := image.Decode(&back)
	require.NoError(t, err)
	assert.Equal(t, "jpeg", format)
	assert.Equal(t, img.Bounds().Dx(), kept.Bounds().Dx())
	mark := map[string]any{"colour": "brown/white", "connector": "C4", "pin": "2", "photo": photo, "x": 0.4, "y": 0.25}
	require.Equal(t, 200, c.do("PUT", "/api/jobs/"+j.ID+"/marks/control_wire", mark, nil))
	assert.Equal(t, 422, c.do("PUT", "/api/jobs/"+j.ID+"/marks/mast", mark, nil))
	// Another machine of the same type, the next job: offered again.
	var v web.JobView
	var ms []web.Machine
	require.Equal(t, 200, c.do("GET", "/api/machines", nil, &ms))
	for _, m := range ms {
		if m.Name == "Orchard tractor 2" {
			require.Equal(t, 200, c.do("POST", "/api/jobs",
				map[string]any{"id": store.NewID(), "machine_id": m.ID, "circuit": "starter"}, &v))
		}
	}
	assert.Equal(t, "brown/white", v.Marks["control_wire"].Colour)
	assert.InDelta(t, 0.4, v.Marks["control_wire"].X, 1e-9)
}
