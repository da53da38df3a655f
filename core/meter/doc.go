// Package meter describes the instruments a technician holds: what they can
// resolve, how far a reading may be off, and whether one can answer a question
// at all. Uncertainties follow JCGM 100 (the GUM): a maker's limit is a
// rectangular distribution, so its standard deviation is the half-width / √3.
package meter
