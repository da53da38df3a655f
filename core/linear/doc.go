// Package linear solves the small dense systems of the core: the nodes of a circuit and the covariances of the
// reasoning. All are symmetric and positive definite.
package linear
