// Package casefile reads and writes the open case format, corriente-case/1: one
// diagnostic job as JSON. Nothing unknown is skipped: an unknown field, node,
// state or outcome is an error that names its place and the mend.
package casefile
