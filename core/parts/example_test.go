package parts_test

import (
	"corriente/core/parts"
	"fmt"
	"strings"
)

// A brush is found by its measurements, whatever the list calls it; 2 % or 0.3 mm off still fits.
func ExampleFit() {
	p := parts.Part{Kind: "brush set", Name: "Brush set for starters", Sizes: []float64{7, 11, 16}}
	for _, q := range []string{"brush 7x11x16.2", "brush 9x11x16", "bearing"} {
		fmt.Println(q, parts.Fit(&p, parts.Words(q), parts.Sizes(q)) > 0)
	}
	// Output:
	// brush 7x11x16.2 true
	// brush 9x11x16 false
	// bearing false
}

// Each line of a price list has its own verdict.
func ExampleRead() {
	lines, err := parts.Read(strings.NewReader("name;price;days\nBrush set 7x11x16;12,40;2\nSolenoid;dear;3\n"))
	for _, l := range lines {
		fmt.Println(l.N, l.Part != nil)
	}
	fmt.Println(err)
	// Output:
	// 2 true
	// 3 false
	// <nil>
}
