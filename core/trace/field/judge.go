package field

import (
	"fmt"
	"math"
	"math/rand/v2"
	"runtime"
	"slices"

	"golang.org/x/sync/errgroup"

	"corriente/core/trace"
)

// Sure is the confidence from which an answer counts as said with confidence.
const Sure = 0.95

// Tally counts how many traces were judged rightly.
type Tally struct {
	Traces     int
	Given      [2]int // told rightly, of those whose bars were given
	Free       [2]int // told rightly, of those that can be told without
	Switched   [2]int // told rightly, of those that a module switches
	Tellable   int    // bars given, or something marks a revolution
	Told       int    // of those that can be told: the speed was said
	RightSpeed int    // of those told, within 1 %
	WrongSure  int    // a wrong speed said with confidence
	Confident  int
	Judged     int // traces whose weak bars are beyond doubt and were told
	RightWeak  int
	Sound      int
	Accused    int // sound ones called weak
	Wrong      []string
}

// Honest is how many traces have a right speed or none.
func (t *Tally) Honest() int { return t.Traces - t.wrong() }

func (t *Tally) wrong() int { return len(t.Wrong) }

func (t *Tally) String() string {
	return fmt.Sprintf("%d traces: speed right or not said %d; of %d that can be told %d told, %d right (bars given "+
		"%d of %d, not given %d of %d, switched by a module %d of %d); wrong with confidence %d of %d; weak bars "+
		"right %d of %d; sound accused %d of %d",
		t.Traces, t.Honest(), t.Tellable, t.Told, t.RightSpeed, t.Given[0], t.Given[1], t.Free[0], t.Free[1],
		t.Switched[0], t.Switched[1], t.WrongSure, t.Confident, t.RightWeak, t.Judged, t.Accused, t.Sound)
}

// Judge draws so many traces from a seed and has each analysed.
func Judge(set Settings, seed uint64, n int, each func(i int, s *Sample, r *trace.Analysis)) (*Tally, error) {
	samples, results := make([]*Sample, n), make([]*trace.Analysis, n)
	var g errgroup.Group
	g.SetLimit(runtime.GOMAXPROCS(0))
	for i := range n {
		g.Go(func() error {
			s := Draw(set, rand.New(rand.NewPCG(seed, uint64(i))))
			r, err := trace.Analyse(s.Amperes, s.Dt, s.Given)
			if err != nil {
				return fmt.Errorf("trace %d: %w", i, err)
			}
			s.Amperes = nil
			samples[i], results[i] = s, r
			return nil
		})
	}
	if err := g.Wait(); err != nil {
		return nil, err
	}
	t := &Tally{}
	for i, s := range samples {
		t.add(i, s, results[i])
		if each != nil {
			each(i, s, results[i])
		}
	}
	return t, nil
}

// Right reports whether a speed is that of the truth, within 1 %.
func (s *Sample) Right(rpm float64) bool { return math.Abs(rpm/s.Truth.RPM-1) < 0.01 }

func (t *Tally) add(i int, s *Sample, r *trace.Analysis) {
	t.Traces++
	tellable := s.Given.Bars > 0 || !s.Truth.Alike
	if tellable {
		t.Tellable++
	}
	sure := r.RPM != nil && r.Confidence >= Sure
	group := &t.Given
	switch {
	case s.Truth.Chop > 0:
		group = &t.Switched
	case s.Given.Bars == 0:
		group = &t.Free
	}
	if tellable {
		group[1]++
		if r.RPM != nil && s.Right(*r.RPM) {
			group[0]++
		}
	}
	if r.RPM != nil {
		if tellable {
			t.Told++
		}
		if sure {
			t.Confident++
		}
		if s.Right(*r.RPM) {
			if tellable {
				t.RightSpeed++
			}
		} else {
			t.Wrong = append(t.Wrong, fmt.Sprintf("%d: %.0f for %.0f rpm (%.3f), %+v", i, *r.RPM, s.Truth.RPM, *r.RPM/s.Truth.RPM, s.Truth))
			if sure {
				t.WrongSure++
			}
		}
	}
	if s.Truth.Fault == "" && len(s.Truth.Weak) == 0 && !s.Truth.Near {
		t.Sound++
		if r.WeakBars != nil && len(*r.WeakBars) > 0 {
			t.Accused++
		}
	}
	if !s.Truth.Near && r.WeakBars != nil {
		t.Judged++
		if Alike(*r.WeakBars, s.Truth.Weak, s.Truth.Humps) {
			t.RightWeak++
		}
	}
}

// Alike reports whether two sets of humps are the same but for where the revolution begins.
func Alike(a, b []int, humps int) bool {
	if len(a) != len(b) {
		return false
	}
	if len(a) == 0 {
		return true
	}
	for _, first := range a {
		shift := b[0] - first
		same := true
		for _, x := range a {
			same = same && slices.Contains(b, ((x+shift)%humps+humps)%humps)
		}
		if same {
			return true
		}
	}
	return false
}
