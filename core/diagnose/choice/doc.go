// Package choice names the next reading or check worth taking: what each would tell about which
// part it is, bits, against the minutes, the people and the money it costs. The best few are tried
// in thought some steps ahead (a rollout).
package choice
