package e2e

import (
	"syscall"
	"testing"

	"github.com/go-rod/rod/lib/input"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// ready waits for what follows a move; a question before it is answered by following its caution.
func (x *person) ready(what string, followed func() bool) {
	x.t.Helper()
	x.until(what, func() bool {
		if has, d, err := x.page().Has(".ask-buttons button"); err == nil && has {
			hits(d)
			return false
		}
		return followed()
	})
}

// logged waits until the trainer's log holds more than n lines.
func (x *person) logged(n int) {
	x.t.Helper()
	x.ready("the log grows", func() bool { return len(x.page().MustElements(".train-log li")) > n })
}

// probe sets red and black on two places and reads.
func (x *person) probe(red, black string) string {
	x.t.Helper()
	n := len(x.page().MustElements(".train-log li"))
	x.page().MustElement(`.probe[aria-label^="` + red + `"]`).MustClick()
	x.page().MustElement(`.probe[aria-label^="` + black + `"]`).MustClick()
	x.keys(input.Escape)
	x.press(".train-lower button", "^Read")
	x.logged(n)
	x.page().MustElement(`.lcd[aria-busy="false"]`)
	return x.page().MustElement(".lcd b").MustText()
}

// An exercise solved well, one solved badly, one dangerous mistake; the drill; what the
// owner sees; on the phone and by keyboard.
func TestTheTrainer(t *testing.T) {
	a, b, base, x := begin(t, "pip")
	x.page().MustNavigate(base + "/training")

	x.solvesWell(a)
	x.solvesBadly()
	x.endangers()
	x.drills(base)

	// The owner sees who worked what, and how.
	o := open(t, b, base, 1280, 800)
	o.signIn("wanda")
	o.page().MustNavigate(base + "/training")
	o.sees(".attempts li", "Pip")
	o.sees(".attempts li", "Found")
	o.noOverflow()
}

// solvesWell: the ground side of the ferry, walked under load; the server dies on the way.
func (x *person) solvesWell(a *app) {
	x.sees(".exercise", "Slow since the paint")
	took := x.page().MustEval(`() => new Promise((done) => {
		const began = performance.now();
		new MutationObserver((_, o) => {
			if (document.querySelector(".train-path")) { o.disconnect(); done(performance.now() - began); }
		}).observe(document.body, { childList: true, subtree: true });
		[...document.querySelectorAll(".exercise")].find((e) => e.innerText.includes("Slow since the paint")).click();
	})`).Num()
	x.t.Logf("the exercise opened in %.0f ms", took)
	assert.NotContains(x.t, x.page().MustElement(".train-paths").MustText(), " V", "the path is drawn without volts")
	x.press(".states button", "Cranking")
	x.press("label", "Clip the leads on")
	assert.Regexp(x.t, `\d+\.\d+ V`, x.probe("battery plus post", "battery minus post"))
	x.sees(".lcd small", "since switching on: least")
	x.probe("starter case", "battery minus post")
	shown := x.probe("engine block", "minus clamp")
	assert.Regexp(x.t, `V$`, shown)
	// The server dies and the exercise goes on where it was.
	a.stop(syscall.SIGKILL)
	a.start()
	x.page().MustReload()
	x.sees(".lcd b", shown)
	x.press(".train-lower [role=tab]", "Verdict")
	x.choose("Part at fault", "^Ground cable$")
	x.choose("What is wrong with it", "high resistance")
	x.press("button", "This is my verdict")
	x.sees(".debrief h1", "Found.")
	x.sees(".debrief p", "To take home")
	x.sees(".debrief-steps li", "told (much|some|little)")
	x.sees(".quiet", "With hindsight \\d+ minutes would have done: volts")
	assert.Greater(x.t, len(x.page().MustElement(".score").MustText()), 1, "a score of two figures")
}

// solvesBadly: unloaded volts, three hints, the wrong part.
func (x *person) solvesBadly() {
	x.press("a", "Another one")
	x.press(".exercise", "Full volts, no start")
	x.press(".states button", "At rest")
	x.probe("battery plus post", "battery minus post")
	x.probe("solenoid battery stud", "battery minus post")
	for range 3 {
		n := len(x.page().MustElements(".train-log li"))
		x.press("button", "A hint")
		x.logged(n)
	}
	x.sees(".train-log li", "Look here")
	x.sees(".train-log li", "Take this one")
	x.press(".train-lower [role=tab]", "Verdict")
	x.choose("Part at fault", "^Battery$")
	x.press("button", "This is my verdict")
	x.sees(".debrief h1", "Not this time")
	x.sees(".debrief-steps .warn", ".")
}

// endangers: ohms on a live circuit.
func (x *person) endangers() {
	x.press("a", "Another one")
	x.press(".exercise", "Slow in the morning")
	x.press(".states button", "At rest")
	x.press(".dial", "Ω")
	x.page().MustElement(`.probe[aria-label^="battery plus post"]`).MustClick()
	x.page().MustElement(`.probe[aria-label^="battery minus post"]`).MustClick()
	x.keys(input.Enter)
	x.ready("the debrief", func() bool { return x.page().MustHas(".debrief.danger") })
	x.sees(".debrief.danger h1", "Stop")
	x.sees(".debrief .caution", "supply off")
	x.sees(".score", "^0$")
	x.noOverflow()
}

// drills: the drill by keyboard, an exercise on the phone by touch.
func (x *person) drills(base string) {
	x.page().MustNavigate(base + "/training?view=drill")
	for range 3 {
		x.page().MustElement(".drill-option")
		x.keys('1')
		x.sees(".drill [role=status]", "Right|Not this time")
		was := x.page().MustElement(".drill").MustText()
		x.keys(input.Enter)
		x.until("the next question", func() bool { return x.page().MustElement(".drill").MustText() != was })
	}
	x.sees(".drill p", "of 3 right so far")

	// On the phone, by touch.
	require.NoError(x.t, Size(x.p, 390, 844))
	x.noOverflow()
	x.page().MustNavigate(base + "/training")
	x.press(".exercise", "Pump hums")
	x.page().MustElement(".train-path")
	x.noOverflow()
	x.press(".train-lower [role=tab]", "Check")
	x.page().MustElement(".train-looks button").MustClick()
	x.logged(0)
}
