package main

import (
	"encoding/json"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"corriente/core/circuit"
)

// A file is sound, or the command says what is wrong, where, and the mend.
func TestValidate(t *testing.T) {
	const head = `{"format":"corriente-case/1","circuit":"starter","evidence":[`
	for _, x := range []struct{ name, text, want string }{
		{"no JSON", "volts: 12", "this is no JSON"},
		{"nothing", "", "this is no JSON"},
		{"no format", `{"circuit":"starter"}`, "/format: the file does not name its format"},
		{"another format", `{"format":"corriente-diagnosis/1"}`, `/format: "corriente-diagnosis/1" is not read here`},
		{"no such circuit", `{"format":"corriente-case/1","circuit":"toaster","evidence":[]}`, "/circuit"},
		{"no such point", head + `{"measure":"voltage","state":"crank","from":"bat_pos","to":"moon","value":"9.8"}]}`,
			`/evidence/0/to: circuit starter has no node "moon"`},
		{"above 60 V", head + `{"measure":"voltage","state":"crank","from":"bat_pos","to":"bat_neg","value":"230"}]}`, "/evidence/0"},
		{"a circuit without parts", `{"format":"corriente-circuit/1","id":"empty"}`, "/"},
	} {
		t.Run(x.name, func(t *testing.T) {
			code, out, err := call(t, "validate", file(t, "x.json", x.text))
			assert.Equal(t, 2, code)
			assert.Empty(t, out)
			assert.Contains(t, err, x.want)
		})
	}
	v := object(t, "validate", file(t, "case.json", head+`{"observe":"click","state":"crank","outcome":"none"}]}`), "--format", "json")
	assert.Equal(t, "a case of starter with 1 piece of evidence", v["says"])
	for _, id := range circuit.Families() {
		c, err := circuit.Family(id)
		require.NoError(t, err)
		b, err := json.Marshal(c)
		require.NoError(t, err)
		v := object(t, "validate", file(t, id+".json", string(b)), "--format", "json")
		assert.Equal(t, circuit.Format, v["format"], id)
	}
	code, _, err := call(t, "validate", "/no/such/file.json")
	assert.Equal(t, 2, code)
	assert.Contains(t, err, "cannot be opened")
}
