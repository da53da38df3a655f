package e2e

import (
	"encoding/json"
	"fmt"
	"math/rand/v2"
	"os"
	"path/filepath"
	"regexp"
	"slices"
	"strings"
	"syscall"
	"testing"
	"time"

	"github.com/go-rod/rod"
	"github.com/go-rod/rod/lib/input"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"corriente/core/casefile"
	"corriente/core/circuit"
	"corriente/core/diagnose"
	"corriente/core/machine"
	"corriente/core/meter"
	"corriente/core/trace"
	"corriente/core/unit"
	"corriente/internal/patience"
)

// kept waits until the page has put the open job and the core aside for work
// without a connection.
func (x *person) kept() {
	x.t.Helper()
	missing, began, again := "", time.Now(), false
	defer func() {
		if missing != "" {
			x.t.Logf("not kept: %s", missing)
		}
	}()
	x.until("the job is kept for work without a connection", func() bool {
		missing = x.page().MustEval(`async () => {
			const id = location.pathname.split("/")[2];
			if (!navigator.serviceWorker.controller) return "no service worker controls the page";
			if (!(await caches.has("core")) || (await (await caches.open("core")).keys()).length === 0) return "the core is not in the cache";
			return await new Promise((ok) => {
				const r = indexedDB.open("corriente-jobs");
				r.onerror = () => ok("the browser's own database does not open");
				r.onsuccess = () => {
					try {
						const g = r.result.transaction("jobs").objectStore("jobs").get(id);
						g.onsuccess = () => ok(g.result ? "" : "the job is not stored");
						g.onerror = () => ok("the job cannot be read");
					} catch { ok("there is no store of jobs"); }
				};
			});
		}`).Str()
		if missing != "" && !again && time.Since(began) > patience.Limit()/2 {
			// Seen twice beside other work, the reason not found: it is said, and the page opened anew, as a person does.
			again = true
			x.t.Logf("not kept after %s (%s): the page is opened anew", time.Since(began).Round(time.Second), missing)
			x.page().MustReload()
		}
		return missing == ""
	})
}

// job opens a job of the board at Measure.
func (x *person) job(name string) {
	x.t.Helper()
	href := x.sees(".jobrow", name).MustProperty("href").Str()
	x.page().MustNavigate(href[:strings.LastIndex(href, "/")+1] + "measure")
	x.page().MustElement(".measure")
}

func TestMeasuring(t *testing.T) {
	a, b, base := running(t)
	// In this order: the meter chosen for the live reading goes with its person.
	for _, c := range []struct {
		what string
		run  func(t *testing.T, a *app, b *rod.Browser, base string)
	}{
		{"no signal: the page opens anew, readings are weighed here, and are stored once", noSignal},
		{"two at one job: the other sees it come, and who entered it", twoAtOneJob},
		{"walk the path: one state held, red moves, each value draws its step", walkThePath},
		{"a live meter: shown moving, taken with the space bar at rest", liveMeter},
		{"as it stood then: the whole chain can be stepped through", asItStood},
		{"axe finds nothing serious and nothing moderate on any screen, light and dark, dialogs open", axeFindsNothing},
	} {
		t.Run(c.what, func(t *testing.T) { c.run(t, a, b, base) })
	}
}

