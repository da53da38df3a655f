// Package blink reads a controller's blink codes: tables as CSV, which table
// holds for a machine, and a lamp that is tapped along with.
//
// The same controller flashes different meanings in different machines, so a
// table belongs to a controller and may be overridden by the machine it sits in.
package blink
