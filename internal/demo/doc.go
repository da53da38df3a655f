// Package demo makes the demo data: the workshop of a lakeside orchard
// cooperative with a small passenger ferry. All of it is invented; the readings
// come from simulated machines with hidden faults, worked by the adviser.
package demo
