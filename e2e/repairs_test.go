package e2e

import (
	"encoding/json"
	"fmt"
	"regexp"
	"slices"
	"strings"
	"testing"

	"github.com/go-rod/rod/lib/input"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"corriente/core/casefile"
	"corriente/core/circuit"
	"corriente/core/machine"
	"corriente/core/record"
	"corriente/core/unit"
)

// mend takes the first lasting plan that cures most of what is wrong, with a name and a
// reason, and records the work in the technician's own words; the parts it mended are whole.
func (x *person) mend(m *simulated, round int) {
	t := x.t
	t.Helper()
	x.keys('g', 'd')
	x.page().MustElement(".option-row .option-figures")
	x.settle()
	i := x.page().MustEval(`() => [...document.querySelectorAll(".option-row")].findIndex((r) =>
		!r.matches(".vetoed, .against") && !/temporary|leave it|reading first/.test(r.querySelector(".option-name small").textContent)
		&& /(7|8|9)\d %/.test(r.querySelector(".option-when b")?.textContent ?? ""))`).Int()
	require.GreaterOrEqual(t, i, 0, "a plan that cures it")
	label := x.page().MustElements(".option-row .option-name b")[i].MustText()
	x.page().MustElements(".option-head")[i].MustClick()
	x.sees(".option-body", "It cures what is wrong here")
	x.page().MustElement(`input[aria-label="Name of who decided"]`).MustInput("The press house")
	x.page().MustElement(`input[aria-label="Reason"]`).MustInput(fmt.Sprintf("round %d", round)).MustType(input.Enter)
	x.sees(".repair.is-chosen", regexp.QuoteMeta(label))
	what := x.page().MustElementR(".repair.is-chosen label", "What was done").MustElement("input")
	what.MustInput(fmt.Sprintf(", work %d", round))
	x.press("button", "The work is done")
	x.sees(".repair.is-done", "Prove it")
	var work []record.RepairView
	require.NoError(t, json.Unmarshal([]byte(x.page().MustEval(`async () => JSON.stringify((await (await fetch("/api/jobs/" + location.pathname.split("/")[2])).json()).work)`).Str()), &work))
	last := work[len(work)-1]
	m.bad = slices.DeleteFunc(m.bad, func(h machine.Hidden) bool { return slices.Contains(last.Stations, h.Fault.Station) })
}

// takeProof takes every check of a proof where it stands, and ticks what must be; it says
// whether all are good.
func (x *person) takeProof(m *simulated) bool {
	t := x.t
	t.Helper()
	x.keys('g', 'v')
	x.page().MustElement(".proof-line")
	x.settle()
	var v record.ProveView
	read := func() {
		require.NoError(t, json.Unmarshal([]byte(x.page().MustEval(`async () => JSON.stringify(await (await fetch("/api/jobs/" + location.pathname.split("/")[2] + "/proof")).json())`).Str()), &v))
	}
	read()
	for i, k := range v.Checks {
		said := m.answer(t, casefile.Evidence{Measure: unit.Measure(k.Measure), Observe: k.Observe, State: k.State,
			From: k.From, To: k.To, Through: k.Through})
		row := x.page().MustElements(".proof-list .proof-line")[i]
		if k.Observe != "" {
			o := m.c.Observation(k.Observe)
			n := slices.IndexFunc(o.Outcomes, func(x circuit.Outcome) bool { return x.ID == said })
			row.MustElementR(".answers button", "^"+regexp.QuoteMeta(o.Outcomes[n].Label)+"$").MustClick()
		} else {
			row.MustElement("input").MustInput(said).MustType(input.Enter)
		}
		x.until("the check stands", func() bool {
			return x.page().MustEval(`i => document.querySelectorAll(".proof-list .proof-line")[i]?.matches(".good, .bad") ?? false`,
				i).Bool()
		})
	}
	for i, k := range v.Ticks {
		if k.Value == "" {
			x.page().MustElements(".ticks .tick")[i].MustClick()
			x.until("the tick stands", func() bool { return x.page().MustElements(".ticks .tick")[i].MustText() == "✓" })
		}
	}
	read()
	return !v.Failed && len(v.Missing) == 0
}

// Three jobs with two faults and one with three, from signing in to the papers: each fault
// is found, decided, mended and proved by itself or together with another, a proof that
// fails sends the technician on, and all stands on the customer's page, the file copy and
// the label.
func TestSeveralFaultsFromComplaintToPapers(t *testing.T) {
	_, b, base := running(t)
	for _, job := range []struct {
		family, complaint string
		faults            []string
	}{
		{"starter", "Starter: turns slowly, one clunk now and then",
			[]string{"gnd_cable.high_resistance=0.02ohm", "main_contact.high_resistance=0.06ohm"}},
		{"two_wire_motor", "The bilge pump is silent", []string{"ground_point.high_resistance=4ohm", "motor.brushes_worn=6ohm"}},
		{"traction", "The picking cart does not move, its plug was hot", []string{"motor_connector.open", "motor.brushes_worn=0.9ohm"}},
		{"traction", "The picking cart stands still",
			[]string{"interlock.stuck_open", "motor_connector.high_resistance=0.3ohm", "motor.brushes_worn=1.2ohm"}},
	} {
		t.Run(fmt.Sprintf("%s, %d faults", job.family, len(job.faults)), func(t *testing.T) {
			x := open(t, b, base, 1280, 800)
			x.signIn("jory")
			m := simulate(t, job.family, job.faults...)
			x.beginByKeyboard(m.c, "Press house "+job.family, job.complaint)
			proved := false
			for round := 1; round <= 6 && !proved; round++ {
				x.toVerdict(m)
				x.mend(m, round)
				proved = x.takeProof(m)
				if proved {
					x.page().MustElement(`input[aria-label="Hours or mileage"]`).MustInput("4 210 h")
					x.press(".sign-buttons button", "^✓ Passed$")
					x.sees(".prove h1", "Proved good")
					break
				}
				assert.True(t, x.page().MustElementR(".sign-buttons button",
					"✓ Passed").MustProperty("disabled").Bool(), "what is not good is not passed")
				x.page().MustElement(`input[aria-label="Remark"]`).MustInput(fmt.Sprintf("not yet, %d", round))
				x.press(".sign-buttons button", "Failed")
				x.sees(".prove p", "failed: not yet")
				x.press("a", "Find what is still wrong")
				x.page().MustElement(".measure")
				x.settle()
			}
			require.True(t, proved)
			assert.Empty(t, m.bad, "all that was wrong is mended")
			x.keys('g', 'r')
			x.sees(".printable", "Proved good")
			said := strings.ToLower(x.page().MustElement(".printable").MustText())
			id := x.jobID()
			_, file := rendered(t, x.fetch("/api/jobs/"+id+"/report/file"), "file")
			_, label := rendered(t, x.fetch("/api/jobs/"+id+"/report/label"), "label")
			for _, f := range job.faults {
				station, _, _ := strings.Cut(f, ".")
				part := strings.ToLower(m.c.Station(station).Label)
				assert.Contains(t, said, part)
				assert.Contains(t, strings.ToLower(file), part)
			}
			assert.Contains(t, label, "work ")
			assert.NotContains(t, said, "not yet sure")
			x.page().MustNavigate(base)
			x.press("button", "Show closed too")
			x.sees(".jobrow", "Press house "+job.family)
		})
	}
}
