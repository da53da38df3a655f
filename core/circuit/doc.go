// Package circuit holds the circuits as data and solves them: which stations
// the current passes, what each state asks of them, and what every node's
// voltage then is. Families are JSON files in families/, embedded; a workshop's
// own circuit is the same kind of file.
package circuit
