// Package intake finds the circuit from a complaint: a technician says what the
// machine does in plain words, answers one or two plain questions, and never
// needs to know a family's name.
package intake
