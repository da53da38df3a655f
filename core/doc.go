// Package core is the job itself: quantities, meters, circuits, faults and the
// reasoning about them. Its packages are pure: no interface, no database, no
// clock, no input or output but io.Reader and io.Writer.
package core