func noSignal(t *testing.T, a *app, b *rod.Browser, base string) {
	x := open(t, b, base, 1280, 800)
	x.signIn("jory")
	x.job("Irrigation pump")
	x.understood()
	n := x.stored()
	x.kept()
	a.stop(syscall.SIGKILL)
	x.page().MustReload()
	x.sees(".measure", "Suspects")
	x.sees(".link-state", "No connection")
	x.sees(".states button", "Cranking").MustClick()
	x.sees(".states button.on", "Cranking")
	x.page().MustEval(watchRedraw)
	for i, r := range [][2]string{{"solenoid battery stud", "9.12"}, {"plus clamp", "9.20"}} {
		x.page().MustElement(fmt.Sprintf(`.node[aria-label^="%s"]`, r[0])).MustClick()
		x.page().MustElement(`.node[aria-label^="battery minus post"]`).MustClick()
		x.sees(".next h1", "Red on the "+r[0])
		x.understood()
		x.types(r[1])
		x.sees(".entry-says", r[1]+" V ±")
		x.page().MustEval(`() => { window.adv = new Promise((ok) => { let t0 = 0;
			window.addEventListener("keydown", () => { t0 = performance.now(); }, { capture: true, once: true });
			const look = () => { const h = document.querySelector(".next:not([aria-busy]) .next-head, .verdict .next-head")?.textContent ?? "";
				if (t0 && /^Next ·|^Verdict|^Nothing|^These|^Good/.test(h)) ok(performance.now() - t0); else requestAnimationFrame(look); };
			look(); }); }`)
		x.keys(input.Enter)
		t.Logf("without a server, to the next reading: %.0f ms", x.page().MustEval(`() => window.adv`).Num())
		x.sees(".tabs [role=tab]", fmt.Sprintf("Readings \\(%d\\)", n+i+1))
	}
	t.Logf("without a server, milliseconds from the key to the redrawn picture: %s",
		x.page().MustEval(`() => JSON.stringify(window.redraws.map(Math.round))`).Str())
	// Closed and opened again, still without a server: nothing typed is lost.
	x.page().MustReload()
	x.sees(".link-state", "[23] entries are kept here") // a caution acknowledged among them
	x.sees(".tabs [role=tab]", fmt.Sprintf("Readings \\(%d\\)", n+2))
	a.start()
	x.counts(".link-state", 0)
	assert.Equal(t, n+2, x.stored())
	// What were still waiting would be sent when the page opens anew: there is nothing.
	x.page().MustReload()
	x.sees(".tabs [role=tab]", fmt.Sprintf("Readings \\(%d\\)", n+2))
	x.settle()
	assert.Equal(t, n+2, x.stored())
}

func twoAtOneJob(t *testing.T, _ *app, b *rod.Browser, base string) {
	x, y := open(t, b, base, 1280, 800), open(t, b, base, 1280, 800)
	x.signIn("jory")
	y.signIn("wanda")
	x.job("Frost fan east")
	y.job("Frost fan east")
	y.press(".tabs [role=tab]", "Readings")
	x.sees(".states button", "At rest").MustClick()
	x.sees(".states button.on", "At rest")
	x.page().MustElement(`.node[aria-label^="battery plus post"]`).MustClick()
	x.page().MustElement(`.node[aria-label^="battery minus post"]`).MustClick()
	x.types("12.52")
	x.keys(input.Enter)
	y.sees(".readings li", "12.52 V")
	y.sees(".readings li .by", "by Jory")
}

func walkThePath(t *testing.T, _ *app, b *rod.Browser, base string) {
	x := open(t, b, base, 1280, 800)
	x.signIn("jory")
	x.job("Irrigation pump")
	x.sees(".states button", "Cranking").MustClick()
	x.sees(".states button.on", "Cranking")
	x.understood()
	n := x.stored()
	x.press(".next-tools button", "Walk the path")
	places := x.page().MustElements(".walk-list li")
	require.GreaterOrEqual(t, len(places), 2)
	require.LessOrEqual(t, len(places), 5)
	x.sees(".walk h1", "Black stays on battery minus")
	for i := range places {
		x.types("9.3")
		x.keys(input.Enter)
		x.storedIs(n + i + 1)
	}
	x.sees(".walk h1", "The walk is done")
	x.keys(input.Enter)
	x.sees(".tabs [role=tab]", fmt.Sprintf("Readings \\(%d\\)", n+len(places)))
}

func liveMeter(t *testing.T, _ *app, b *rod.Browser, base string) {
	x := open(t, b, base, 1280, 800)
	x.signIn("jory")
	x.job("Frost fan east")
	x.sees(".states button", "At rest").MustClick()
	x.sees(".states button.on", "At rest")
	x.page().MustElement(`.node[aria-label^="solenoid battery stud"]`).MustClick()
	x.page().MustElement(`.node[aria-label^="battery minus post"]`).MustClick()
	n := x.stored()
	x.page().MustElement(`select[aria-label="Read with"]`).MustSelect("Bench meter")
	x.sees(".live-row .live.settled", "1[123]\\.[0-9]+ V")
	x.page().MustEval(`() => document.activeElement.blur()`)
	x.keys(input.Space)
	x.storedIs(n + 1)
	got := x.page().MustEval(`async () => {
		const j = await (await fetch("/api/jobs/" + location.pathname.split("/")[2])).json();
		return j.evidence.at(-1).instrument;
	}`).Str()
	assert.Equal(t, "Bench meter", got, "the reading bears its meter, whose accuracy counts")
}

