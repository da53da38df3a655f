package e2e

import (
	"bytes"
	"image"
	"image/color"
	"image/jpeg"
	"math/rand/v2"
	"os"
	"path/filepath"
	"strings"
	"syscall"
	"testing"
	"time"

	"github.com/go-rod/rod/lib/input"
	"github.com/go-rod/rod/lib/proto"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// twelveMegapixels is a picture of that size as a camera makes it, some megabytes.
func twelveMegapixels(t testing.TB) string {
	t.Helper()
	rng := rand.New(rand.NewPCG(12, 12))
	img := image.NewRGBA(image.Rect(0, 0, 4000, 3000))
	for y := 0; y < 3000; y += 2 {
		for x := 0; x < 4000; x += 2 {
			c := color.RGBA{uint8(rng.UintN(256)), uint8(x / 16), uint8(y / 12), 255}
			img.SetRGBA(x, y, c)
			img.SetRGBA(x+1, y, c)
			img.SetRGBA(x, y+1, c)
			img.SetRGBA(x+1, y+1, c)
		}
	}
	var b bytes.Buffer
	require.NoError(t, jpeg.Encode(&b, img, &jpeg.Options{Quality: 80}))
	path := filepath.Join(t.TempDir(), "armature.jpg")
	require.NoError(t, os.WriteFile(path, b.Bytes(), 0o600))
	t.Logf("a photo of %.1f MB", float64(b.Len())/1e6)
	return path
}

// cameOff is a starter as a trained person takes it apart: 25 things, one line each.
var cameOff = []string{
	"unplug battery minus", "2x 10 mm bolt at shield", "shield", "13 mm nut, washer, large washer", "unplug solenoid plug",
	"2x M10 long bolt 45 Nm, upper thin", "starter", "mark: end cap to case", "8 mm nut at solenoid", "2x T30 screw",
	"solenoid, plunger with spring", "2x long through bolt 6 Nm", "2x PH2 screw, soft", "end cap", "thrust washer, shim, circlip",
	"brush plate", "4 brushes", "armature", "bearing rough", "planet gear", "drive lever", "seal", "pinion",
	"adjuster, do not turn", "hose moved aside",
}

func TestStrippingDownAndPuttingBack(t *testing.T) {
	a, _, _, x := begin(t, "jory")
	x.job("Ferry Waterlily, main engine")
	x.keys('g', 's')
	x.sees(".strip-record .empty", "Grounded post off")

	x.takesDown()
	x.strikesAndChanges()
	x.photographs()
	x.calculates()
	x.keepsAll(a)
	x.goesBack()
}

// takesDown: one line and one key each, no dialog, no other touch; the field keeps the focus.
func (x *person) takesDown() {
	keys, began := 0, time.Now()
	for i, line := range cameOff {
		x.types(line)
		x.keys(input.Enter)
		keys += len(line) + 1
		if i == 0 {
			x.sees(".strip-item", "battery minus")
		}
	}
	x.sees(".strip-item .strip-n", "^25$")
	// The last answer brings its note: what stands below it then moves.
	x.until("all are stored", func() bool { return !x.page().MustHas(".strip-item .quiet") })
	x.settle()
	x.t.Logf("25 things in %d keystrokes and 0 touches, %.1f s of the machine's own time", keys, time.Since(began).Seconds())
	assert.Len(x.t, x.page().MustElements(".strip-item"), 25)
	assert.Equal(x.t, "What came off", x.page().MustEval("() => document.activeElement.getAttribute('aria-label')").Str())
	x.sees(".stack-order", "thrust washer")
	x.sees(".strip-item .tag.counted", "rough or gritty") // the rough bearing
	x.sees(".inside-look .ant-btn-primary", "rough")
}

// photographs: a photo of twelve megapixels over a line that breaks half way, and what is no photo.
func (x *person) photographs() {
	// A photo of twelve megapixels over a line that breaks half way.
	big := twelveMegapixels(x.t)
	require.NoError(x.t, proto.NetworkEmulateNetworkConditions{Latency: 20, DownloadThroughput: 4e6, UploadThroughput: 1.2e6}.Call(x.p))
	x.page().MustElement(`input[aria-label="Photo file of armature"]`).MustSetFiles(big)
	x.until("a piece of the photo arrived", func() bool {
		return x.page().MustElement(`.strip-item progress`).MustProperty("value").Num() > 0
	})
	broke := x.page().WaitEvent(&proto.NetworkLoadingFailed{})
	require.NoError(x.t, proto.NetworkEmulateNetworkConditions{Offline: true}.Call(x.p))
	broke()
	require.NoError(x.t, proto.NetworkEmulateNetworkConditions{Latency: 0, DownloadThroughput: -1, UploadThroughput: -1}.Call(x.p))
	x.page().MustElement(`.photo img[alt="Photo of armature"]`)
	// What is no picture is refused politely, and the record stays.
	text := filepath.Join(x.t.TempDir(), "notes.jpg")
	require.NoError(x.t, os.WriteFile(text, []byte(strings.Repeat("no picture ", 20)), 0o600))
	x.page().MustElement(`input[aria-label="Photo file of pinion"]`).MustSetFiles(text)
	x.sees(".strip-item .wrong", "no photo: choose a JPEG or PNG")
}

// calculates: a winding that this meter cannot read is not condemned; a note of the craft stands beside its item.
func (x *person) calculates() {
	// The bench: a winding that this meter cannot read is not condemned.
	x.press(".strip-beside [role=tab]", "Bench")
	x.press(".bench-list button", "Winding by ohmmeter")
	x.page().MustElement(`input[aria-label="The meter shows"]`).MustInput("0.3")
	x.page().MustElement(`input[aria-label="Leads held together"]`).MustInput("0.2")
	x.sees(".calc-answer", "cannot be told from a short")
	x.sees(".calc-answer", "Four-wire")
	x.sees(".formula", "IEC 60034-1")
	x.page().MustElement(`input[aria-label="The meter shows"]`).MustSelectAllText().MustInput("squirrel")
	x.sees(".calc .wrong", "The meter shows: .*squirrel")
	n := x.stored()
	x.page().MustElement(`input[aria-label="The meter shows"]`).MustSelectAllText().MustInput("0.4")
	x.press(".calc-answer button", "Count it as evidence")
	x.storedIs(n + 1)
	x.press(".calc-answer button", "Keep as a note")
	x.sees(".bench li", "Winding by ohmmeter, starter motor")

	// The craft: the workshop's own note stands beside its item.
	x.press(".strip-beside [role=tab]", "Craft")
	x.page().MustElement(`input[aria-label="Words it belongs to"]`).MustInput("pinion")
	x.page().MustElement(`textarea[aria-label="Note of the craft"]`).MustInput("On the ferry the pinion sits with its chamfer forward.")
	x.press(".craft-own button", "Add our own")
	x.sees(".craft li", "chamfer forward")
}

// keepsAll: the server is killed in the middle; nothing is lost.
func (x *person) keepsAll(a *app) {
	a.stop(syscall.SIGKILL)
	a.start()
	x.page().MustReload()
	x.sees(".strip-item .strip-n", "^25$")
	// The last answer brings its note: what stands below it then moves.
	x.until("all are stored", func() bool { return !x.page().MustHas(".strip-item .quiet") })
	x.settle()
	x.page().MustElement(`.photo img[alt="Photo of armature"]`)
	x.noOverflow()
}

// goesBack: the same in reverse, ticked by key; what is left over blocks. Then on the phone.
func (x *person) goesBack() {
	x.keys(input.Escape, 'g', 'p')
	x.sees("h1", "24 of 24 still to go back") // the rough bearing is a finding
	x.sees(".back-item.next-up", "hose")
	assert.Contains(x.t, x.page().MustElement(".back").MustText(), "cannot be proved")
	for range 23 {
		was := x.page().MustElement("main h1").MustText()
		x.keys(input.Enter)
		x.until("the next thing to put back", func() bool { return x.page().MustElement("main h1").MustText() != was })
	}
	x.sees("h1", "1 of 24 still to go back")
	x.sees(".back li", "Stored codes: read, note, clear")
	x.press(".back-item button", "does not go back")
	x.page().MustElement(`input[aria-label="Why it does not go back"]`).MustInput("stays off until the harbour test").MustType(input.Enter)
	x.sees("h1", "nothing left over")

	// On the phone.
	require.NoError(x.t, Size(x.p, 390, 844))
	x.noOverflow()
	x.page().MustNavigate(strings.Replace(x.page().MustInfo().URL, "/back", "/strip", 1))
	x.sees(".strip-item .strip-n", "^25$")
	// The last answer brings its note: what stands below it then moves.
	x.until("all are stored", func() bool { return !x.page().MustHas(".strip-item .quiet") })
	x.settle()
	x.noOverflow()
}

// strikesAndChanges strikes a line out and takes it in again, its evidence with it, and changes one.
func (x *person) strikesAndChanges() {
	x.t.Helper()
	x.page().MustElement(`button[aria-label="Strike out bearing rough"]`).MustClick()
	x.sees(".strip-item.struck", "bearing rough")
	x.until("its evidence is gone", func() bool { return !x.page().MustHas(".inside-look .ant-btn-primary") })
	x.page().MustElement(`button[aria-label="Take in again bearing rough"]`).MustClick()
	x.sees(".inside-look .ant-btn-primary", "rough")
	// Changed.
	x.page().MustElement(`button[aria-label="Change seal"]`).MustClick()
	x.page().MustElement(`input[aria-label="What came off"]`).MustSelectAllText().MustInput("oil seal, hard")
	x.keys(input.Enter)
	x.sees(".strip-item .tag", "hard")
}
