// Command shape finds functions that are too long or too tangled to be read in one go, or ask for too much at once,
// and lines that are too wide. What is so today stands in offenders.txt, which may only shrink: a new offender, or
// one that grew, fails; so does an entry that is no longer true, so that the list is
// taken in as soon as something was mended.
//
// usage: shape [-shrink] [FOLDER...]; with -shrink the list is rewritten, entries going
// or growing smaller only.
package main
