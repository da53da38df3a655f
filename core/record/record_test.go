package record_test

import (
	"strings"
	"testing"
	"testing/quick"
	"time"

	"github.com/google/uuid"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"corriente/core/casefile"
	"corriente/core/circuit"
	"corriente/core/desk"
	"corriente/core/diagnose"
	"corriente/core/record"
	"corriente/core/strip"
)

var noon = time.Date(2026, 11, 28, 12, 0, 0, 0, time.UTC)

func at(minutes int) string {
	return noon.Add(time.Duration(minutes) * time.Minute).Format(time.RFC3339Nano)
}

// job is a case of a plain motor with readings taken at these minutes.
func job(t *testing.T, minutes ...int) *casefile.Case {
	t.Helper()
	c, err := circuit.Family("two_wire_motor")
	require.NoError(t, err)
	out := &casefile.Case{CircuitID: c.ID, Circuit: c}
	for _, m := range minutes {
		e := casefile.Evidence{ID: uuid.NewString(), Measure: "voltage", State: "rest", From: "bat_pos",
			To: "bat_neg", Value: "12.6", TakenAt: at(m)}
		require.Nil(t, e.Check(c, nil))
		out.Evidence = append(out.Evidence, e)
	}
	return out
}

// open opens a job to be carried along, with a reasoner that weighs it.
func open(t *testing.T, c *casefile.Case) *record.Carried {
	t.Helper()
	a, err := diagnose.NewAdviser(c.Circuit)
	require.NoError(t, err)
	return (&record.Kit{Zone: "Europe/Zurich"}).Open(c, func(c *casefile.Case, thought bool) (*diagnose.Opinion, error) {
		if thought {
			return a.Weigh(t.Context(), diagnose.JobOf(c))
		}
		return a.Glance(t.Context(), diagnose.JobOf(c))
	})
}

func refused(t *testing.T, err error, says string) {
	t.Helper()
	var no *record.Refusal
	require.ErrorAs(t, err, &no)
	assert.Contains(t, no.Says, says)
	assert.False(t, strings.HasSuffix(no.Says, "."), "whoever shows it ends the sentence")
}

// The ids that follow from others are those that the usual library makes: RFC 9562, section 5.5.
func TestFindingIDsAreNameBasedUUIDs(t *testing.T) {
	same := func(parent [16]byte, observe, outcome string) bool {
		id := uuid.UUID(parent)
		return record.FindingID(id.String(), strip.Finding{Observe: observe, Outcome: outcome}) == uuid.NewSHA1(id,
			[]byte(observe+"="+outcome)).String()
	}
	require.NoError(t, quick.Check(same, nil))
	_, err := uuid.Parse(record.FindingID("no uuid", strip.Finding{}))
	assert.NoError(t, err)
}

// Work stands after what was read before it: all of it, or, told later, what was read by then.
func TestWhereWorkStands(t *testing.T) {
	r := record.Of(job(t, 0, 10, 20, 30))
	for name, x := range map[string]struct {
		in   record.Work
		want int
	}{
		"told at once":      {record.Work{ID: uuid.NewString(), Station: "motor", At: noon}, 4},
		"told later":        {record.Work{ID: uuid.NewString(), Station: "motor", At: noon.Add(15 * time.Minute), Late: true}, 2},
		"done before any":   {record.Work{ID: uuid.NewString(), Station: "motor", At: noon.Add(-time.Minute), Late: true}, 0},
		"at that very time": {record.Work{ID: uuid.NewString(), Station: "motor", At: noon.Add(20 * time.Minute), Late: true}, 3},
	} {
		t.Run(name, func(t *testing.T) {
			list, err := r.Do(x.in)
			require.NoError(t, err)
			require.Len(t, list, 1)
			assert.Equal(t, x.want, list[0].After)
		})
	}
	_, err := r.Do(record.Work{ID: uuid.NewString(), Station: "sail"})
	refused(t, err, `no station "sail"`)
	_, err = r.Do(record.Work{ID: uuid.NewString(), Decision: uuid.NewString()})
	refused(t, err, "decide first")
}

// Whatever is put to a job twice is there once.
func TestPutTwiceIsThereOnce(t *testing.T) {
	c := open(t, job(t, 0))
	line, work := uuid.NewString(), uuid.NewString()
	yes := true
	for _, w := range []record.Write{
		{Evidence: []casefile.Typed{{ID: uuid.NewString(), Observe: "turning", Outcome: "none", State: "run"}}},
		{Line: &record.NewLine{ID: line, Text: "  bearing   rough "}},
		{Change: &record.LineChange{Item: line, Photo: uuid.NewString()}},
		{Change: &record.LineChange{Item: line, Back: &yes}},
		{Note: &record.JobNote{ID: uuid.NewString(), Text: "end play 0.3 mm"}},
		{Tick: &record.TickSet{Tick: "clean", Value: "yes"}},
		{Patch: &record.Patch{CannotReach: "motor", Acknowledge: "run"}},
		{Work: &record.WorkIn{ID: work, Station: "motor", What: "bearings"}},
	} {
		w.At, w.By = noon.Add(time.Hour), "Jory"
		require.NoError(t, c.Put(&w))
		was := count(c)
		require.NoError(t, c.Put(&w))
		assert.Equal(t, was, count(c), "%+v", w)
	}
	require.Len(t, c.Beside.Lines, 1)
	assert.Equal(t, "bearing rough", c.Beside.Lines[0].Text)
	assert.Equal(t, "Jory", c.Beside.Lines[0].BackBy)
	assert.Len(t, c.On.Repairs, 1)
	assert.Equal(t, []string{"motor"}, c.On.Known.Unreachable)
	require.NoError(t, c.Put(&record.Write{Patch: &record.Patch{CanReach: "motor"}}))
	assert.Empty(t, c.On.Known.Unreachable)
}

