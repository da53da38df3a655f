package work

import (
	"fmt"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"pgregory.net/rapid"
)

func at(h int) time.Time { return time.Date(2026, 6, 1, h, 0, 0, 0, time.UTC) }

func status(rs []Repair) string {
	out := ""
	for _, r := range rs {
		out += fmt.Sprintf("%v %s; ", r.Stations, r.Status)
	}
	return out
}

// A connector, then the motor behind it: each repair is its own, and the second choice
// takes nothing from the first.
func TestASecondFaultIsASecondRepair(t *testing.T) {
	ds := []Decision{{ID: "a", Option: "repair", Stations: []string{"motor_connector"}, At: at(1)}}
	ws := []Done{{ID: "w", Decision: "a", Station: "motor_connector", After: 4, At: at(2)}}
	assert.Equal(t, "[motor_connector] done; ", status(Repairs(ds, ws, nil)))
	ps := []Proof{{ID: "p", Of: []string{"a"}, Result: Failed, After: 7, At: at(3)}}
	rs := Repairs(ds, ws, ps)
	assert.Equal(t, "[motor_connector] failed; ", status(rs))
	assert.Equal(t, 7, Counts(rs, ws, ps, ToProve(rs)), "what failed stays failed until it is taken again")
	ds = append(ds, Decision{ID: "b", Option: "replace", Stations: []string{"motor"}, At: at(4)})
	rs = Repairs(ds, ws, ps)
	assert.Equal(t, "[motor_connector] failed; [motor] chosen; ", status(rs))
	assert.Equal(t, 1, ToDo(rs))
	assert.False(t, Finished(rs))
	ws = append(ws, Done{ID: "x", Decision: "b", Station: "motor", After: 9, At: at(5)})
	rs = Repairs(ds, ws, ps)
	assert.Equal(t, -1, ToDo(rs))
	assert.Equal(t, []int{0, 1}, ToProve(rs))
	assert.Equal(t, 9, Counts(rs, ws, ps, ToProve(rs)))
	ps = append(ps, Proof{ID: "q", Of: []string{"a", "b"}, Result: Passed, After: 12, At: at(6)})
	rs = Repairs(ds, ws, ps)
	assert.Equal(t, "[motor_connector] proved; [motor] proved; ", status(rs))
	assert.Equal(t, []int{0, 1}, rs[0].Proofs)
	assert.True(t, Finished(rs))
}

func TestAChoiceThoughtOverIsTakenBack(t *testing.T) {
	ds := []Decision{{ID: "a", Option: "repair", Stations: []string{"motor"}, At: at(1)},
		{ID: "b", Option: Leave, Stations: []string{"motor", "drive"}, At: at(2)}}
	rs := Repairs(ds, nil, nil)
	assert.Equal(t, "[motor] changed; [motor drive] left; ", status(rs))
	assert.True(t, Finished(rs))
	// What was done is not taken back by a later choice.
	rs = Repairs(ds, []Done{{ID: "w", Decision: "a", Station: "motor", At: at(1)}}, nil)
	assert.Equal(t, "[motor] done; [motor drive] left; ", status(rs))
}

func TestALastingRepairFollowsATemporaryOne(t *testing.T) {
	ds := []Decision{{ID: "a", Option: Temporary, Stations: []string{"motor"}, Temporary: true, At: at(1)},
		{ID: "b", Option: "replace", Stations: []string{"motor"}, At: at(9)}}
	ws := []Done{{ID: "w", Decision: "a", Station: "motor", At: at(2)}}
	ps := []Proof{{ID: "p", Result: Remark, At: at(3)}}
	assert.Equal(t, "[motor] accepted; [motor] chosen; ", status(Repairs(ds, ws, ps)))
	ws = append(ws, Done{ID: "x", Decision: "b", Station: "motor", At: at(10)})
	assert.Equal(t, "[motor] succeeded; [motor] done; ", status(Repairs(ds, ws, ps)))
}

// Jobs stored before repairs were kept apart: work without a decision, a proof that names
// nothing.
func TestOldJobsAreReadAsTheyWereMeant(t *testing.T) {
	ws := []Done{{ID: "w", Station: "fuse", After: 2, At: at(1)}, {ID: "x", Station: "motor", After: 5, At: at(4)}}
	ps := []Proof{{ID: "p", Result: Passed, At: at(3)}}
	assert.Equal(t, "[fuse] proved; [motor] done; ", status(Repairs(nil, ws, ps)))
	assert.Empty(t, Repairs(nil, nil, ps))
	assert.False(t, Finished(nil))
}

// Whatever happens, every piece of work stands in exactly one repair, and no repair is
// both to be done and to be proved.
func TestNothingIsLost(t *testing.T) {
	rapid.Check(t, func(rt *rapid.T) {
		stations := rapid.SampledFrom([]string{"motor", "drive", "fuse"})
		var ds []Decision
		var ws []Done
		var ps []Proof
		for i := range rapid.IntRange(0, 12).Draw(rt, "events") {
			id := fmt.Sprint(i)
			switch rapid.IntRange(0, 2).Draw(rt, "what") {
			case 0:
				ds = append(ds, Decision{ID: id, Option: rapid.SampledFrom([]string{"repair", Leave,
					Temporary}).Draw(rt, "option"), Stations: []string{stations.Draw(rt, "station")}, At: at(i)})
				ds[len(ds)-1].Temporary = ds[len(ds)-1].Option == Temporary
			case 1:
				of := ""
				if len(ds) > 0 && rapid.Bool().Draw(rt, "decided") {
					of = ds[len(ds)-1].ID
				}
				ws = append(ws, Done{ID: id, Decision: of, Station: stations.Draw(rt, "station"), After: i, At: at(i)})
			default:
				ps = append(ps, Proof{ID: id, Result: rapid.SampledFrom([]string{Passed, Remark, Failed}).Draw(rt,
					"result"), After: i, At: at(i)})
			}
		}
		rs := Repairs(ds, ws, ps)
		seen := map[int]int{}
		for _, r := range rs {
			for _, k := range r.Done {
				seen[k]++
			}
			if r.Status == "" || len(r.Stations) == 0 {
				rt.Fatalf("%+v", r)
			}
			if r.Status == Chosen && len(r.Done) > 0 {
				rt.Fatalf("chosen and done: %+v", r)
			}
		}
		for k := range ws {
			if seen[k] != 1 {
				rt.Fatalf("work %d stands in %d repairs", k, seen[k])
			}
		}
	})
}
