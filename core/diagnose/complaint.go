package diagnose

import (
	"math"
	"regexp"
	"slices"
	"strings"

	"corriente/core/casefile"
	"corriente/core/circuit"
)

// What a customer says of a machine is evidence: "does not crank at all" speaks against a
// sound starter. It is weaker than a technician's own look, and counts only until somebody
// has looked.

// Trust in a complaint: how far its words are taken as a look would be, and where it comes
// and goes (from memory: of machines that "do not turn" about one in ten does turn, slowly
// or now and then).
const (
	complaintTrust = 0.85
	sometimesTrust = 0.4
)

// heard is what words of a complaint say: the answers, in canonical words, that they leave
// to the looks of a model.
type heard struct {
	models  []string
	answers []string
	says    string // as it is told back
	re      *regexp.Regexp
	not     *regexp.Regexp // where this is said too, it does not count
}

var (
	motion    = []string{"turning", "speed"}
	verbs     = `(crank|turn|move|run|work|drive|spin|blow|open|close|go|wipe|sweep|lift|pump|do anything|respond|react|start)`
	sometimes = regexp.MustCompile(`\b(some ?times|now and then|once|twice|at times|intermittent\w*|occasional\w*|off and on|every so often)\b`)
	slowly    = regexp.MustCompile(`\b(slow|slower|slowly|sluggish\w*|weak|weaker|weakly|lazy|lazily|tired|hardly|barely|labou?r\w*|drags)\b`)
	spinsFree = regexp.MustCompile(`\b(whirr?s?|spins?|whines?|races?|runs?)\b.{0,40}\b(engine (stands|does not|doesn.?t)|nothing follows|without (cranking|turning))`)
)

var complaints = []heard{
	{models: motion, answers: []string{"free_spin", "free"}, says: "spins free", re: spinsFree},
	{models: motion, answers: []string{"none"}, says: "does not turn", not: spinsFree,
		re: regexp.MustCompile(`\b(dead|silent|lifeless|stands still|standing still|stopped dead)\b|\bnothing( happens| turns| moves| works|\b)|\bno (crank\w*|air|movement|motion|life|reaction|wind)\b|\b(does|do|will|did|can|would)( ?n.?t| not|n't) ` + verbs + `|\b(doesnt|dont|wont|cant) ` + verbs + `|\bwon.?t ` + verbs + `|\bnot (turning|moving|working|running|cranking|blowing|driving)`)},
	{models: motion, answers: []string{"slow", "erratic"}, says: "turns slowly", re: slowly, not: spinsFree},
	{models: []string{"click"}, answers: []string{"none"}, says: "no click", re: regexp.MustCompile(`\b(no click\w*|not even a click|without a click|silent|no sound)\b`)},
	{models: []string{"click"}, answers: []string{"chatter"}, says: "chatters", re: regexp.MustCompile(`\b(chatter\w*|rattl\w*|clatter\w*)\b`)},
	{models: []string{"click"}, answers: []string{"single"}, says: "clicks", re: regexp.MustCompile(`\b(clicks?|clicked|clicking|clunks?|clonks?|clacks?)\b`), not: regexp.MustCompile(`\b(no|not even a|without a) click`)},
	{models: []string{"fuse"}, answers: []string{"blows_at_once", "blows_later"}, says: "blows its fuse", re: regexp.MustCompile(`\b(blow|blows|blew|blowing|pops|popped|takes) .{0,20}fuse|fuse\b.{0,20}\b(blow\w*|blew|blown|goes|pops|gone)`)},
	{models: []string{"moves"}, answers: []string{"no"}, says: "does not park", re: regexp.MustCompile(`\b(does|do|will)( ?n.?t| not) (park|return)|\b(doesnt|dont) park|\bstops? (anywhere|where(ver)? (it|they)|half ?way|mid)`)},
	{models: []string{"starts"}, answers: []string{"hums"}, says: "hums and does not start", re: regexp.MustCompile(`\b(hums?|humming|buzz\w*)\b`)},
	{models: []string{"starts"}, answers: []string{"no_hum"}, says: "dead", re: regexp.MustCompile(`\b(dead|silent|no hum)\b`), not: regexp.MustCompile(`\bhum`)},
}

