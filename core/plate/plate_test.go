package plate

import (
	"encoding/json"
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"corriente/core/casefile"
	"corriente/core/circuit"
	"corriente/core/diagnose"
	"corriente/core/unit"
)

func family(t *testing.T, id string) *circuit.Circuit {
	t.Helper()
	c, err := circuit.Family(id)
	require.NoError(t, err)
	return c
}

// What stands on a plate is typed as it stands there, and read back so.
func TestParseAndSay(t *testing.T) {
	for _, x := range []struct {
		circuit, name, typed string
		si                   float64
		says                 string
	}{
		{"capacitor_fan", "capacitor.capacitance", "7.5 µF", 7.5e-6, "7.5 µF"},
		{"capacitor_fan", "capacitor.capacitance", "8", 8e-6, "8 µF"},
		{"two_wire_motor", "fuse.rating", "15 A", 15, "15 A"},
		{"two_wire_motor", "fuse.rating", "15", 15, "15 A"},
		{"starter", "battery.resistance", "5", 0.005, "5 mΩ"},
		{"starter", "battery.emf", "12,8", 12.8, "12.8 V"},
		{"starter", "pos_cable.resistance", "0.9 mohm", 0.0009, "0.9 mΩ"},
		{"contactor_motor", "charger.present", "yes", 1, "yes"},
		{"contactor_motor", "charger.present", "0", 0, "no"},
		{"traction", "brake_coil.resistance", "34", 34, "34 Ω"},
	} {
		c := family(t, x.circuit)
		v, err := Parse(c, x.name, x.typed)
		require.NoError(t, err, x.typed)
		assert.InDelta(t, x.si, v, 1e-12, x.typed)
		assert.Equal(t, x.says, Say(c, x.name, v))
	}
	for _, x := range [][3]string{{"two_wire_motor", "fuse.rating", "OL"}, {"two_wire_motor", "fuse.rating", "big"},
		{"contactor_motor", "charger.present", "perhaps"}, {"two_wire_motor", "fuse.rating", "15 V"}} {
		_, err := Parse(family(t, x[0]), x[1], x[2])
		assert.Error(t, err, x[2])
	}
}

// Nobody is asked for farads, newton metres or a motor constant, and every label is a sentence's worth.
func TestSettingsAreInPlateWords(t *testing.T) {
	for _, id := range circuit.Families() {
		c := family(t, id)
		for _, s := range Settings(c) {
			assert.NotContains(t, s.Label, "_", s.Name)
			assert.NotContains(t, []string{"F", "H", "N m", "V s/rad", "rad/s"}, s.Unit, s.Name)
			if len(s.Choices) == 0 {
				v, err := Parse(c, s.Name, s.Usual)
				if assert.NoError(t, err, s.Name) {
					station, param, _ := cutName(s.Name)
					assert.InEpsilon(t, 1+c.Station(station).Params[param].Value, 1+v, 1e-4, "its own words are understood: "+s.Usual)
				}
			}
		}
	}
}

func cutName(name string) (station, param string, ok bool) {
	for i := range name {
		if name[i] == '.' {
			return name[:i], name[i+1:], true
		}
	}
	return name, "", false
}

// A motor of 0.35 kW on 12 V takes some 40 to 65 A, one of 1.5 kW on 24 V at 2,000 rpm about 100
// (common practice: half to three quarters of the power reaches the shaft).
func TestAmperesFollowFromThePlate(t *testing.T) {
	p, err := ParseMotor("0.35 kW", "12 V", "", "")
	require.NoError(t, err)
	b, err := p.Draws(family(t, "two_wire_motor"))
	require.NoError(t, err)
	assert.InDelta(t, 37, b.Low, 3)
	assert.InDelta(t, 65, b.High, 4)
	p, err = ParseMotor("", "", "15 A", "3000 rpm")
	require.NoError(t, err)
	b, err = p.Draws(family(t, "two_wire_motor"))
	require.NoError(t, err)
	assert.Equal(t, Amperes{13.5, 16.5}, b)
	assert.InDelta(t, 314.16, p.Speed, 0.01)
}

