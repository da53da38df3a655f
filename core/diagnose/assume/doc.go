// Package assume is the one table of what the reasoning takes for granted: how often people
// mistake what they see and hear, how often faults come together, how far one try differs from
// the next, what a wrong verdict costs. Every number stands here once, with its unit and where it
// comes from; nothing else in the reasoning holds a bare probability.
//
// The table is data: a test moves each number by a third and prints how far the verdicts go with
// it (core/diagnose, TestHowFarAssumptionsMatter), and docs/assumptions.md is written from it.
package assume
