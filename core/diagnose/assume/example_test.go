package assume_test

import (
	"fmt"

	"corriente/core/diagnose/assume"
)

// How far a verdict hangs on a number is asked with a table in which that number is another.
func ExampleTable_With() {
	t, err := assume.Standard()
	if err != nil {
		fmt.Println(err)
		return
	}
	other, err := t.With("Prior.None", 0.1)
	fmt.Println(t.Prior.None, other.Prior.None, err)
	_, err = t.With("Prior.Weather", 1)
	fmt.Println(err)
	// Output:
	// 0.2 0.1 <nil>
	// nothing called "Prior.Weather" is assumed
}

// The chance that a motor is called as fast as it should be, at half its speed and at nine tenths.
func ExampleCurve_Of() {
	normal := assume.Curve{Base: 0, Rise: 1, At: 0.72, Width: 0.07}
	fmt.Printf("%.2f %.2f\n", normal.Of(0.5), normal.Of(0.9))
	// Output:
	// 0.04 0.93
}
