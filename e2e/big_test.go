package e2e

import (
	"os"
	"strings"
	"testing"
	"time"
)

// A trace of ten million samples in the browser: CORRIENTE_BIG names the file. The
// times are logged; see docs/figures.md.
func TestBigTrace(t *testing.T) {
	path := os.Getenv("CORRIENTE_BIG")
	if path == "" {
		t.Skip("CORRIENTE_BIG names no file")
	}
	_, b, base := running(t)
	x := open(t, b, base, 1280, 800)
	x.signIn("jory")
	href := x.sees(".jobrow", "Cider press lorry").MustProperty("href").Str()
	x.page().MustNavigate(href[:strings.LastIndex(href, "/")+1] + "trace")
	x.sees(".trace .empty", "Clamp round")
	x.settle()
	for range 2 {
		x.page().MustElement(`input[aria-label="Trace"]`).MustSetFiles(path)
		from := time.Now()
		x.page().MustElement("progress")
		for len(x.page().MustElements("progress")) > 0 {
			time.Sleep(20 * time.Millisecond)
		}
		t.Logf("opened in %v", time.Since(from).Round(10*time.Millisecond))
		x.sees(".trace-verdict", "weak")
	}
	x.page().MustElement(".trace-chart canvas")
	fps := x.page().MustEval(`async () => {
		const over = document.querySelector(".u-over");
		const r = over.getBoundingClientRect();
		let n = 0;
		const t0 = performance.now();
		while (performance.now() - t0 < 3000) {
			over.dispatchEvent(new WheelEvent("wheel", { deltaY: n % 60 < 30 ? -40 : 40, clientX: r.left + 400, clientY: r.top + 50, bubbles: true, cancelable: true }));
			await new Promise((f) => requestAnimationFrame(f));
			n++;
		}
		return n / 3;
	}`).Num()
	t.Logf("%.0f frames a second while zooming", fps)
}
