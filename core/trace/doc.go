// Package trace reads current traces as scopes export them and says what the
// motor's own current tells: mean, ripple, speed, and the level of each
// commutator bar.
package trace
