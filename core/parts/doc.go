// Package parts reads price lists and finds a part by what it is and what it measures,
// not only by its number.
package parts
