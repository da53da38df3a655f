package field_test

import (
	"corriente/core/trace/field"
	"fmt"
	"math/rand/v2"
)

// The same weak hump, counted from another place of the revolution.
func ExampleAlike() {
	fmt.Println(field.Alike([]int{1}, []int{4}, 12), field.Alike([]int{1, 2}, []int{4, 7}, 12))
	// Output:
	// true false
}

// A trace whose truth is known: as many humps a turn as its bars and brushes give.
func ExampleDraw() {
	s := field.Draw(field.Tuning(), rand.New(rand.NewPCG(1, 1)))
	fmt.Println(len(s.Amperes) > 1000, s.Truth.Humps > 0, s.Truth.RPM > 0)
	// Output:
	// true true true
}
