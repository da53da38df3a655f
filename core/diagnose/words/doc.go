// Package words is the likelihood of what people say they see, hear, feel and smell: the chance of
// each answer to an observation under a solved cell. Where physics decides, the answer follows from
// the solution; where it does not, from the family's rates. Every chance stands in
// [corriente/core/diagnose/assume].
package words
