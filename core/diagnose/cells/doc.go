// Package cells is the model of a diagnosis: everything that can be wrong with one circuit.
//
// A diagnosis is nothing wrong, one fault or two. It is cut into cells, one for each grid point of
// its severity, for each way its contacts may stand, and for each way a driver may protect itself.
// A cell at given values is a [Point]; solved in a state it gives every node's volts and every
// part's amperes with their derivatives by each uncertain value ([Solved]), so that a reading
// updates a cell as a Gaussian.
package cells
