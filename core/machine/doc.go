// Package machine is a simulated machine with a hidden fault: probed with a
// meter that errs as meters do, it answers as the solved circuit says. It feeds
// the demo's readings and the evaluation of the adviser.
package machine
