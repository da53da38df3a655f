package phrase_test

import (
	"corriente/core/phrase"
	"fmt"
)

// A label within a sentence begins small, unless it is written in capitals.
func ExampleLower() {
	fmt.Println(phrase.Lower("Starter motor"), phrase.Lower("DC supply"))
	// Output:
	// starter motor DC supply
}
