package e2e

import (
	"encoding/json"
	"fmt"
	"strings"
	"testing"

	"github.com/go-rod/rod/lib/input"
	"github.com/google/uuid"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// From every page one sees where one is, and reaches every other; a few letters find anything.
func TestTheHouseFromAnyPage(t *testing.T) {
	_, b, base, x := begin(t, "jory")
	pages := []string{"Board", "Machines", "Logbook", "Trainer", "Circuits", "Blink codes", "Meters", "Parts and prices"}
	for _, name := range pages {
		x.press("nav[aria-label=Pages] a", "^"+name+"$")
		x.sees("nav[aria-label=Pages] [aria-current=page]", "^"+name+"$")
		x.page().MustElement("main")
		x.noOverflow()
	}
	assert.False(t, x.page().MustHasR("nav[aria-label=Pages] a", "Settings"), "a technician has no settings")

	// By number after G, from a page and from a job.
	x.keys('g')
	x.sees("[role=status]", "1 Machines")
	x.keys('1')
	x.sees("nav[aria-label=Pages] [aria-current=page]", "Machines")
	x.press("main a", "Cider press lorry")
	x.sees("h1", "Cider press lorry")
	x.sees("h2", "Label for the machine")
	x.sees("h2", "2 jobs")

	// A machine, a job, a page and an action, by a few letters; with the slash twice as well.
	find := func(text, kind, what string) {
		x.sees("[role=option]", ".")
		x.types(text)
		x.sees("[role=option][aria-selected=true]", "^"+kind+`[^]*`+what)
		x.keys(input.Enter)
		x.counts("[role=dialog]", 0)
	}
	ctrlK := func() { x.page().KeyActions().Press(input.ControlLeft).Type('k').MustDo() }
	ctrlK()
	find("burdock", "Job", "Pallet truck Burdock")
	x.sees(".bar-job", "Pallet truck Burdock")
	ctrlK()
	find("prov", "Stage", "Prove")
	x.page().MustElement(".prove")
	ctrlK()
	find("blnk cod", "Page", "Blink codes") // a letter is missing
	x.sees("nav[aria-label=Pages] [aria-current=page]", "Blink codes")
	x.keys('/', '/')
	find("dark", "Action", "Dark view")
	assert.Equal(t, "dark", x.page().MustEval(`() => document.documentElement.dataset.mode`).Str())
	x.keys('g', 'b')
	x.keys('/', '/')
	x.sees("[role=option]", ".")
	x.types("nothing of that name")
	x.sees("[role=status]", "Fewer letters find more")
	x.keys(input.Escape)
	x.counts("[role=dialog]", 0)
	x.keys('?')
	x.sees(".ant-modal", "walk the path")
	x.sees(".ant-modal", "find a job, a machine, a page or an action")
	x.keys(input.Escape)

	// On a phone the pages are one touch away.
	y := open(t, b, base, 390, 844)
	y.signIn("wanda")
	y.page().MustElement(`button[aria-label="Where to"]`).MustClick()
	y.press("nav[aria-label=Pages] a", "^Settings$")
	y.counts("[role=dialog]", 0)
	y.sees(".bar-title", "Settings")
	y.noOverflow()
	y.page().MustElement(`button[aria-label="Where to"]`).MustClick()
	y.press("button", "Find")
	y.sees("[role=option]", ".")
	y.types("cider")
	y.sees("[role=option]", "Cider press lorry")
}

// newJob starts a job on a circuit without going through the page.
func (x *person) newJob(circuit string) string {
	x.t.Helper()
	id := uuid.NewString()
	body, err := json.Marshal(map[string]any{"id": id, "machine_id": uuid.NewString(), "new_machine": "Sprayer " +
		id[:4], "circuit": circuit, "complaint": "", "answers": map[string]string{}})
	require.NoError(x.t, err)
	status := x.page().MustEval(`async (body) => (await fetch("/api/jobs", {method: "POST", headers: {"Content-Type": "application/json"}, body})).status`,
		string(body)).Int()
	require.Less(x.t, status, 300)
	return id
}

// At 1280x800 what is asked, the field, what records it, and every other choice are in sight without
// scrolling, and the picture is whole: on every circuit, in every state, for the first suggestions.
func TestMeasureFitsTheScreen(t *testing.T) {
	_, _, base, x := begin(t, "jory")
	var circuits []struct{ ID string }
	require.NoError(t, json.Unmarshal([]byte(x.fetch("/api/circuits")), &circuits))
	for _, c := range circuits {
		id := x.newJob(c.ID)
		x.page().MustNavigate(base + "/jobs/" + id + "/measure")
		x.sees("section.next h1", ".")
		for i := range x.page().MustElements(".states button") {
			x.page().MustElements(".states button")[i].MustClick()
			some := 1
			if i == 0 {
				some = 3 // what is asked does not change with the picture
			}
			for k := range some {
				x.understood()
				x.settle()
				out := x.page().MustEval(`() => {
					const out = [];
					const card = document.querySelector(".next").getBoundingClientRect();
					for (const el of document.querySelectorAll(".next h1, .next input, .next button")) {
						const r = el.getBoundingClientRect();
						if (r.bottom > Math.min(innerHeight, card.bottom) + 1 || r.top < card.top - 1) out.push(el.innerText || el.ariaLabel);
					}
					const p = document.querySelector(".path");
					if (p.scrollHeight > p.clientHeight + 2) out.push("the picture lacks " + (p.scrollHeight - p.clientHeight) + " px");
					return out.join(", ");
				}`).Str()
				assert.Empty(t, out, fmt.Sprint(c.ID, ", state ", i, ", suggestion ", k, ": ",
					strings.ReplaceAll(x.page().MustElement(".next h1").MustText(), "\n", " ")))
				x.keys('n')
			}
		}
	}
}
