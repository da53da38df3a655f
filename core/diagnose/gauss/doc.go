// Package gauss is the arithmetic of Gaussians that the reasoning needs: the linear-Gaussian update
// with its Cholesky factor, mixtures and their quantiles, entropy and divergence, bits.
package gauss