// The circuit with a plate's parameters draws what the plate says, turning as fast as it says.
func TestTheCircuitDrawsWhatThePlateSays(t *testing.T) {
	for _, x := range []struct{ circuit, power, volts, amps, speed, state string }{
		{"two_wire_motor", "", "12 V", "6 A", "2500 rpm", "run"},
		{"two_wire_motor", "0.2 kW", "12 V", "", "", "run"},
		{"traction", "", "24 V", "18 A", "1800 rpm", "drive"},
		{"starter", "1.4 kW", "12 V", "", "", "crank"},
		{"blower_resistor", "", "12 V", "20 A", "", "speed_4"},
	} {
		c := family(t, x.circuit)
		p, err := ParseMotor(x.power, x.volts, x.amps, x.speed)
		require.NoError(t, err)
		given, band, err := p.Parameters(c)
		require.NoError(t, err)
		for _, g := range given {
			station, param, _ := cutName(g.Name)
			require.NoError(t, c.SetParam(station, param, circuit.Param{Value: g.Value, Spread: g.Percent / 100}))
		}
		a, err := diagnose.NewAdviser(c)
		require.NoError(t, err)
		op, err := a.Weigh(t.Context(), &diagnose.Job{Evidence: []casefile.Evidence{}})
		require.NoError(t, err)
		pic, err := op.Picture(x.state)
		require.NoError(t, err)
		_ = pic
		got := a.Model.Normal[a.Net.MotorStation()]
		want := math.Sqrt(band.Low * band.High)
		assert.InEpsilon(t, want, got, 0.3, "%s takes %s", x.circuit, unit.Format(got, unit.Current))
	}
}

func TestPlatesThatCannotBe(t *testing.T) {
	for _, x := range [][4]string{{"fast", "", "", ""}, {"", "230 V", "", ""}, {"", "12 A", "", ""},
		{"", "", "-3", ""}, {"5 kg", "", "", ""}} {
		_, err := ParseMotor(x[0], x[1], x[2], x[3])
		assert.Error(t, err, x)
	}
	_, _, err := Motor{}.Parameters(family(t, "starter"))
	assert.ErrorContains(t, err, "give one of the two")
	_, _, err = Motor{Power: 9e6}.Parameters(family(t, "starter"))
	assert.ErrorContains(t, err, "W or kW")
	_, _, err = Motor{Amps: 1}.Parameters(family(t, "stator"))
	assert.ErrorContains(t, err, "no motor")
}

func FuzzParseMotor(f *testing.F) {
	f.Add("0.8 kW", "12", "15 A", "1500")
	f.Add("\xff", "V", "..", "1e400")
	f.Fuzz(func(t *testing.T, power, volts, amps, speed string) {
		p, err := ParseMotor(power, volts, amps, speed)
		if err != nil {
			return
		}
		for _, v := range []float64{p.Power, p.Volts, p.Amps, p.Speed} {
			if v < 0 || math.IsNaN(v) || math.IsInf(v, 0) {
				t.Fatalf("%+v of %q %q %q %q", p, power, volts, amps, speed)
			}
		}
	})
}

// A setting that changes nothing is not offered: each one, given otherwise, changes what the circuit
// is expected to show or what is asked.
func TestEverySettingChangesSomething(t *testing.T) {
	shows := func(c *circuit.Circuit) string {
		a, err := diagnose.NewAdviser(c)
		require.NoError(t, err)
		op, err := a.Weigh(t.Context(), &diagnose.Job{})
		require.NoError(t, err)
		out, err := json.Marshal([]any{op.Next, op.Looks})
		require.NoError(t, err)
		for i := range c.States {
			if c.States[i].Hidden {
				continue
			}
			pic, err := op.Picture(c.States[i].ID)
			require.NoError(t, err)
			b, err := json.Marshal(pic)
			require.NoError(t, err)
			out = append(out, b...)
		}
		return string(out)
	}
	for _, id := range circuit.Families() {
		t.Run(id, func(t *testing.T) {
			t.Parallel()
			usual := shows(family(t, id))
			for _, s := range Settings(family(t, id)) {
				c := family(t, id).Clone()
				station, param, _ := cutName(s.Name)
				if c.Variants[s.Name] != nil {
					continue // tested with the circuits
				}
				was := c.Station(station).Params[param].Value
				now := was * 1.4
				if param == "present" {
					now = 1
				} else if param == "emf" {
					now = was + 0.6
				}
				require.NoError(t, c.SetParam(station, param, circuit.Param{Value: now, Spread: 0.05, SD: 0}))
				if s.Name == "charger.voltage" || s.Name == "charger.current_limit" { // only where there is one
					continue
				}
				assert.True(t, usual != shows(c), s.Name)
			}
		})
	}
}
