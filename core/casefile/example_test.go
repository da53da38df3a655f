package casefile_test

import (
	"fmt"
	"strings"

	"corriente/core/casefile"
)

// A case file that cannot be read says what is wrong, where, and the mend.
func ExampleRead() {
	_, err := casefile.Read(strings.NewReader(`{"format": "corriente-case/1", "circuit": "starter", "evidence": [
		{"measure": "voltage", "state": "crank", "from": "bat_pos", "to": "moon", "value": "9.8"}]}`))
	fmt.Println(err)
	// Output:
	// /evidence/0/to: circuit starter has no node "moon"; it has bat_pos, pos_cable_start, sol_b, sol_m, case, block, gnd_cable_end, bat_neg, fuse_out, ign_out, ilk_out, sol_s
}
