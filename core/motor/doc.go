// Package motor is the brushed DC motor as a two-terminal element: back-EMF,
// brush drop, friction, load and stall.
//
//	v    = R i + Vb tanh(i/i0) + ke φ(i) w
//	ke φ(i) i = friction tanh(w/w0) + load (w/rated)^n + drag w
//
// φ is 1 for a permanent-magnet motor and i/√(i² + isat²) for a series-wound
// one. Speed is never negative: where the torque at standstill does not exceed
// what holds the shaft, w = 0 and the motor is stalled.
package motor
