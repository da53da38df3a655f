// Package complaint understands what a customer says of a machine: plain words, with typing
// errors, become statements ("it clicks", "it blows its fuse") that the rest of the core counts
// as evidence and that nobody is asked again.
//
// It is a table of phrases, not a language model: a complaint it does not understand says
// nothing, and is kept as typed.
package complaint
