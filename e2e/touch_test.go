package e2e

import (
	"fmt"
	"testing"

	"github.com/go-rod/rod"
	"github.com/go-rod/rod/lib/input"
	"github.com/go-rod/rod/lib/proto"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// touch makes every press of a person a finger's: nothing is hovered over, and no key is at hand but those of the
// screen's own keyboard.
func (x *person) touch() {
	x.t.Helper()
	require.NoError(x.t, proto.EmulationSetTouchEmulationEnabled{Enabled: true}.Call(x.p))
}

// tap touches an element that is there now; one that is replaced under the finger is looked for anew.
func (x *person) tap(selector, text string) {
	x.t.Helper()
	x.until(fmt.Sprintf("%s with %q to be touched", selector, text), func() bool {
		has, el, err := x.page().HasR(selector, text)
		return err == nil && has && touched(el)
	})
}

func touched(el *rod.Element) bool {
	return rod.Try(func() { el.MustScrollIntoView().MustTap() }) == nil
}

// goesTo opens a stage of the job from the list of stages.
func (x *person) goesTo(stage string) {
	x.t.Helper()
	x.tap(".ribbon-button", ".")
	x.tap(".ribbon-list a", stage)
	x.counts(".ribbon-list", 0)
	x.settle()
	x.noOverflow()
}

// between touches two points of the path and types what the meter shows on the keypad of the screen.
func (x *person) between(red, black, value string) {
	x.t.Helper()
	for _, node := range []string{red, black} {
		x.tap(".strip-node", node)
	}
	x.sees(".next h1", "Red on the "+red+", black on the "+black)
	x.understood()
	n := x.stored()
	for _, key := range value {
		k := string(key)
		if k == "." {
			k = `\.`
		}
		x.tap(".keypad button", "^"+k+"$")
	}
	x.tap(".entry button", "Record")
	x.storedIs(n + 1)
}

// A whole job on a phone, with a finger: from the complaint to the proof and the paper.
func TestByTouchAlone(t *testing.T) {
	_, b, base := running(t)
	x := open(t, b, base, 390, 844)
	x.touch()
	x.signIn("jory")
	x.tap("button", "Start a job")
	x.page().MustElement("#complaint").MustInput("Starter: one clunk, nothing turns")
	x.sees(".heard .tag", "clicks")
	x.page().MustElement("#machine").MustInput("Ice cream cart")
	x.noOverflow()
	x.tap(".circuit", "Starter, solenoid on the motor")
	x.sees("section.next", ".")

	x.goesTo("Quick checks")
	x.tap(".check .answers button", "one clunk")
	x.sees(".check.given button", "✓ one clunk")

	x.goesTo("Measure")
	x.tap(".states button", "Cranking")
	x.sees(".states button.on", "Cranking")
	x.between("solenoid battery stud", "solenoid motor stud", "6.3")
	x.between("battery plus post", "battery minus post", "11.9")
	x.between("battery plus post", "solenoid battery stud", "0.21")
	x.between("starter case", "battery minus post", "0.12")
	x.sees(".verdict h1", "solenoid main contact is at fault")

	x.goesTo("Decide")
	x.tap(".option-row.best .option-head", ".")
	x.page().MustElement(`input[aria-label="Name of who decided"]`).MustInput("The cooperative")
	x.tap("button", "Choose this")
	x.tap("button", "The work is done")
	x.sees(".repair.is-done", "Prove it")

	x.goesTo("Prove")
	x.checksGood()
	x.goesTo("Report")
	x.sees(".printable", "Proved good")
	assert.Contains(t, x.fetch("/api/jobs/"+x.jobID()), `"status":"proved"`)
}

// The keyboard of a phone types what a field asks for: figures where figures are meant.
func TestFieldsAskForTheirKeyboard(t *testing.T) {
	_, b, base := running(t)
	x := open(t, b, base, 390, 844)
	x.touch()
	x.signIn("jory")
	x.tap(".jobrow", "Orchard tractor 3")
	x.page().MustElement(".ribbon-button")
	x.settle()
	x.understood()
	mode := x.page().MustElement(".entry input").MustAttribute("inputmode")
	require.NotNil(t, mode)
	assert.Equal(t, "none", *mode, "the screen's own keypad is there: the phone's would cover the card")
	x.keys(input.Escape)
}