func asItStood(t *testing.T, _ *app, b *rod.Browser, base string) {
	x := open(t, b, base, 1280, 800)
	x.signIn("jory")
	x.job("Ferry Waterlily, main engine")
	x.press(".tabs [role=tab]", "Readings")
	rows := x.page().MustElements(".readings li")
	require.Greater(t, len(rows), 2)
	x.press(".readings li:last-child button", "then")
	x.sees(".replay", fmt.Sprintf("As it stood after 1 of %d", len(rows)))
	x.counts(".verdict.isolated", 0)
	x.press(".replay button", "after")
	x.sees(".replay", fmt.Sprintf("As it stood after 2 of %d", len(rows)))
	x.keys(input.Escape)
	x.sees(".verdict h1", "at fault")
}

func axeFindsNothing(t *testing.T, _ *app, b *rod.Browser, base string) {
	axe, err := os.ReadFile("../web/node_modules/axe-core/axe.min.js")
	require.NoError(t, err, "run make web first")
	for _, mode := range []string{"light", "dark"} {
		x := open(t, b, base, 1280, 800)
		x.page().MustEval(`m => localStorage.setItem("corriente.mode", m)`, mode)
		x.page().MustReload()
		x.page().MustElement("#login")
		check := func(name string) {
			t.Helper()
			assert.Empty(t, x.axe(string(axe)), "%s, %s", name, mode)
		}
		check("sign-in")
		x.signIn("pip") // who follows no live meter, which never rests: the one chosen above goes with Jory
		check("board")
		href := x.sees(".jobrow", "Orchard tractor 3").MustProperty("href").Str()
		stem := href[:strings.LastIndex(href, "/")+1]
		verdict := x.sees(".jobrow", "Ferry Waterlily, main engine").MustProperty("href").Str()
		press := x.sees(".jobrow", "Cider press lorry").MustProperty("href").Str()
		press = press[:strings.LastIndex(press, "/")+1]
		boat := x.sees(".jobrow", "Rescue boat Coot").MustProperty("href").Str()
		boat = boat[:strings.LastIndex(boat, "/")+1]
		for _, v := range []string{press + "strip", press + "strip?beside=bench", press + "strip?beside=craft",
			press + "back", press + "decide", boat + "prove", boat + "report",
			base + "/logbook", base + "/logbook?view=learned", base + "/logbook?view=reliability", base +
				"/parts", base + "/machines", press + "measure", base + "/training", base + "/training?view=drill",
			stem + "complaint", stem + "checks", stem + "measure", stem + "decide", stem + "trace",
			verdict, base + "/start", base + "/circuits", base + "/codes", base + "/instruments", base + "/you"} {
			x.page().MustNavigate(v)
			x.page().MustElement("main")
			check(strings.TrimPrefix(v, base))
		}
		x.opened(base, check)
	}
}

// tabTo moves the focus with the Tab key until it stands on what is meant.
func (x *person) tabTo(selector string) {
	x.t.Helper()
	for range 60 {
		x.keys(input.Tab)
		if x.page().MustEval(`s => !!document.activeElement && document.activeElement.matches(s)`, selector).Bool() {
			return
		}
	}
	x.t.Fatalf("%s cannot be reached by Tab", selector)
}

// watchRedraw notes how long the page takes from Enter, or an answer's digit, to
// the redrawn picture and to the next reading, in milliseconds.
const watchRedraw = `() => {
	window.redraws = [];
	window.nexts = [];
	let t0 = 0, was = "", asked = 0, before = "";
	const card = () => document.querySelector(".next:not([aria-busy]), .verdict")?.textContent.slice(0, 300) ?? "";
	window.addEventListener("keydown", (e) => { if (/^(Enter|[1-9])$/.test(e.key)) { t0 = asked = performance.now(); before = card(); } }, true);
	const look = () => {
		const now = document.querySelector(".states-info")?.textContent.match(/\d+ entr/)?.[0] ?? "";
		if (now && was && now !== was && t0) { const at = t0; requestAnimationFrame(() => window.redraws.push(performance.now() - at)); t0 = 0; }
		if (now) was = now;
		if (asked && !t0 && card() && card() !== before) { const at = asked; requestAnimationFrame(() => window.nexts.push(performance.now() - at)); asked = 0; }
	};
	new MutationObserver(look).observe(document.body, { subtree: true, childList: true, characterData: true });
	look();
}`

