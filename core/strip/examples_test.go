package strip_test

import (
	"corriente/core/strip"
	"fmt"
)

// What is found in a part is heard in plain words.
func ExamplePiece() {
	for _, f := range strip.Parse("bearing rough at drive end").Findings {
		fmt.Println(f.Observe, f.Outcome)
	}
	// Output:
	// bearing_feel rough
}
