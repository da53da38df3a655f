// Package record is a job as the workshop keeps it, and the rules by which it goes on: what
// was chosen, done, taken apart and proved, what may be signed, and what each of it amounts
// to on the screens. It works on a case file and on what is kept beside it ([Kit]), knows no
// database and no clock of its own; the server and the browser without a connection both ask
// it, so that they say the same and refuse the same.
//
// Its rooms: repairs.go (the repairs of a job in words), options.go (what can be done, and a
// choice among it), proof.go (what would show the work to be good, and the signature),
// strip.go (what came off), kit.go (a job carried along, and what is written to it meanwhile).
package record
