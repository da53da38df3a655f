package main

import (
	"encoding/json"
	"io"
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"strconv"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// call runs the command line and returns what it printed.
func call(t *testing.T, args ...string) (code int, stdout, stderr string) {
	t.Helper()
	grab := func(f **os.File) func() string {
		old := *f
		r, w, err := os.Pipe()
		require.NoError(t, err)
		*f = w
		text := make(chan string)
		go func() { b, _ := io.ReadAll(r); text <- string(b) }()
		return func() string { *f = old; w.Close(); return <-text }
	}
	out, err := grab(&os.Stdout), grab(&os.Stderr)
	code = run(t.Context(), args)
	stdout, stderr = out(), err()
	return code, stdout, stderr
}

const clicks = "../../examples/starter-clicks.json"

func TestWrongInputIsOneLineAndExitTwo(t *testing.T) {
	broken := filepath.Join(t.TempDir(), "broken.json")
	require.NoError(t, os.WriteFile(broken, []byte("{\n  \"format\": \"corriente-case/1\",\n  oops\n}"), 0o600))
	for _, c := range []struct{ args, says string }{
		{"diagnose nowhere.json", "cannot be opened"},
		{"diagnose " + broken, "line 3"},
		{"diagnose", "takes one case file"},
		{"solve " + clicks, "--state is missing"},
		{"solve " + clicks + " --state fly", "no such state"},
		{"solve " + clicks + " --state crank --fault motor.sleepy", "has no fault"},
		{"solve " + clicks + " --state crank --fault battery.weak=12", ""},
		{"netlist " + clicks + " --state crank --fault battery.weak=much", "x1.75"},
		{"circuits moon", "starter"},
		{"diagnose " + clicks + " --format xml", "neither text nor json"},
		{"evaluate --faults 0", "1 to"},
	} {
		t.Run(c.args, func(t *testing.T) {
			code, out, err := call(t, strings.Fields(c.args)...)
			if c.says == "" {
				assert.Zero(t, code, err)
				return
			}
			assert.Equal(t, 2, code)
			assert.Empty(t, out, "nothing half-done")
			assert.Contains(t, err, c.says)
			assert.Equal(t, 1, strings.Count(err, "\n"), err)
		})
	}
}

func TestDiagnoseJSONHasTheContract(t *testing.T) {
	code, out, _ := call(t, "diagnose", clicks, "--format", "json")
	require.Zero(t, code)
	var d map[string]any
	require.NoError(t, json.Unmarshal([]byte(out), &d))
	assert.Equal(t, "corriente-diagnosis/1", d["format"])
	for _, k := range []string{"circuit", "verdict", "stations", "diagnoses", "evidence", "next", "warnings"} {
		assert.Contains(t, d, k)
	}
	v := d["verdict"].(map[string]any)
	assert.Equal(t, "main_contact", v["station"])
	for _, k := range []string{"status", "probability", "faults", "faults_probability", "also"} {
		assert.Contains(t, v, k)
	}
	assert.Len(t, d["evidence"], 5)
}

// The netlist that the command prints, run as it is, gives the voltages that
// solve prints.
func TestNetlistRunsInNgspiceAsPrinted(t *testing.T) {
	if _, err := exec.LookPath("ngspice"); err != nil {
		t.Fatal("ngspice is missing: run scripts/setup.sh test")
	}
	for _, f := range []string{"", "motor.seized", "gnd_cable.high_resistance=0.012ohm", "coil.open"} {
		args := []string{clicks, "--state", "crank"}
		if f != "" {
			args = append(args, "--fault", f)
		}
		code, net, _ := call(t, append([]string{"netlist"}, args...)...)
		require.Zero(t, code)
		file := filepath.Join(t.TempDir(), "n.cir")
		require.NoError(t, os.WriteFile(file, []byte(net), 0o600))
		spice, err := exec.CommandContext(t.Context(), "ngspice", "-b", file).Output()
		require.NoError(t, err)
		code, out, _ := call(t, append(append([]string{"solve"}, args...), "--format", "json")...)
		require.Zero(t, code)
		var s solution
		require.NoError(t, json.Unmarshal([]byte(out), &s))
		found := 0
		for _, m := range regexp.MustCompile(`v\((\w+)\) = (\S+)`).FindAllStringSubmatch(string(spice), -1) {
			want, err := strconv.ParseFloat(m[2], 64)
			require.NoError(t, err)
			if v := s.Nodes[m[1]]; v != nil {
				assert.InDelta(t, want, *v, max(0.005, 0.001*want), "%s %s", f, m[1])
				found++
			}
		}
		assert.GreaterOrEqual(t, found, 10)
	}
}
