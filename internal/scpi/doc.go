// Package scpi talks to instruments over a TCP socket in the language of IEEE
// 488.2 and SCPI-99: lines of commands, lines of answers, blocks of samples. It
// trusts nothing it is told: what is not a number is an error, and every wait has
// an end.
package scpi
