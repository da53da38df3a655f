// Package field makes machines that the adviser's own model did not make. It
// knows a circuit's wiring from its data and shares no equation with core/circuit,
// core/fault or core/machine: a battery whose charge, surface charge and
// polarisation set its volts, contacts that differ from closing to closing, brush
// drop that depends on current, windings that warm, friction that starts higher
// than it runs, modules that limit current, consumers that draw on the grounds,
// leakage that biases an open wire, meters that round, and people who say "slow"
// only when it is clearly slow.
//
// Sizes are common practice and from memory. A figure on these machines is no
// proof of the world either: it says whether the judgement survives equations that
// are not its own. Two sets of settings, Tuning and Reporting, keep what is tuned on
// apart from what is reported.
package field
