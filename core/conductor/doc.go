// Package conductor computes wires: resistance from size, length and
// temperature, in mm² or AWG.
package conductor
