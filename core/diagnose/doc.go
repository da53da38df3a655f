// Package diagnose weighs evidence about one circuit: which faults explain what was read and seen,
// how sure that is, and which reading is worth taking next.
//
// It is the door to the rooms where that is done. One reading walks through them in this order:
//
//	cells     what can be wrong, each diagnosis solved, with derivatives
//	readings  how likely the figure is under each cell
//	words     how likely an answer is under each cell
//	belief    the posterior of every cell, slips and wrongly given values among them
//	choice    what to read next
//	explain   the verdict, and what each piece of evidence was worth
//	picture   what is drawn of it
//	proof     what would show a repair to be good
//
// assume is the one table of what all of them take for granted, gauss their arithmetic. No room
// imports one that stands below it in this list, and none the simulated machines that judge them.
package diagnose
