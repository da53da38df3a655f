// Package unit reads and writes quantities the way technicians do: "11.9",
// "250m", "24,5 A", "OL", "0.3 Ω", "10k". Everything inside Corriente is SI;
// text exists only at the edges, and the text as typed is kept beside the value.
package unit