// pause is how long the technician takes between readings. With CORRIENTE_PAUSE=2s
// the times that are logged are those of somebody who holds a meter.
var pause = func() time.Duration {
	d, err := time.ParseDuration(os.Getenv("CORRIENTE_PAUSE"))
	if err != nil {
		return 0
	}
	return d
}()

// simulated is a machine with hidden faults that answers what a job asks.
type simulated struct {
	c   *circuit.Circuit
	a   *diagnose.Adviser
	rng *rand.Rand
	bad []machine.Hidden
}

func simulate(t testing.TB, circuitID string, hidden ...string) *simulated {
	t.Helper()
	c, err := circuit.Family(circuitID)
	require.NoError(t, err)
	a, err := diagnose.NewAdviser(c)
	require.NoError(t, err)
	m := &simulated{c: c, a: a, rng: rand.New(rand.NewPCG(5, 5))}
	for _, h := range hidden {
		f, sev, _, err := a.Model.Parse(h)
		require.NoError(t, err)
		m.bad = append(m.bad, machine.Hidden{Fault: f, Severity: sev})
	}
	return m
}

// answer is what the machine as it stands shows: a value as a meter displays it, or the id
// of a word. It has at most two faults at a time: a third shows once the first is mended.
func (m *simulated) answer(t testing.TB, e casefile.Evidence) string {
	t.Helper()
	mc := machine.New(m.a.Model, m.a.Net.Nominal(), m.bad[:min(len(m.bad), 2)], m.rng)
	if e.Observe == "" {
		require.NoError(t, mc.Measure(&e, meter.Default(e.Measure)))
		return e.Value
	}
	said := map[string]int{} // asked until it is clear
	for {
		w := m.a.Answer(mc.Truth(), e.Observe, e.State, nil, m.rng)
		if said[w]++; said[w] == 3 {
			return w
		}
	}
}

// beginByKeyboard opens a job on a new machine with the keyboard alone.
func (x *person) beginByKeyboard(c *circuit.Circuit, name, complaint string) {
	x.t.Helper()
	x.keys('n')
	x.page().MustElement("#complaint")
	x.tabTo("#machine")
	x.types(name)
	x.tabTo("#complaint")
	x.types(complaint)
	// The suggestions follow what is typed, and are asked for once it rests.
	x.sees(".circuit.ant-btn-primary", ".")
	x.sees(".circuit", regexp.QuoteMeta(c.Title))
	x.settle()
	x.tabTo(".circuit")
	for !x.page().MustEval(`t => document.activeElement.textContent.startsWith(t)`, c.Title).Bool() {
		x.tabTo(".circuit")
	}
	x.keys(input.Enter)
	x.page().MustElement("section.next")
}

