// Package spell mends single typing errors against a small vocabulary: what is typed with one
// glove off beside a machine. It corrects only what cannot be another word of the trade.
package spell
