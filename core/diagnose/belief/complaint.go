package belief

import (
	"math"
	"slices"
	"strings"

	"corriente/core/casefile"
	"corriente/core/circuit"
	"corriente/core/complaint"
	"corriente/core/diagnose/gauss"
	"corriente/core/diagnose/words"
)

// What a customer says of a machine is evidence: "does not crank at all" speaks against a
// sound starter. It is weaker than a technician's own look, and counts only until somebody
// has looked.

// heard is what a statement of a complaint leaves to the looks of a model, or to the look of
// that name: answers in canonical words.
type heard struct {
	looks   []string
	answers []string
}

var motion = []string{"turning", "speed"}

var complaints = map[string][]heard{
	complaint.SpinsFree:  {{motion, []string{"free_spin", "free"}}},
	complaint.Dead:       {{motion, []string{"none"}}, {[]string{"starts"}, []string{"no_hum", "hums", "hums_then_runs_when_pushed"}}},
	complaint.Slow:       {{motion, []string{"slow", "erratic"}}},
	complaint.Jerks:      {{motion, []string{"erratic", "slow"}}},
	complaint.Varies:     {{motion, []string{"erratic"}}},
	complaint.Returns:    {{motion, []string{"erratic"}}},
	complaint.UpDead:     {{[]string{"glass_moves"}, []string{"none"}}},
	complaint.DownDead:   {{[]string{"glass_moves"}, []string{"normal"}}}, // up is the state that counts, and it works
	complaint.NoClick:    {{[]string{"click"}, []string{"none"}}},
	complaint.Chatters:   {{[]string{"click"}, []string{"chatter"}}},
	complaint.Clicks:     {{[]string{"click"}, []string{"single"}}},
	complaint.BlowsFuse:  {{[]string{"fuse"}, []string{"blows_at_once", "blows_later"}}},
	complaint.Trips:      {{[]string{"breaker"}, []string{"trips"}}},
	complaint.NoPark:     {{[]string{"parks"}, []string{"no"}}},
	complaint.Hums:       {{[]string{"starts"}, []string{"hums", "hums_then_runs_when_pushed"}}, {[]string{"noise"}, []string{"hum"}}},
	complaint.NoHum:      {{[]string{"starts"}, []string{"no_hum"}}},
	complaint.Pushed:     {{[]string{"starts"}, []string{"hums_then_runs_when_pushed"}}},
	complaint.TapHelps:   {{[]string{"tap_helps"}, []string{"yes"}}},
	complaint.Burnt:      {{[]string{"smell"}, []string{"burnt"}}},
	complaint.LampsDim:   {{[]string{"lamps_dim"}, []string{"yes"}}},
	complaint.Noise:      {{[]string{"noise"}, []string{"rough", "grind"}}},
	complaint.Heard:      {{[]string{"motor_heard"}, []string{"yes"}}},
	complaint.ArmStill:   {{[]string{"arm_moves"}, []string{"no"}}},
	complaint.SpeedsSame: {{[]string{"speeds_differ"}, []string{"no"}}},
	complaint.Door:       {{[]string{"door_position_matters"}, []string{"yes"}}},
}

// said lists a complaint's words by where they count: looks in the state the machine works
// in, with the answers they leave.
type saidOf struct {
	O       *circuit.Observation
	State   int
	answers []int
	Trust   float64
	Says    string
}

// Understood lists what a complaint says of a circuit. What was looked at since is left
// out: the look counts.
func (a *Reasoner) Understood(j *Job) []saidOf {
	said := complaint.Understand(a.C.ID, j.Complaint)
	if len(said) == 0 {
		return nil
	}
	trust := a.Assumed.Prior.ComplaintTrust
	if complaint.Has(said, complaint.Sometimes) || j.Intermittent {
		trust = a.Assumed.Prior.SometimesTrust
	}
	var out []saidOf
	for i := range a.C.Observations {
		o := &a.C.Observations[i]
		st := a.Net.StatePos(a.C.RunState)
		if o.ID == "parks" { // it has a state of its own
			st = a.Net.StatePos(o.States[0])
		} else if !slices.Contains(o.States, a.C.RunState) {
			continue
		}
		looked := slices.ContainsFunc(j.Evidence, func(e casefile.Evidence) bool {
			x := a.C.Observation(e.Observe)
			return !e.Struck && x != nil && (x.ID == o.ID || x.Model == o.Model && o.Model != "rates") && e.Outcome != circuit.NotSure
		})
		if looked || len(j.Codes) > 0 && o.Model == "blink_code" {
			continue
		}
		x := saidOf{O: o, State: st, Trust: trust}
		var told []string
		for _, s := range said {
			for _, h := range complaints[s.ID] {
				if !slices.Contains(h.looks, o.Model) && !slices.Contains(h.looks, o.ID) {
					continue
				}
				for _, id := range h.answers {
					if n := words.OutcomeOf(o, id); n >= 0 && !slices.Contains(x.answers, n) {
						x.answers = append(x.answers, n)
					}
				}
				told = append(told, s.Says)
			}
		}
		if len(x.answers) > 0 && len(x.answers) < len(o.Outcomes) {
			x.Says = strings.Join(told, " or ")
			out = append(out, x)
		}
	}
	return out
}

// complaintPrior moves the logarithm of a prior by what the complaint says.
func (a *Reasoner) complaintPrior(prior []float64, said []saidOf) {
	for i := range said {
		x := &said[i]
		bank, n := a.wordsOf(x.O, x.State), len(x.O.Outcomes)
		even := float64(len(x.answers)) / float64(n)
		for k := range prior {
			p := 0.0
			for _, m := range x.answers {
				p += math.Exp(float64(bank[k*n+m]))
			}
			prior[k] += math.Log(x.Trust*p + (1-x.Trust)*even)
		}
	}
	total := gauss.LogSumExp(prior)
	for k := range prior {
		prior[k] -= total
	}
}
