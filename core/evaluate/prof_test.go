package evaluate

import (
	"context"
	"os"
	"strconv"
	"testing"
)

func TestProf(t *testing.T) {
	n, _ := strconv.Atoi(os.Getenv("N"))
	if _, err := Run(context.Background(), Options{Circuit: os.Getenv("FAM"), Seed: 1, Faults: n}); err != nil {
		t.Fatal(err)
	}
}