// toVerdict takes what is asked for, by keyboard, until a verdict stands; it returns its
// sentence.
func (x *person) toVerdict(m *simulated) string {
	t := x.t
	t.Helper()
	type next struct {
		Measure, Observe, State, From, To, Through string
	}
	for range 30 {
		time.Sleep(pause)
		n0 := x.stored()
		x.until("the next reading, with its caution read, or a verdict", func() bool {
			switch x.page().MustEval(`n => {
				const info = document.querySelector(".states-info")?.textContent ?? "";
				if (!info.includes("· " + n + " entr") && !info.startsWith(n + " entr")) return "";
				if (document.querySelector(".measure [aria-busy=true]")) return "";
				if (document.querySelector(".verdict")) return "shown";
				if (document.activeElement?.matches(".caution button")) return "caution";
				return document.querySelector(".next .entry, .next .answers, .next .blink") ? "shown" : "";
			}`, n0).Str() {
			case "shown":
				return true
			case "caution":
				x.keys(input.Enter) // it has the focus
			}
			return false
		})
		if x.page().MustHas(".verdict") {
			break
		}
		var n next
		require.NoError(t, json.Unmarshal([]byte(x.page().MustEval(`async () => {
			const j = await (await fetch("/api/jobs/" + location.pathname.split("/")[2])).json();
			return JSON.stringify(j.diagnosis.next[0] ?? {});
		}`).Str()), &n))
		said := m.answer(t, casefile.Evidence{Measure: unit.Measure(n.Measure), Observe: n.Observe, State: n.State,
			From: n.From, To: n.To, Through: n.Through})
		if n.Observe != "" {
			o := m.c.Observation(n.Observe)
			if o.Model == "blink_code" {
				x.tabTo(".blink-type")
				x.types(said)
				x.keys(input.Enter)
				x.storedIs(n0 + 1)
				continue
			}
			i := slices.IndexFunc(o.Outcomes, func(x circuit.Outcome) bool { return x.ID == said })
			x.sees(".next .answers", o.Outcomes[i].Label)
			x.keys(input.Key('1' + i))
		} else {
			x.page().MustElement(".entry")
			x.types(said)
			x.sees(".entry-says", "±|OL")
			x.keys(input.Enter)
		}
		x.storedIs(n0 + 1)
	}
	return x.page().MustElement(".verdict h1").MustText()
}

// workedByKeyboard opens a job and works it to its verdict with the keyboard alone, on a
// simulated machine; it returns the verdict's sentence.
func (x *person) workedByKeyboard(circuitID, complaint, hidden string) string {
	t := x.t
	t.Helper()
	m := simulate(t, circuitID, hidden)
	x.beginByKeyboard(m.c, "Keyboard "+circuitID, complaint)
	x.page().MustEval(watchRedraw)
	says := x.toVerdict(m)
	ms := x.page().MustEval(`() => JSON.stringify(window.redraws.map(Math.round))`).Str()
	if os.Getenv("CORRIENTE_PAUSE") != "" {
		t.Logf("of these, waiting for the server: %s", x.page().MustEval(`() => JSON.stringify(performance.getEntriesByType("resource")
			.filter((r) => /evidence\?/.test(r.name)).map((r) => Math.round(r.responseEnd - r.startTime)))`).Str())
	}
	t.Logf("%s: milliseconds from the key to the redrawn picture: %s", circuitID, ms)
	t.Logf("and to the next reading: %s", x.page().MustEval(`() => JSON.stringify(window.nexts.map(Math.round))`).Str())
	return says
}

func TestByKeyboardAlone(t *testing.T) {
	_, b, base := running(t)
	for _, job := range [][4]string{
		{"starter", "Starter: one clunk, nothing turns", "main_contact.high_resistance=0.15ohm", "main contact"},
		{"blower_module", "The heater fan is dead", "ground_point.open", "ground"},
		{"window", "The window does not move", "motor.winding_open", "motor"},
		{"capacitor_fan", "The fan in the cold store hums and does not start", "capacitor.open", "capacitor"},
		{"traction", "The picking cart does not move, its plug was hot", "battery_connector.open", "connector"},
	} {
		t.Run(job[0], func(t *testing.T) {
			x := open(t, b, base, 1280, 800)
			x.signIn("jory")
			says := x.workedByKeyboard(job[0], job[1], job[2])
			assert.Contains(t, strings.ToLower(says), job[3])
		})
	}
}

// writeTrace writes a made-up trace as a scope exports it.
func writeTrace(t *testing.T, name string, m trace.Motor) string {
	t.Helper()
	sc := trace.Scope{Rate: 50000, N: 50000, Noise: 0.5, Bits: 8}
	path := filepath.Join(t.TempDir(), name)
	f, err := os.Create(path)
	require.NoError(t, err)
	defer f.Close()
	fmt.Fprintln(f, "Time;Clamp\ns;mV")
	for i, v := range m.Trace(sc, rand.New(rand.NewPCG(6, 6))) {
		fmt.Fprintln(f, strings.ReplaceAll(fmt.Sprintf("%.6f;%.2f", float64(i)/sc.Rate, v*10), ".", ","))
	}
	return path
}

