// Package wear judges what runs and rubs: brushes, commutators and bearings.
package wear
