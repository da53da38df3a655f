package circuit_test

import (
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"strconv"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"corriente/core/circuit"
	"corriente/core/fault"
)

// A cranking starter written by hand, not by the product. At speed both tanh
// are 1, so with a linear load the motor is a resistance and a source:
//
//	ke i = friction + load w/rated  =>  w = (ke i - friction) rated/load
//	v = R i + Vb + ke w = (R + ke² rated/load) i + Vb - ke friction rated/load
//
// With R 0.018, Vb 0.8, ke 0.021, friction 0.25, load 2.9, rated 330:
// 0.018 + 0.050182759 = 0.068182759 ohm and 0.8 - 0.597413793 = 0.202586207 V.
const byHand = `* starter cranking, by hand
Vbat p 0 12.6
Rbat p bat_pos 0.006
Rclamp bat_pos pos_cable_start 0.0002
Rcable pos_cable_start sol_b 0.0009
Rcontact sol_b sol_m %CONTACT%
Rmotor sol_m inner 0.068182759
Vmotor inner case 0.202586207
Rmount case block 0.0001
Rgnd block gnd_cable_end 0.0006
Rneg gnd_cable_end 0 0.0002
Rfuse bat_pos fuse_out 0.002
Rkey fuse_out ign_out 0.01
Rneutral ign_out ilk_out 0.01
Rwire ilk_out sol_s 0.012
Rcoil sol_s case 0.9
.control
set numdgt=9
op
print all
quit
.endc
.end
`

// Independent circuits with the same parameters agree within 20 mV or 0.5 %;
// this one within 2 mV.
func TestAgainstACircuitWrittenByHand(t *testing.T) {
	bin, err := exec.LookPath("ngspice")
	require.NoError(t, err, "ngspice is missing: run scripts/setup.sh test")
	n, m := load(t, "starter")
	for _, extra := range []float64{0, 0.005, 0.02} {
		file := filepath.Join(t.TempDir(), "hand.cir")
		text := regexp.MustCompile("%CONTACT%").ReplaceAllString(byHand, strconv.FormatFloat(0.0004+extra, 'g', -1, 64))
		require.NoError(t, os.WriteFile(file, []byte(text), 0o600))
		out, err := exec.CommandContext(t.Context(), bin, "-b", file).Output()
		require.NoError(t, err)

		h, th := n.SoundAll(), n.Nominal()
		if extra > 0 {
			m.Apply(h, th, fault.Fault{Station: "main_contact", Mode: "high_resistance"}, extra)
		}
		w := n.NewWork()
		w.Solve(n.StatePos("crank"), th, h)
		found := 0
		for _, x := range regexp.MustCompile(`(?m)^(\w+) = (\S+)`).FindAllStringSubmatch(string(out), -1) {
			i := n.C.NodeIndex(x[1])
			if i < 0 {
				continue
			}
			v, err := strconv.ParseFloat(x[2], 64)
			require.NoError(t, err)
			assert.InDelta(t, v, w.V[i], 0.002, "%s with %g ohm more", x[1], extra)
			found++
		}
		assert.Equal(t, len(n.C.Nodes)-1, found, "every node but ground was compared")
	}
}

// A circuit moved to another voltage keeps its power: half the current at twice
// the volts, the same speed.
func TestScaleToKeepsThePower(t *testing.T) {
	f, err := circuit.Family("starter")
	require.NoError(t, err)
	c := f.Clone()
	c.ScaleTo(24)
	n, _ := load(t, "starter")
	n24, err := circuit.Compile(c)
	require.NoError(t, err)
	a, b := n.NewWork(), n24.NewWork()
	a.Solve(n.StatePos("crank"), n.Nominal(), n.SoundAll())
	b.Solve(n24.StatePos("crank"), n24.Nominal(), n24.SoundAll())
	assert.InEpsilon(t, a.V[n.C.NodeIndex("bat_pos")]*2, b.V[n.C.NodeIndex("bat_pos")], 0.01)
	assert.InEpsilon(t, a.Motor.I/2, b.Motor.I, 0.06)
	assert.InEpsilon(t, a.Motor.W, b.Motor.W, 0.06)
	assert.InDelta(t, 12.6, n.C.Station("battery").Params["emf"].Value, 1e-12, "the shared family must not change")
	c.ScaleTo(12)
	assert.InDelta(t, 12.6, c.Station("battery").Params["emf"].Value, 1e-9, "and back")
}

func TestSetParamRefuses(t *testing.T) {
	f, err := circuit.Family("starter")
	require.NoError(t, err)
	c := f.Clone()
	for _, x := range []struct {
		station, param string
		v              float64
		says           string
	}{
		{"mast", "resistance", 1, "no station"},
		{"motor", "kv", 1, "no parameter"},
		{"motor", "ke", 0, "above 0"},
		{"motor", "resistance", -1, "above 0"},
		{"battery", "emf", 96, "up to 60"},
	} {
		assert.ErrorContains(t, c.SetParam(x.station, x.param, circuit.Param{Value: x.v}), x.says)
	}
	require.NoError(t, c.SetParam("motor", "friction", circuit.Param{Value: 0}))
}

// Families are told by name; a wrong one lists those there are.
func TestUnknownFamily(t *testing.T) {
	_, err := circuit.Family("startr")
	require.ErrorContains(t, err, "starter")
	assert.Contains(t, circuit.Families(), "starter")
}

// A direct feed leaves the vehicle's wiring and its bad battery behind.
func TestDirectFeedIsAGoodBatteryOnTheMotorAlone(t *testing.T) {
	n, m := load(t, "starter")
	w, h, th := n.NewWork(), n.SoundAll(), n.Nominal()
	m.Apply(h, th, fault.Fault{Station: "battery", Mode: "weak"}, 15)
	m.Apply(h, th, fault.Fault{Station: "gnd_cable", Mode: "open"}, 0)
	w.Solve(n.StatePos("direct_feed"), th, h)
	at := n.C.NodeIndex
	assert.Greater(t, w.V[at("sol_m")], 12.0)
	assert.InDelta(t, w.V[at("bat_pos")], w.V[at("sol_m")], 1e-3, "the leads are on the motor's own terminals")
	assert.InDelta(t, 0, w.V[at("case")], 1e-3)
	assert.Greater(t, w.Motor.W, 400.0, "a good motor spins free")
	for _, off := range []string{"pos_cable_start", "gnd_cable_end", "fuse_out"} {
		assert.False(t, w.Held[at(off)], off)
	}
}
