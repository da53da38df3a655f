package e2e

import (
	"encoding/json"
	"image"
	"image/jpeg"
	"os"
	"path/filepath"
	"strconv"
	"strings"
	"syscall"
	"testing"

	"github.com/go-rod/rod/lib/input"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"corriente/core/record"
	"corriente/internal/web"
)

// keptRead waits until the browser has put something aside that begins so.
func (x *person) keptRead(what string) {
	x.t.Helper()
	x.until(what+" is kept", func() bool {
		return x.page().MustEval(`(what) => new Promise((ok) => {
			const r = indexedDB.open("corriente-reads");
			r.onerror = () => ok(false);
			r.onsuccess = () => {
				try {
					const g = r.result.transaction("reads").objectStore("reads").getAllKeys();
					g.onsuccess = () => ok(g.result.some((k) => k.startsWith(what)));
					g.onerror = () => ok(false);
				} catch { ok(false); }
			};
		})`, what).Bool()
	})
}

// takenApartAlone takes the starter apart without a server: lines, a finding that counts, a
// photo, and a calculator of the bench.
func (x *person) takenApartAlone() {
	x.t.Helper()
	x.page().MustElement(`input[aria-label="What came off"]`).MustInput("bearing rough at drive end").MustType(input.Enter)
	x.sees(".link-state", "No connection")
	x.sees(".strip-item .tag.counted", "rough or gritty")
	x.sees(".inside-look .ant-btn-primary, .strip-item", "rough")
	x.page().MustElement(`input[aria-label="What came off"]`).MustInput("felt washer, shim").MustType(input.Enter)
	x.sees(".strip-item", "felt washer")
	photo := filepath.Join(x.t.(*testing.T).TempDir(), "washer.jpg")
	f, err := os.Create(photo)
	require.NoError(x.t, err)
	require.NoError(x.t, jpeg.Encode(f, image.NewGray(image.Rect(0, 0, 400, 300)), nil))
	require.NoError(x.t, f.Close())
	x.page().MustElement(`input[aria-label^="Photo file of felt washer"]`).MustSetFiles(photo)
	x.page().MustElement(`.photo img[alt*="waits to be sent"]`)
	// At the bench, by the same calculator.
	x.press(".bench-list button", "Winding by ohmmeter")
	x.page().MustElement(`input[aria-label="The meter shows"]`).MustInput("0.3")
	x.page().MustElement(`input[aria-label="Leads held together"]`).MustInput("0.2")
	x.sees(".calc-answer", "cannot be told from a short")
	x.press(".calc-answer button", "Keep as a note")
	x.sees(".bench li", "Winding by ohmmeter")
}

// thereOnce looks at what the server has of a job that was worked without it.
func (x *person) thereOnce(id string, before int) {
	x.t.Helper()
	var job web.JobView
	require.NoError(x.t, json.Unmarshal([]byte(x.fetch("/api/jobs/"+id)), &job))
	require.Len(x.t, job.Work, 1)
	assert.Equal(x.t, "proved", job.Work[0].Status)
	assert.Equal(x.t, "The press house", job.Work[0].Who)
	assert.Greater(x.t, len(job.Evidence), before+1)
	var strips record.StripView
	require.NoError(x.t, json.Unmarshal([]byte(x.fetch("/api/jobs/"+id+"/strip")), &strips))
	seen, photos := map[string]int{}, 0
	for _, it := range strips.Items {
		seen[it.Entry.Text]++
		photos += len(it.Photos)
	}
	assert.Equal(x.t, 1, seen["felt washer, shim"])
	assert.Equal(x.t, 1, photos)
	assert.Empty(x.t, strips.Left)
	assert.Len(x.t, strips.Notes, 1)
}

