package oldlist_test

import (
	"corriente/core/oldlist"
	"fmt"
	"strings"
	"time"
)

// An old list is read line by line; a day that two countries read differently is day before month.
func ExampleRead() {
	lines, err := oldlist.Read(strings.NewReader("machine,date,what\nVan Wren,3/4/2025,clicks only\nVan Teal,31/31/2025,dead\n"),
		[]string{"starter"}, time.Date(2026, 1, 1, 0, 0, 0, 0, time.UTC))
	for _, l := range lines {
		fmt.Println(l.N, l.Machine, l.On.Format(time.DateOnly), l.Wrong != "")
	}
	fmt.Println(err)
	// Output:
	// 2 Van Wren 2025-04-03 false
	// 3 Van Teal 0001-01-01 true
	// <nil>
}

// A price may have a comma; what cannot be a price refuses its line alone.
func ExampleOldLine() {
	lines, _ := oldlist.Read(strings.NewReader("machine;date;what;price\nVan Wren;2025-04-03;clicks only;41,50\nVan "+
		"Teal;2025-04-04;dead;cheap\n"),
		nil, time.Date(2026, 1, 1, 0, 0, 0, 0, time.UTC))
	fmt.Println(*lines[0].Price, lines[1].Wrong != "")
	// Output:
	// 41.5 true
}
