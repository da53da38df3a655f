// Package calc is the workbench's set of calculators: each says what it answers, its
// formula, its inputs with their units, its source and its uncertainty, and what it
// would put into the job. The physics lives in the packages beside it.
package calc
