// Package disk says how much room there is where the data are, before there is none.
package disk
