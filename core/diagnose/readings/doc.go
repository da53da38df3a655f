// Package readings is the likelihood of figures: what a solved cell says a reading would be, and by
// how much the two may differ.
//
// They differ by the meter's specification, by what one try differs from the next (model
// discrepancy), by what floats, and by slips: the wrong unit, the leads swapped. Readings are also
// checked without any model: the volts round a loop add up to nothing.
package readings
