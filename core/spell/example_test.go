package spell_test

import (
	"corriente/core/spell"
	"fmt"
)

// A letter off is mended to the trade's word; a word of every day that is as near means itself.
func ExampleBook_Word() {
	b := &spell.Book{Right: []string{"starter", "click"}, Fine: []string{"clock"}}
	fmt.Println(b.Word("startre"), b.Word("clock"), b.Word("tractor"))
	// Output:
	// starter clock tractor
}

// A text is mended word by word.
func ExampleBook_Text() {
	b := &spell.Book{Right: []string{"starter", "slowly"}}
	fmt.Println(b.Text("the startr turns slowley"))
	// Output:
	// the starter turns slowly
}
