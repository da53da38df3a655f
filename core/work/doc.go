// Package work keeps the repairs of a job apart. A job holds any number of them: each with
// what was found, what was chosen, what was done, and whether it was proved. A second
// fault is a second repair; it takes nothing from the first.
package work
