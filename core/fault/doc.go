// Package fault holds what can be wrong: the fault modes, how bad each can be,
// and what each does to a circuit.
package fault