func count(c *record.Carried) [8]int {
	return [8]int{len(c.On.Evidence), len(c.On.Repairs), len(c.On.Job.Decisions), len(c.On.Job.Proofs),
		len(c.Beside.Lines), len(c.Notes), len(c.Beside.Ticks), len(c.On.Known.Unreachable)}
}

// What a line says counts as evidence while the line stands, and counts again when it is taken
// in again; other words are other evidence.
func TestALinesFindingFollowsTheLine(t *testing.T) {
	c := open(t, job(t))
	id := uuid.NewString()
	standing := func() (out []string) {
		for _, e := range c.On.Evidence {
			if !e.Struck {
				out = append(out, e.Outcome)
			}
		}
		return out
	}
	put := func(w record.Write) { w.At = noon; require.NoError(t, c.Put(&w)) }
	text := func(s string) record.Write { return record.Write{Change: &record.LineChange{Item: id, Text: &s}} }
	struck := func(b bool) record.Write { return record.Write{Change: &record.LineChange{Item: id, Struck: &b}} }
	put(record.Write{Line: &record.NewLine{ID: id, Text: "bearing rough"}})
	assert.Equal(t, []string{"rough"}, standing())
	put(text("bearing tight"))
	assert.Equal(t, []string{"tight"}, standing())
	put(text("bearing rough"))
	assert.Equal(t, []string{"rough"}, standing())
	put(struck(true))
	assert.Empty(t, standing())
	put(struck(false))
	assert.Equal(t, []string{"rough"}, standing())
	assert.Len(t, c.On.Evidence, 2)
	empty := "  "
	refused(t, c.Put(&record.Write{Change: &record.LineChange{Item: id, Text: &empty}}), "write what came off")
	refused(t, c.Put(&record.Write{Change: &record.LineChange{Item: uuid.NewString(), Struck: new(bool)}}), "no such line")
}

// A signature is refused with what is missing, and a kit as it came is not changed by what is
// put to a copy of it.
func TestWhatMayBeSigned(t *testing.T) {
	was := job(t, 0)
	c := open(t, was)
	sign := func(result, remark string) error {
		return c.Put(&record.Write{At: noon, Sign: &record.ProofIn{ID: uuid.NewString(), Result: result, Remark: remark, Signed: "Jory"}})
	}
	refused(t, sign("passed", ""), "nothing to prove")
	require.NoError(t, c.Put(&record.Write{At: noon, Work: &record.WorkIn{ID: uuid.NewString(), Station: "motor", What: "brushes"}}))
	refused(t, sign("passed", ""), "not proved yet")
	refused(t, sign("failed", ""), "say in a line")
	require.NoError(t, sign("failed", "still dead"))
	assert.Empty(t, c.On.Job.ClosedAt, "what failed is not closed")
	require.NoError(t, sign("remark", "the customer waits"))
	assert.NotEmpty(t, c.On.Job.ClosedAt)
	require.Len(t, c.On.Job.Proofs, 2)
	v := c.Record().Views(time.UTC)
	require.Len(t, v, 1)
	assert.Equal(t, "accepted", v[0].Status)
	assert.Contains(t, v[0].Proof, "Accepted with a remark: the customer waits. Jory, 28 November 2026.")
	refused(t, c.Put(&record.Write{Reword: &record.RewordIn{Repair: v[0].ID, What: "other"}}), "signed")
	assert.Nil(t, was.Job)
	assert.Empty(t, was.Repairs)
}

// What the rules do not take is named with its reason, and the rest of what waits is put.
func TestTheDeskSaysWhyAWriteIsNotTaken(t *testing.T) {
	var text strings.Builder
	require.NoError(t, job(t, 0).Write(&text))
	kit := []byte(`{"case":` + text.String() +
		`,"beside":{"lines":[],"ticks":{},"signed":{},"traces":[],"generator":false},"own":[],"notes":[],"terms":{"wishes":{},"with":{}},"lived":{},"zone":"UTC"}`)
	d := &desk.Desk{}
	told, err := d.Carry(t.Context(), kit,
		[]record.Write{{ID: "a", Line: &record.NewLine{ID: uuid.NewString(), Text: ""}},
			{ID: "b", At: noon, Line: &record.NewLine{ID: uuid.NewString(), Text: "bolt"}}}, desk.Asked{Strip: true})
	require.NoError(t, err)
	assert.Len(t, told.Refused, 1)
	assert.Contains(t, told.Refused["a"], "write what came off")
	assert.Len(t, told.Strip.Items, 1)
	_, err = d.Carry(t.Context(), []byte(`{"case":`), nil, desk.Asked{Strip: true})
	assert.ErrorContains(t, err, "cannot be read")
}
