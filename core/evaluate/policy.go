package evaluate

import (
	"math/rand/v2"
	"slices"

	"corriente/core/casefile"
	"corriente/core/diagnose"
	"corriente/core/policy"
	"corriente/core/unit"
)

// chooser picks the next reading of a machine.
type chooser struct {
	policy string
	order  []casefile.Evidence
	at     int
	rng    *rand.Rand
}

func newChooser(by string, a *diagnose.Adviser, rng *rand.Rand) *chooser {
	c := &chooser{policy: by, rng: rng}
	switch by {
	case policy.Textbook:
		c.order = policy.TextbookOrder(a)
	case policy.Random:
		c.order = a.Candidates()
		rng.Shuffle(len(c.order), func(i, j int) { c.order[i], c.order[j] = c.order[j], c.order[i] })
	}
	return c
}

func (c *chooser) next(op *diagnose.Opinion, taken []casefile.Evidence) (casefile.Evidence, bool) {
	if len(op.Next) == 0 {
		return casefile.Evidence{}, false
	}
	if c.policy == policy.Adviser || c.policy == "" {
		n := op.Next[0]
		return casefile.Evidence{Measure: unit.Measure(n.Measure), Observe: n.Observe, State: n.State, From: n.From,
			To: n.To, Through: n.Through}, true
	}
	for c.at < len(c.order) {
		e := c.order[c.at]
		c.at++
		if !slices.ContainsFunc(taken, func(t casefile.Evidence) bool {
			return t.Measure == e.Measure && t.Observe == e.Observe && t.State == e.State && t.From == e.From &&
				t.To == e.To && t.Through == e.Through
		}) {
			return e, true
		}
	}
	return casefile.Evidence{}, false
}
