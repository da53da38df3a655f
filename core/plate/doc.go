// Package plate puts what stands on a vehicle's plates and in its manual into a circuit's own
// terms, and back: kilowatts, amperes, volts and revolutions of a motor, the rating of a fuse,
// microfarads of a capacitor. Nobody beside a machine knows a motor constant or types farads.
package plate
