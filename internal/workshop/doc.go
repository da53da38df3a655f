// Package workshop is what the workshop does with a job once its readings are in: it
// compares what can be done, records what was chosen and done, says what would prove it,
// takes the signature, and writes the papers. It puts the core's computation and the
// store together; handlers ask it and answer.
package workshop
