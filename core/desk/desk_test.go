package desk_test

import (
	"bytes"
	"context"
	"os"
	"path/filepath"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"corriente/core/casefile"
	"corriente/core/desk"
	"corriente/core/diagnose"
)

func examples(t *testing.T) map[string][]byte {
	t.Helper()
	files, err := filepath.Glob("../../examples/*.json")
	require.NoError(t, err)
	require.NotEmpty(t, files)
	out := map[string][]byte{}
	for _, f := range files {
		b, err := os.ReadFile(f)
		require.NoError(t, err)
		if bytes.Contains(b, []byte("corriente-case/1")) {
			out[filepath.Base(f)] = b
		}
	}
	return out
}

// The desk, which the browser runs, says what the command line says.
func TestTheDeskAgreesWithTheAdviser(t *testing.T) {
	for name, text := range examples(t) {
		c, err := casefile.Read(bytes.NewReader(text))
		require.NoError(t, err, name)
		a, err := diagnose.NewAdviser(c.Circuit)
		require.NoError(t, err)
		op, err := a.Weigh(context.Background(), diagnose.JobOf(c))
		require.NoError(t, err)
		d := &desk.Desk{}
		s, err := d.Weigh(context.Background(), text, "", false)
		require.NoError(t, err)
		assert.Equal(t, op.Result.Verdict, s.Diagnosis.Verdict, name)
		assert.Equal(t, op.Result.Next, s.Diagnosis.Next, name)
		assert.Len(t, s.Shown, len(c.Evidence))
		assert.False(t, s.Thinking)
	}
}

// A glance has the suspects and the picture; the same case asked again has the
// next reading too, and nothing else has changed.
func TestAGlanceThenTheWhole(t *testing.T) {
	for name, text := range examples(t) {
		d := &desk.Desk{}
		g, err := d.Weigh(context.Background(), text, "", true)
		require.NoError(t, err, name)
		assert.True(t, g.Thinking)
		assert.Empty(t, g.Diagnosis.Next)
		s, err := d.Weigh(context.Background(), text, "", false)
		require.NoError(t, err)
		assert.False(t, s.Thinking)
		assert.Equal(t, g.Suspects, s.Suspects, name)
		assert.Equal(t, g.Diagnosis.Verdict, s.Diagnosis.Verdict, name)
	}
}

// A meter that may be off by as much as is allowed decides nothing, and the field
// says so before the reading is stored.
func TestARangeTooCoarseIsSaid(t *testing.T) {
	d := &desk.Desk{}
	_, err := d.Weigh(context.Background(), []byte(`{"format":"corriente-case/1","circuit":"actuator","evidence":[]}`), "command", true)
	require.NoError(t, err)
	codes := func(ty casefile.Typed) (out []string) {
		p, err := d.Preview(ty.Evidence())
		require.NoError(t, err)
		for _, w := range p.Warnings {
			out = append(out, w.Code)
		}
		return out
	}
	assert.Contains(t, codes(casefile.Typed{Measure: "current", State: "command", Through: "motor", Value: "0.5"}),
		"too_coarse", "half an ampere on a clamp of a tenth")
	assert.NotContains(t, codes(casefile.Typed{Measure: "voltage", State: "command", From: "plug_a", To: "plug_b",
		Value: "12.1"}), "too_coarse")
}

func TestTheDeskRefusesPlainly(t *testing.T) {
	d := &desk.Desk{}
	_, err := d.Preview((&casefile.Typed{Measure: "voltage", State: "crank", From: "bat_pos", To: "bat_neg", Value: "12"}).Evidence())
	assert.Error(t, err, "nothing was weighed yet")
	_, err = d.Weigh(context.Background(),
		[]byte(`{"format":"corriente-case/1","circuit":"starter","evidence":[{"measure":"voltage"}]}`), "", true)
	assert.Error(t, err)
	_, err = d.Weigh(context.Background(), []byte(`{"format":"corriente-case/1","circuit":"starter","evidence":[]}`), "crank", true)
	require.NoError(t, err)
	p, err := d.Preview((&casefile.Typed{Measure: "voltage", State: "crank", From: "bat_pos", To: "bat_neg", Value: "4.2"}).Evidence())
	require.NoError(t, err)
	assert.Equal(t, "bad", p.Verdict)
	_, err = d.Preview((&casefile.Typed{Measure: "voltage", State: "crank", From: "bat_pos", To: "bat_neg", Value: "4.2 A"}).Evidence())
	assert.ErrorContains(t, err, "amperes")
}