// The server is gone from the verdict on: taken apart with a photo, reckoned at the bench,
// decided, done, put back, proved and signed, and an exercise worked; the page is opened anew
// in the middle. When the server is back everything is there, once.
func TestTheWholeJobWithoutAConnection(t *testing.T) {
	a, _, base, x := begin(t, "jory")
	x.page().MustNavigate(base + "/training")
	x.press(".exercise", "Slow since the paint")
	x.page().MustElement(".train-paths")
	x.keptRead("attempt ")
	exercise := x.page().MustInfo().URL
	x.page().MustNavigate(base + "/")
	x.job("Cider press lorry")
	id := x.jobID()
	x.kept()
	x.keys('g', 's')
	x.press(".strip-beside [role=tab]", "Bench")
	x.sees(".bench-list button", "Winding by ohmmeter") // the calculators are known from here on
	before := x.stored()
	a.stop(syscall.SIGKILL)

	x.takenApartAlone()

	// What needs the server says so before it is touched.
	x.keys(input.Escape, 'g', 'd')
	x.sees(".option-row.best", ".")
	x.press(".option-row.best .option-head", ".")
	x.sees(".away", "Parts can be looked for when the connection is back")
	assert.True(t, x.page().MustElement(`input[aria-label^="Find a part for"]`).MustMatches(":disabled"))
	x.page().MustElement(`input[aria-label="Name of who decided"]`).MustInput("The press house")
	x.press("button", "Choose this")
	x.sees(".repair.is-chosen", "The press house")
	x.press("button", "The work is done")
	x.sees(".repair.is-done", "Prove it")

	// The page is opened anew, with no server.
	x.page().MustReload()
	x.sees(".repair.is-done", "Prove it")
	x.backAll()
	x.provesGood()
	x.sees(".prove h1", "Proved good")
	x.keys('g', 'r')
	x.sees(".away", "when the connection is back")
	assert.True(t, x.page().MustElementR(".sheets .ant-btn", "Open the PDF").MustMatches("[disabled], .ant-btn-disabled"))
	x.sees("span[title='needs the connection']", "Logbook")

	// The trainer goes on as well.
	x.page().MustNavigate(exercise)
	x.press(".states button", "Cranking")
	shown := x.probe("battery plus post", "battery minus post")
	assert.Regexp(t, `\d`, shown)
	x.page().MustNavigate(base + "/training")
	x.press(".exercise", "Full volts, no start")
	x.page().MustElement(".train-paths")

	a.start()
	x.page().MustNavigate(base + "/jobs/" + id + "/prove")
	x.until("all that waited is sent", func() bool { return !x.page().MustHas(".link-state") })
	x.page().MustReload()
	x.sees(".prove h1", "Proved good")
	x.page().MustReload()
	x.sees(".prove h1", "Proved good")
	x.thereOnce(id, before)
	x.page().MustNavigate(exercise)
	x.sees(".train-log li", ".")
	assert.Len(t, x.page().MustElements(".train-log li"), 1)
}

// The database is killed under the server, three times, while things are entered: it comes back
// by itself, nothing is lost and nothing doubled, and nobody has to do anything.
func TestADatabaseThatDies(t *testing.T) {
	a, _, _, x := begin(t, "jory")
	x.job("Mulcher")
	x.kept()
	x.keys('g', 's')
	x.page().MustElement(`input[aria-label="What came off"]`)
	lines := []string{"first bolt", "second bolt", "third bolt", "fourth bolt", "fifth bolt", "sixth bolt"}
	for i, line := range lines {
		if i%2 == 0 {
			x.until("a database to be killed", func() bool {
				b, err := os.ReadFile(filepath.Join(a.data, "pid"))
				if err != nil {
					return false
				}
				// Just killed, it is not started again yet.
				pid, err := strconv.Atoi(strings.TrimSpace(string(b)))
				return err == nil && syscall.Kill(pid, syscall.SIGKILL) == nil
			})
		}
		x.types(line)
		x.keys(input.Enter)
		x.sees(".strip-item", line)
	}
	id := x.jobID()
	var strips record.StripView
	x.until("all is stored", func() bool {
		strips = record.StripView{}
		return json.Unmarshal([]byte(x.fetch("/api/jobs/"+id+"/strip")), &strips) == nil &&
			len(strips.Items) >= len(lines) && !x.page().MustHas(".link-state")
	})
	var got []string
	for _, it := range strips.Items {
		got = append(got, it.Entry.Text)
	}
	assert.Equal(t, lines, got)
}
