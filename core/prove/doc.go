// Package prove holds what a repair must show besides its readings before it is called
// good: how often it was run, cold and hot, what was unplugged, and what a
// generator set's own panel says.
package prove
