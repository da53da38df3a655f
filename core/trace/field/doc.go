// Package field simulates commutator motors coil by coil, and the clamps and scopes that look
// at them, to judge package trace by machines it was not made from. Nothing of package trace
// is in it but the count of humps a revolution.
//
// A motor here is a ring of coils between commutator bars, a contact between every bar and
// every brush that lies on it, and an electromotive force in each coil by where it stands in
// the field (Fitzgerald, Kingsley and Umans, Electric Machinery, 6th ed., ch. 7). The network
// is solved for each angle of a revolution; the current then follows from the inductance. A
// scope adds what scopes add: the clamp's bandwidth, offset and drift, the converter's steps,
// noise, the mains, an alternator's ripple, a module's chopping, aliased where the scope is
// too slow for it.
package field
