// Package bench is a simulated bench: a meter, a clamp and a scope that probe a
// simulated machine and answer on loopback ports as real instruments do, in
// SCPI. The demo, the tests and the trainer use it; where probes are and what is
// switched on is told with SIMulate commands of its own.
package bench
