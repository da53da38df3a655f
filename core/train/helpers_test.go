package train

import (
	"os"
	"strconv"
)

// exercisesOr is how many exercises a test works: CORRIENTE_EXERCISES, or n.
func exercisesOr(n int) int {
	if v, err := strconv.Atoi(os.Getenv("CORRIENTE_EXERCISES")); err == nil && v > 0 {
		return v
	}
	return n
}
