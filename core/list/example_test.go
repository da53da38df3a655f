package list_test

import (
	"corriente/core/list"
	"fmt"
	"strings"
)

// A list as a spreadsheet writes it: semicolons, and other names for the columns.
func ExampleRead() {
	rows, err := list.Read(strings.NewReader("Bezeichnung;Preis\nbrush set;12,40\n"),
		map[string][]string{"name": {"name", "bezeichnung"}, "price": {"price", "preis"}}, []string{"name"}, 100)
	fmt.Println(rows[0].N, rows[0].Get("name"), rows[0].Get("price"), err)
	// Output:
	// 2 brush set 12,40 <nil>
}

// What is missing is said before a line is read.
func ExampleRow_Get() {
	_, err := list.Read(strings.NewReader("colour\nred\n"), map[string][]string{"name": {"name"}}, []string{"name"}, 100)
	fmt.Println(err)
	rows, _ := list.Read(strings.NewReader("name\nbrush set\n"),
		map[string][]string{"name": {"name"}, "price": {"price"}}, []string{"name"}, 100)
	fmt.Printf("%q\n", rows[0].Get("price"))
	// Output:
	// line 1 must name the columns, name among them; it says "colour"
	// ""
}
