package words_test

import (
	"corriente/core/circuit"
	"corriente/core/diagnose/assume"
	"corriente/core/diagnose/cells"
	"corriente/core/diagnose/words"
	"corriente/core/fault"
	"fmt"
	"math/rand/v2"
)

// space is what can be wrong with a starter.
func space() *cells.Space {
	c, err := circuit.Family("starter")
	if err != nil {
		panic(err)
	}
	t, err := assume.Standard()
	if err != nil {
		panic(err)
	}
	a, err := cells.New(c, t)
	if err != nil {
		panic(err)
	}
	return a
}

// What somebody says of a starter that is seized, asked nine times.
func ExampleAnswer() {
	a := space()
	truth := words.Truth{Theta: a.Theta, Faults: []fault.Fault{{Station: "motor", Mode: "seized"}}}
	said := map[string]int{}
	rng := rand.New(rand.NewPCG(1, 2))
	for range 9 {
		said[words.Answer(a, truth, words.Asked{Observe: "turning", State: "crank"}, rng)]++
	}
	fmt.Println(said["none"] > 6)
	// Output:
	// true
}

// The answer that a word stands for.
func ExampleOutcomeOf() {
	o := space().C.Observation("click")
	fmt.Println(o.Outcomes[words.OutcomeOf(o, "single")].Label, words.OutcomeOf(o, "boom"))
	// Output:
	// one clunk -1
}
