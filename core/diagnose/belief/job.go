package belief

import (
	"corriente/core/casefile"
	"corriente/core/meter"
)

// Job is what is known about one machine: its evidence, in the order it was
// taken, and what the technician has at hand.
type Job struct {
	Evidence     []casefile.Evidence
	Instruments  map[string]meter.Instrument
	Intermittent bool
	Codes        map[int][]string // the blink-code table that holds here, code: faults
	Known        casefile.Known   // shifts the priors and the order of the readings
	When         []string         // cold, hot, wet, after_knock: when the complaint shows
	Complaint    string           // in the customer's words
	Given        []string         // values that were given, station.parameter
	Repairs      []casefile.Repair
	HourRate     float64 // money an hour of work costs, > 0; 0: the families' own
	Brief        bool    // leave out the explanation of each reading
}

// JobOf takes what a case file says.
func JobOf(c *casefile.Case) *Job {
	j := &Job{Evidence: c.Evidence, Instruments: c.Instruments, Intermittent: c.Intermittent, Codes: c.Codes,
		Known: c.Known, Repairs: c.Repairs}
	for _, g := range c.Parameters {
		j.Given = append(j.Given, g.Name)
	}
	if c.Job != nil {
		j.When, j.Complaint = c.Job.When, c.Job.Complaint
	}
	return j
}

// Sure is the probability at which a verdict stands.
const Sure = 0.95
