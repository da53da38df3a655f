package e2e

import (
	"fmt"
	"os"
	"strings"
	"syscall"
	"testing"
	"time"

	"github.com/go-rod/rod/lib/input"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// kept waits until the page has put the open job and the core aside for work
// without a connection.
func (x *person) kept() {
	x.t.Helper()
	require.Eventually(x.t, func() bool {
		return x.p.MustEval(`async () => {
			const id = location.pathname.split("/")[2];
			if (!navigator.serviceWorker.controller) return false;
			if (!(await caches.has("core")) || (await (await caches.open("core")).keys()).length === 0) return false;
			return await new Promise((ok) => {
				const r = indexedDB.open("corriente-jobs");
				r.onerror = () => ok(false);
				r.onsuccess = () => {
					try {
						const g = r.result.transaction("jobs").objectStore("jobs").get(id);
						g.onsuccess = () => ok(!!g.result);
						g.onerror = () => ok(false);
					} catch { ok(false); }
				};
			});
		}`).Bool()
	}, 40*time.Second, 300*time.Millisecond, "the job is kept for work without a connection")
}

// job opens a job of the board at Measure.
func (x *person) job(name string) {
	x.t.Helper()
	href := x.sees(".jobrow", name).MustProperty("href").Str()
	x.p.MustNavigate(href[:strings.LastIndex(href, "/")+1] + "measure")
	x.p.MustElement(".measure")
}

func TestMeasuring(t *testing.T) {
	b, done, err := Browser()
	require.NoError(t, err)
	t.Cleanup(done)
	a := build(t)
	base := a.start()
	t.Cleanup(func() { a.stop(syscall.SIGTERM) })

	t.Run("no signal: the page opens anew, readings are weighed here, and are stored once", func(t *testing.T) {
		x := open(t, b, base, 1280, 800)
		x.signIn("jory")
		x.job("Irrigation pump")
		x.understood()
		n := x.stored()
		x.kept()
		a.stop(syscall.SIGKILL)
		x.p.MustReload()
		x.sees(".measure", "Suspects")
		x.sees(".link-state", "No connection")
		x.sees(".states button", "Cranking").MustClick()
		x.sees(".states button.on", "Cranking")
		for i, r := range [][2]string{{"solenoid battery stud", "9.12"}, {"plus clamp", "9.20"}} {
			x.p.MustElement(fmt.Sprintf(`.node[aria-label^="%s"]`, r[0])).MustClick()
			x.p.MustElement(`.node[aria-label^="battery minus post"]`).MustClick()
			x.sees(".next h1", "Red on the "+r[0])
			x.understood()
			x.types(r[1])
			x.sees(".entry-says", r[1]+" V ±")
			x.keys(input.Enter)
			x.sees(".tabs button", fmt.Sprintf("Readings \\(%d\\)", n+i+1))
		}
		// Closed and opened again, still without a server: nothing typed is lost.
		x.p.MustReload()
		x.sees(".link-state", "[23] entries are kept here") // a caution acknowledged among them
		x.sees(".tabs button", fmt.Sprintf("Readings \\(%d\\)", n+2))
		a.start()
		require.Eventually(t, func() bool { return len(x.p.MustElements(".link-state")) == 0 }, 30*time.Second, 200*time.Millisecond)
		assert.Equal(t, n+2, x.stored())
		time.Sleep(4 * time.Second) // a second sending would come by now
		assert.Equal(t, n+2, x.stored())
	})

	t.Run("two at one job: the other sees it come, and who entered it", func(t *testing.T) {
		x, y := open(t, b, base, 1280, 800), open(t, b, base, 1280, 800)
		x.signIn("jory")
		y.signIn("wanda")
		x.job("Frost fan east")
		y.job("Frost fan east")
		y.press(".tabs button", "Readings")
		x.sees(".states button", "At rest").MustClick()
		x.sees(".states button.on", "At rest")
		x.p.MustElement(`.node[aria-label^="battery plus post"]`).MustClick()
		x.p.MustElement(`.node[aria-label^="battery minus post"]`).MustClick()
		x.types("12.52")
		x.keys(input.Enter)
		y.sees(".readings li", "12.52 V")
		y.sees(".readings li .by", "by Jory")
	})

	t.Run("walk the path: one state held, red moves, each value draws its step", func(t *testing.T) {
		x := open(t, b, base, 1280, 800)
		x.signIn("jory")
		x.job("Irrigation pump")
		x.sees(".states button", "Cranking").MustClick()
		x.sees(".states button.on", "Cranking")
		x.understood()
		n := x.stored()
		x.press(".next-tools button", "Walk the path")
		places := x.p.MustElements(".walk-list li")
		require.GreaterOrEqual(t, len(places), 2)
		require.LessOrEqual(t, len(places), 5)
		x.sees(".walk h1", "Black stays on battery minus")
		for i := range places {
			x.types("9.3")
			x.keys(input.Enter)
			require.Eventually(t, func() bool { return x.stored() == n+i+1 }, 10*time.Second, 100*time.Millisecond)
		}
		x.sees(".walk h1", "The walk is done")
		x.keys(input.Enter)
		x.sees(".tabs button", fmt.Sprintf("Readings \\(%d\\)", n+len(places)))
	})

	t.Run("a live meter: shown moving, taken with the space bar at rest", func(t *testing.T) {
		x := open(t, b, base, 1280, 800)
		x.signIn("jory")
		x.job("Frost fan east")
		x.sees(".states button", "At rest").MustClick()
		x.sees(".states button.on", "At rest")
		x.p.MustElement(`.node[aria-label^="solenoid battery stud"]`).MustClick()
		x.p.MustElement(`.node[aria-label^="battery minus post"]`).MustClick()
		n := x.stored()
		x.p.MustElement(`select[aria-label="Read with"]`).MustSelect("Bench meter")
		x.sees(".live-row .live.settled", "1[123]\\.[0-9]+ V")
		x.p.MustEval(`() => document.activeElement.blur()`)
		x.keys(input.Space)
		require.Eventually(t, func() bool { return x.stored() == n+1 }, 15*time.Second, 200*time.Millisecond)
		got := x.p.MustEval(`async () => {
			const j = await (await fetch("/api/jobs/" + location.pathname.split("/")[2])).json();
			return j.evidence.at(-1).instrument;
		}`).Str()
		assert.Equal(t, "Bench meter", got, "the reading bears its meter, whose accuracy counts")
	})

	t.Run("as it stood then: the whole chain can be stepped through", func(t *testing.T) {
		x := open(t, b, base, 1280, 800)
		x.signIn("jory")
		x.job("Ferry Waterlily, main engine")
		x.press(".tabs button", "Readings")
		rows := x.p.MustElements(".readings li")
		require.Greater(t, len(rows), 2)
		x.press(".readings li:last-child button", "then")
		x.sees(".replay", fmt.Sprintf("As it stood after 1 of %d", len(rows)))
		require.Eventually(t, func() bool { return len(x.p.MustElements(".verdict.isolated")) == 0 }, 10*time.Second, 100*time.Millisecond, "after one reading no verdict stood")
		x.press(".replay button", "after")
		x.sees(".replay", fmt.Sprintf("As it stood after 2 of %d", len(rows)))
		x.keys(input.Escape)
		x.sees(".verdict h1", "at fault")
	})

	t.Run("axe finds nothing serious on any screen, light and dark", func(t *testing.T) {
		axe, err := os.ReadFile("../web/node_modules/axe-core/axe.min.js")
		require.NoError(t, err, "run make web first")
		for _, mode := range []string{"light", "dark"} {
			x := open(t, b, base, 1280, 800)
			x.p.MustEval(`m => localStorage.setItem("corriente.mode", m)`, mode)
			x.p.MustReload()
			x.p.MustElement("#login")
			check := func(name string) {
				t.Helper()
				Settle(x.p)
				_, err := x.p.Eval("() => {" + string(axe) + "}")
				require.NoError(t, err)
				found := x.p.MustEval(`async () => {
					const r = await axe.run(document, { resultTypes: ["violations"] });
					return r.violations.filter((v) => v.impact === "serious" || v.impact === "critical")
						.map((v) => v.id + ": " + v.nodes.slice(0, 3).map((n) => n.html.slice(0, 160)).join(" | ")).join("\n");
				}`).Str()
				assert.Empty(t, found, "%s, %s", name, mode)
			}
			check("sign-in")
			x.signIn("jory")
			check("board")
			href := x.sees(".jobrow", "Orchard tractor 3").MustProperty("href").Str()
			stem := href[:strings.LastIndex(href, "/")+1]
			verdict := x.sees(".jobrow", "Ferry Waterlily, main engine").MustProperty("href").Str()
			for _, v := range []string{stem + "complaint", stem + "checks", stem + "measure", stem + "decide", stem + "trace",
				verdict, base + "/start", base + "/circuits", base + "/codes", base + "/instruments"} {
				x.p.MustNavigate(v)
				x.p.MustElement("main")
				check(strings.TrimPrefix(v, base))
			}
		}
	})
}
