// Package belief weighs the evidence of a job: from the prior of every cell and the likelihood of
// every reading and answer to the posterior.
//
// Each cell is scored at its nominal values by a linear-Gaussian update. The cells that matter are
// then moved to the values that fit their evidence best and linearised there again (Gauss-Newton,
// Laplace's method). One reading of each cell may be a mistake or a slip, and a value that somebody
// gave may be wrong: these are weighed beside the rest. A repair ends an epoch: what was likely
// before is the prior of what comes after.
package belief
