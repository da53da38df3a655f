package casefile_test

import (
	"corriente/core/casefile"
	"fmt"
	"os"
	"strings"
)

// What was read is written as it was typed.
func ExampleCase_Write() {
	c, err := casefile.Read(strings.NewReader(`{"format":"corriente-case/1","circuit":"starter","evidence":[
		{"measure":"voltage","state":"crank","from":"sol_b","to":"sol_m","value":"2,3 V"}]}`))
	if err != nil {
		fmt.Println(err)
		return
	}
	if err := c.Write(os.Stdout); err != nil {
		fmt.Println(err)
	}
	// Output:
	// {
	//   "format": "corriente-case/1",
	//   "circuit": "starter",
	//   "nominal_voltage": 12,
	//   "ambient_c": 20,
	//   "evidence": [
	//     {
	//       "measure": "voltage",
	//       "state": "crank",
	//       "from": "sol_b",
	//       "to": "sol_m",
	//       "value": "2,3 V"
	//     }
	//   ]
	// }
}
