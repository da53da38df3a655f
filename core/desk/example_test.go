package desk_test

import (
	"corriente/core/desk"
	"fmt"
	"time"
)

// A job that waits for a part has its place on the board by the day it comes.
func ExamplePlaceOf() {
	now := time.Date(2026, 6, 1, 8, 0, 0, 0, time.UTC)
	for _, days := range []int{-1, 2} {
		p := desk.PlaceOf(now, false, []desk.Wait{{Kind: desk.WaitParts, Until: now.AddDate(0, 0, days)}}, nil)
		fmt.Println(p.Group, p.Due.Format(time.DateOnly))
	}
	// Output:
	// overdue 2026-05-31
	// waiting 2026-06-03
}

// A calculator of the bench, with its answer.
func ExampleCalculate() {
	v, err := desk.Calculate("bearing", map[string]string{"bore": "20", "outside": "47", "width": "14"}, nil, "")
	fmt.Println(v.Judged, err)
	// Output:
	// good <nil>
}