func TestTraces(t *testing.T) {
	a, b, base := running(t)
	old := writeTrace(t, "old.csv", trace.Motor{MeanA: 80, RPM: 2400, Bars: 12, Ripple: 0.06, Weak: map[int]float64{4: 0.8}})
	fresh := writeTrace(t, "new.csv", trace.Motor{MeanA: 75, RPM: 2700, Bars: 12, Ripple: 0.06})
	broken := filepath.Join(t.TempDir(), "broken.csv")
	require.NoError(t, os.WriteFile(broken, []byte("Time;I (A)\n0;1\n0,001;2\n0,002;pear\n0,003;4\n"), 0o600))

	x := open(t, b, base, 1280, 800)
	x.signIn("jory")
	href := x.sees(".jobrow", "Cider press lorry").MustProperty("href").Str()
	x.page().MustNavigate(href[:strings.LastIndex(href, "/")+1] + "trace")
	x.sees(".trace .empty", "Clamp round")

	// Refused with the line, and the page goes on.
	x.page().MustElement(`input[aria-label="Trace"]`).MustSetFiles(broken)
	x.sees(".wrong", "Line 4: .*pear.*no number")
	// Volts need the clamp's scale.
	x.page().MustElement(`input[aria-label="Trace"]`).MustSetFiles(old)
	x.sees(".wrong", "in volts: give the clamp.s scale")
	x.choose("Clamp scale", "^10mV/A$")
	x.sees(".trace-verdict", "1 hump is weak")
	x.sees(".facts dd", "2400 rpm|2399 rpm|2401 rpm")
	x.page().MustElement(`.ring svg[aria-label*="12 humps"]`)
	x.page().MustElement(".trace-chart canvas")
	x.keys('+', '+', input.ArrowRight, input.Home)

	// Kept, once, and there after a new start.
	x.press("button", "Keep with this job")
	x.sees(".kept-traces li", "old.csv")
	// The old motor against the new one.
	x.page().MustElement(`input[aria-label="Trace to compare with"]`).MustSetFiles(fresh)
	x.sees(".trace-verdict", "the other one is sound, this one is not")

	// What it told can be taken along.
	wait := x.page().Browser().MustWaitDownload()
	x.press(".save-as button", "figures, CSV")
	assert.Contains(t, string(wait()), "weak_bars,")

	// Counted as evidence: the suspects follow.
	n := x.stored()
	x.press("button", "Count it as evidence")
	x.storedIs(n + 2)
	x.sees(".quiet", "Counted")
	x.keys('g', 'm')
	x.press(".tabs [role=tab]", "Readings")
	x.sees(".readings li", "a weak bar")

	// Live, from the scope of the simulated bench.
	x.keys('g', 't')
	x.sees(".kept-traces li", "old.csv")
	x.press("button", "Capture from Bench scope")
	x.sees(".facts dt", "Inrush")
	a.stop(syscall.SIGTERM)
	a.start()
	x.page().MustReload()
	x.sees(".kept-traces li", "old.csv")
	assert.Len(t, x.page().MustElements(".kept-traces li"), 1)
}

// opened has what opens over a page checked, and a page that is not in any list.
func (x *person) opened(base string, check func(string)) {
	x.t.Helper()
	x.page().MustNavigate(base + "/machines")
	x.press("main a", "Cider press lorry")
	x.sees("h2", "Label")
	check("a machine")
	x.keys('/', '/')
	x.sees("[role=option]", ".")
	check("find")
	x.keys(input.Escape)
	x.counts("[role=dialog]", 0)
	x.keys('?')
	x.sees(".ant-modal", "walk the path")
	check("keys")
	x.keys(input.Escape)
}

// axe lists what axe finds on the page as it is, minor things left out.
func (x *person) axe(script string) string {
	x.t.Helper()
	x.settle()
	_, err := x.page().Eval("() => {" + script + "}")
	require.NoError(x.t, err)
	return x.page().MustEval(`async () => {
		const r = await axe.run(document, { resultTypes: ["violations"] });
		return r.violations.filter((v) => v.impact !== "minor")
			.map((v) => v.id + ": " + v.nodes.slice(0, 3).map((n) => n.html.slice(0, 160)).join(" | ")).join("\n");
	}`).Str()
}
