// Package explain says what the evidence amounts to: the verdict and what would overturn it, what
// each piece of evidence was worth, what looks wrong with it, and what can be found inside a motor
// that is apart. An [Opinion] is what a job has come to.
package explain
