package casefile_test

import (
	"bytes"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"corriente/core/casefile"
)

func read(t *testing.T, text string) (*casefile.Case, error) {
	t.Helper()
	return casefile.Read(strings.NewReader(text))
}

// What is known, repairs and codes survive writing and reading.
func TestKnownRepairsAndCodesRoundTrip(t *testing.T) {
	c, err := read(t, `{"format":"corriente-case/1","circuit":"traction","nominal_voltage":36,
		"known":{"new_parts":["controller"],"was_apart":["motor"],"shelf":["brake_coil"],"without":["current"],"with":["scope"],"unreachable":["bench"],"leaning":-1,"codes_trust":0.5},
		"codes":{"3":["motor.brushes_worn"]},
		"repairs":[{"station":"motor_connector","after":1,"what":"cleaned"}],
		"evidence":[{"observe":"blink_code","state":"key_on","outcome":3},{"observe":"swap_helps","through":"brake_coil","outcome":"no"}]}`)
	require.NoError(t, err)
	assert.InDelta(t, 37.8, c.Circuit.Station("battery").Params["emf"].Value, 1e-9, "values follow the voltage")
	var b bytes.Buffer
	require.NoError(t, c.Write(&b))
	again, err := casefile.Read(&b)
	require.NoError(t, err)
	assert.Equal(t, c.Known, again.Known)
	assert.Equal(t, c.Repairs, again.Repairs)
	assert.Equal(t, c.Codes, again.Codes)
	assert.Equal(t, "3", again.Evidence[0].Outcome)
	assert.Equal(t, "brake_coil", again.Evidence[1].Through)
}

// One sentence names the place and the mend, for what only some families have.
func TestWhatAFamilyDoesNotHaveIsRefused(t *testing.T) {
	for name, x := range map[string]struct{ circuit, body, says string }{
		"mains are never probed": {"capacitor_fan",
			`{"measure":"resistance","state":"powered_observe","from":"common","to":"run","value":"30"}`, "dead tests only"},
		"no volts on a mains part": {"capacitor_fan",
			`{"measure":"voltage","state":"isolated","from":"common","to":"run","value":"30"}`, "powered state"},
		"a node inside a part": {"window",
			`{"measure":"voltage","state":"up","from":"motor_mid","to":"bat_neg","value":"12"}`, "no node"},
		"a state that only reckons": {"two_wire_motor",
			`{"measure":"voltage","state":"run_new_fuse","from":"fuse_out","to":"bat_neg","value":"12"}`, "use one of"},
		"no farads on a starter": {"starter",
			`{"measure":"capacitance","state":"isolated","from":"sol_m","to":"case","value":"7"}`, "no capacitance"},
		"an absent part": {"blower_module",
			`{"measure":"current","state":"lamp_load","through":"motor","value":"4 A"}`, "not connected"},
		"a code beyond the list": {"traction", `{"observe":"blink_code","state":"key_on","outcome":21}`, "not an answer"},
		"above sixty volts": {"traction",
			`{"measure":"voltage","state":"key_on","from":"bat_pos","to":"bat_neg","value":"72 V"}`, "licensed"},
		"a swap of nothing": {"starter", `{"observe":"swap_helps","outcome":"yes"}`, "which station was swapped"},
		"a word in the wrong state": {"blower_module",
			`{"observe":"lamp","state":"speed_high","outcome":"bright"}`, "not observed in"},
		"a drive has no current": {"wiper", `{"measure":"current","state":"low","through":"drive","value":"1 A"}`, "no station"},
		"alternating volts, wrong place": {"stator",
			`{"measure":"ac_voltage","state":"isolated","from":"y1","to":"y2","value":"12"}`, "powered state"},
	} {
		t.Run(name, func(t *testing.T) {
			_, err := read(t, `{"format":"corriente-case/1","circuit":"`+x.circuit+`","evidence":[`+x.body+`]}`)
			require.ErrorContains(t, err, x.says)
			assert.Contains(t, err.Error(), "/evidence/0")
		})
	}
	for body, says := range map[string]string{
		`"known":{"new_parts":["mast"]}`:                               "/known/new_parts/0",
		`"known":{"leaning":3}`:                                        "/known/leaning",
		`"known":{"luck":1}`:                                           "luck",
		`"known":{"without":["luck"]}`:                                 "not a measure",
		`"known":{"with":["luck"]}`:                                    "scope",
		`"known":{"rates":{"mast.bent":{"factor":2,"n":1,"of":3}}}`:    "no fault",
		`"known":{"rates":{"motor.seized":{"factor":0,"n":1,"of":3}}}`: "factor",
		`"known":{"access":{"mast":{"minutes":2,"n":1}}}`:              "no access group",
		`"known":{"access":{"motor":{"minutes":-2,"n":1}}}`:            "minutes lie",
		`"repairs":[{"station":"mast","after":0}]`:                     "/repairs/0/station",
		`"repairs":[{"station":"coil","after":7}]`:                     "/repairs/0/after",
		`"parameters":{"motor.resistance_high":1}`:                     "",
		`"nominal_voltage":72`:                                         "licensed",
	} {
		_, err := read(t, `{"format":"corriente-case/1","circuit":"starter",`+body+`,"evidence":[]}`)
		if says == "" {
			continue
		}
		require.ErrorContains(t, err, says, body)
	}
	c, err := read(t, `{"format":"corriente-case/1","circuit":"stator","parameters":{"stator.connection":"delta"},"evidence":[]}`)
	require.NoError(t, err)
	assert.Equal(t, "y2", c.Circuit.Station("phase_1").To)
	_, err = read(t, `{"format":"corriente-case/1","circuit":"stator","parameters":{"stator.connection":"zigzag"},"evidence":[]}`)
	require.ErrorContains(t, err, "delta, wye")
	_, err = read(t, `{"format":"corriente-case/1","circuit":"stator","parameters":{"stator.connection":2},"evidence":[]}`)
	require.ErrorContains(t, err, "delta, wye")
}
