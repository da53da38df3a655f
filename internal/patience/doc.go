// Package patience says how long a test waits for what it wants to see. There is
// one limit for all of them, generous enough that only something broken reaches
// it; CORRIENTE_PATIENCE=4 multiplies it on a machine that is busy or slow.
package patience
