// Package evaluate hides random faults, lets the adviser work each to a verdict
// against simulated meters, and reports how right and how sure it was.
//
// Simulator and adviser share one model of the circuit, so the figures are an
// upper bound; the true values are drawn apart from what the adviser believes.
package evaluate
