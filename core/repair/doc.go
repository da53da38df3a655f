// Package repair compares what can be done about a verdict: what each plan costs in
// expectation, how long the machine stands, and what one would have to believe for
// another plan to win.
//
// A plan treats one part or several. It is weighed by one story, told for each diagnosis
// that is still possible: the work is done; it cures what it cures, or the first start
// shows that it did not, and what is still wrong is then put right by the surest means;
// what holds fails again some day and is mended anew, for as long as the machine is to
// stay (see [Life]). story.go tells it.
package repair
