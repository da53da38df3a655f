// Package train is the trainer: a simulated machine with a hidden fault, a meter that
// behaves as one, minutes that count, consequences, and a debrief that sets every
// move beside what the adviser would have done.
//
// An attempt is its exercise and its moves, nothing else: the same seed and the same
// moves give the same machine and the same readings on any computer.
package train
