// Package winding judges windings, insulation, stators and capacitors by what is
// measured on them with the part isolated: resistance corrected for leads and
// temperature, volts and amperes at a known current, bar-to-bar drops.
//
// Uncertainties are standard uncertainties (JCGM 100, the GUM) unless said.
package winding
