// Package policy holds the ways to choose the next reading that the adviser's is held against: the
// fixed order of a textbook, and chance.
package policy