// said lists a complaint's words by where they count: looks in the state the machine works
// in, with the answers they leave.
type saidOf struct {
	o       *circuit.Observation
	state   int
	answers []int
	trust   float64
	says    string
}

// plainText brings a complaint to small letters with single spaces.
func plainText(s string) string {
	s = strings.ToLower(strings.NewReplacer("’", "'", "‘", "'", "\n", " ").Replace(s))
	return strings.Join(strings.Fields(s), " ")
}

// engineOnly reports whether "does not start" is said of an engine: a starter may crank and
// the engine not start.
var engineOnly = regexp.MustCompile(`\b(does|will|did|would)( ?n.?t| not) start|\b(doesnt|wont) start|\bwon.?t start`)

// understood lists what a complaint says of a circuit. What was looked at since is left
// out: the look counts.
func (a *Adviser) understood(j *Job) []saidOf {
	text := plainText(j.Complaint)
	if text == "" {
		return nil
	}
	if a.C.ID == "starter" {
		text = engineOnly.ReplaceAllString(text, "")
	}
	trust := complaintTrust
	if sometimes.MatchString(text) || j.Intermittent {
		trust = sometimesTrust
	}
	var out []saidOf
	for i := range a.C.Observations {
		o := &a.C.Observations[i]
		st := a.Net.StatePos(a.C.RunState)
		if o.Model == "moves" { // parking has a state of its own
			if o.ID != "parks" {
				continue
			}
			st = a.Net.StatePos(o.States[0])
		} else if !slices.Contains(o.States, a.C.RunState) {
			continue
		}
		looked := slices.ContainsFunc(j.Evidence, func(e casefile.Evidence) bool {
			x := a.C.Observation(e.Observe)
			return !e.Struck && x != nil && x.Model == o.Model && e.Outcome != circuit.NotSure
		})
		if looked || len(j.Codes) > 0 && o.Model == "blink_code" {
			continue
		}
		x := saidOf{o: o, state: st, trust: trust}
		var told []string
		for k := range complaints {
			h := &complaints[k]
			if !slices.Contains(h.models, o.Model) || !h.re.MatchString(text) || h.not != nil && h.not.MatchString(text) {
				continue
			}
			for _, id := range h.answers {
				if n := outcomeOf(o, id); n >= 0 && !slices.Contains(x.answers, n) {
					x.answers = append(x.answers, n)
				}
			}
			told = append(told, h.says)
		}
		if len(x.answers) > 0 && len(x.answers) < len(o.Outcomes) {
			x.says = strings.Join(told, " or ")
			out = append(out, x)
		}
	}
	return out
}

// outcomeOf finds the answer that a canonical word stands for in a look, -1 for none.
func outcomeOf(o *circuit.Observation, id string) int {
	if w, ok := o.Words[id]; ok {
		id = w
	}
	return slices.IndexFunc(o.Outcomes, func(x circuit.Outcome) bool { return x.ID == id })
}

// complaintPrior moves the logarithm of a prior by what the complaint says.
func (a *Adviser) complaintPrior(prior []float64, said []saidOf) {
	for i := range said {
		x := &said[i]
		bank, n := a.wordsOf(x.o, x.state), len(x.o.Outcomes)
		even := float64(len(x.answers)) / float64(n)
		for k := range prior {
			p := 0.0
			for _, m := range x.answers {
				p += math.Exp(float64(bank[k*n+m]))
			}
			prior[k] += math.Log(x.trust*p + (1-x.trust)*even)
		}
	}
	total := logSumExp(prior)
	for k := range prior {
		prior[k] -= total
	}
}
