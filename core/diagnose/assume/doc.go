// Package assume is the one table of what the reasoning takes for granted: how often people
// mistake what they see and hear, how often faults come together, how far one try differs from
// the next, what a wrong verdict costs. Every number stands here once, with its unit and where it
// comes from; nothing else in the reasoning holds a bare probability.
//
// The table is data: "corriente evaluate assumptions" moves each number by a third and prints how
// far the verdicts of finished jobs go with it (core/evaluate, TestHowFarAssumptionsMatter).
package assume
