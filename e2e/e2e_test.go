package e2e

import (
	"bufio"
	"encoding/json"
	"fmt"
	"net/http"
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"strings"
	"sync"
	"sync/atomic"
	"syscall"
	"testing"

	"github.com/go-rod/rod"
	"github.com/go-rod/rod/lib/input"
	"github.com/go-rod/rod/lib/proto"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"corriente/internal/patience"
)

// app is the product as a person starts it: the binary, its own database.
type app struct {
	t    testing.TB
	bin  string
	data string
	addr string
	cmd  *exec.Cmd
}

var template atomic.Value // the folder of made, once there is one

// made is the binary and a demo's data, made once: every test works on a copy.
var made = sync.OnceValues(func() (dir string, err error) {
	if dir, err = os.MkdirTemp("/tmp", "corriente-e2e-"); err != nil {
		return "", err
	}
	template.Store(dir)
	if err := os.Chmod(dir, 0o755); err != nil {
		return "", err
	}
	bin := filepath.Join(dir, "corriente")
	if out, err := exec.Command("go", "build", "-o", bin, "corriente/cmd/corriente").CombinedOutput(); err != nil {
		return "", fmt.Errorf("%w: %s", err, out)
	}
	cmd := exec.Command(bin, "demo", "--data", filepath.Join(dir, "db"), "--addr", "127.0.0.1:0")
	cmd.Stderr = os.Stderr
	pipe, err := cmd.StdoutPipe()
	if err != nil {
		return "", err
	}
	if err := cmd.Start(); err != nil {
		return "", err
	}
	sc := bufio.NewScanner(pipe)
	for sc.Scan() {
		if strings.Contains(sc.Text(), "ready at ") {
			break
		}
	}
	_ = cmd.Process.Signal(syscall.SIGTERM)
	return dir, cmd.Wait()
})

func TestMain(m *testing.M) {
	code := m.Run()
	if dir, ok := template.Load().(string); ok {
		os.RemoveAll(dir)
	}
	os.Exit(code)
}

func build(t testing.TB) *app {
	t.Helper()
	from, err := made()
	require.NoError(t, err)
	dir, err := os.MkdirTemp("/tmp", "corriente-e2e-")
	require.NoError(t, err)
	require.NoError(t, os.Chmod(dir, 0o755))
	t.Cleanup(func() { os.RemoveAll(dir) })
	a := &app{t: t, bin: filepath.Join(from, "corriente"), data: filepath.Join(dir, "db"), addr: "127.0.0.1:0"}
	// With their owners: the database may run as a user of its own.
	out, err := exec.Command("cp", "-a", filepath.Join(from, "db"), a.data).CombinedOutput()
	require.NoError(t, err, string(out))
	return a
}

// start starts the demo and returns its address. The port stays the same over
// restarts, so that an open page finds the server again.
func (a *app) start() string {
	a.t.Helper()
	a.cmd = exec.Command(a.bin, "demo", "--data", a.data, "--addr", a.addr)
	a.cmd.Stderr = os.Stderr
	pipe, err := a.cmd.StdoutPipe()
	require.NoError(a.t, err)
	require.NoError(a.t, a.cmd.Start())
	sc := bufio.NewScanner(pipe)
	for sc.Scan() {
		if _, after, ok := strings.Cut(sc.Text(), "ready at "); ok {
			base, _, _ := strings.Cut(after, " ")
			a.addr = strings.TrimPrefix(base, "http://")
			go func() {
				for sc.Scan() {
				}
			}()
			return base
		}
	}
	a.t.Fatal("the demo did not start")
	return ""
}

func (a *app) stop(sig syscall.Signal) {
	_ = a.cmd.Process.Signal(sig)
	_ = a.cmd.Wait()
}

// running builds and starts the demo, with a browser beside it, for one test.
func running(t testing.TB) (a *app, b *rod.Browser, base string) {
	t.Helper()
	b, done, err := Browser()
	require.NoError(t, err)
	t.Cleanup(done)
	a = build(t)
	base = a.start()
	t.Cleanup(func() { a.stop(syscall.SIGTERM) })
	return a, b, base
}

// begin is running with somebody signed in at 1280x800.
func begin(t testing.TB, login string) (a *app, b *rod.Browser, base string, x *person) {
	t.Helper()
	a, b, base = running(t)
	x = open(t, b, base, 1280, 800)
	x.signIn(login)
	return a, b, base, x
}

// person is somebody at a window of their own.
type person struct {
	t testing.TB
	p *rod.Page // without a limit: for page and what emulates
}

// page is the window, for one thing to be waited for.
func (x *person) page() *rod.Page { return x.p.Timeout(patience.Limit()) }

// until looks until ok holds; a page that is being drawn anew just then is looked at again.
func (x *person) until(what string, ok func() bool) {
	x.t.Helper()
	patience.Until(x.t, what, func() (held bool) {
		return rod.Try(func() { held = ok() }) == nil && held
	})
}

// settle waits until the page rests.
func (x *person) settle() {
	x.t.Helper()
	require.NoError(x.t, Settle(x.page()))
}

// fill puts a text in place of what a field holds: drawn anew while it is selected, the
// field would keep the old text before the new.
func (x *person) fill(field *rod.Element, text string) {
	x.t.Helper()
	x.until("the field holds "+text, func() bool {
		if field.MustProperty("value").Str() != text {
			field.MustSelectAllText().MustInput(text)
		}
		return field.MustProperty("value").Str() == text
	})
}

// counts waits until so many elements are there.
func (x *person) counts(selector string, n int) {
	x.t.Helper()
	x.until(fmt.Sprintf("%d of %s", n, selector), func() bool { return len(x.page().MustElements(selector)) == n })
}

// storedIs waits until so many pieces of evidence are stored for the open job.
func (x *person) storedIs(n int) {
	x.t.Helper()
	x.until(fmt.Sprintf("%d stored", n), func() bool { return x.stored() == n })
}

func open(t testing.TB, b *rod.Browser, base string, w, h int) *person {
	t.Helper()
	inc, err := b.Incognito()
	require.NoError(t, err)
	t.Cleanup(func() { inc.Close() })
	x := openIn(t, inc, base, w, h)
	x.until("the first page", func() bool { return x.page().MustHas("#login, .board") })
	return x
}

// openIn opens one more page of a browser.
func openIn(t testing.TB, inc *rod.Browser, url string, w, h int) *person {
	t.Helper()
	p, err := inc.Page(proto.TargetCreateTarget{URL: url})
	require.NoError(t, err)
	go p.EachEvent(func(e *proto.RuntimeExceptionThrown) {
		fmt.Fprintln(os.Stderr, "the page threw:", e.ExceptionDetails.Text, e.ExceptionDetails.Exception.Description)
	})()
	require.NoError(t, Size(p, w, h))
	t.Cleanup(func() {
		if t.Failed() {
			if img, err := p.Timeout(patience.Limit()).Screenshot(false, nil); err == nil {
				f := filepath.Join(os.TempDir(), "corriente-failed.png")
				_ = os.WriteFile(f, img, 0o600)
				t.Logf("what the page showed: %s", f)
			}
		}
	})
	return &person{t, p}
}

func (x *person) signIn(login string) {
	x.t.Helper()
	x.page().MustElement("#login").MustInput(login)
	x.page().MustElement("#password").MustInput("apple-blossom").MustType(input.Enter)
	x.page().MustElement(".board")
}

func (x *person) sees(selector, text string) *rod.Element {
	x.t.Helper()
	el, err := x.page().ElementR(selector, text)
	require.NoError(x.t, err, "no %s with %q", selector, text)
	return el
}

// hits clicks an element that is there now. One that goes away under the pointer, or is covered, would be
// waited for as long as the page is: it is looked for anew instead.
func hits(el *rod.Element) bool {
	return el.CancelTimeout().Timeout(patience.Limit()/20).Click("left", 1) == nil
}

func (x *person) press(selector, text string) {
	x.t.Helper()
	// An element that is replaced while it is pressed is looked for anew.
	x.until(fmt.Sprintf("%s with %q to be pressed", selector, text), func() bool {
		has, el, err := x.page().HasR(selector, text)
		return err == nil && has && hits(el)
	})
}

// choose picks from a list that folds out.
func (x *person) choose(label, option string) {
	x.t.Helper()
	const open = ".ant-select-dropdown:not(.ant-select-dropdown-hidden)"
	in := x.page().MustElement(fmt.Sprintf("input[aria-label=%q]", label))
	in.MustClick()
	// A long list draws only what is in sight: typing is not open to every one, the arrow keys are.
	x.until(fmt.Sprintf("%s of %q to be in sight", option, label), func() bool {
		if has, el, err := x.page().HasR(open+" .ant-select-item-option", option); err == nil && has {
			return hits(el)
		}
		if x.page().MustHas(open) {
			x.keys(input.ArrowDown)
		} else {
			in.MustClick()
		}
		return false
	})
	is := regexp.MustCompile(option)
	x.until(fmt.Sprintf("%s chosen of %q", option, label), func() bool {
		return is.MatchString(strings.TrimSpace(in.MustEval(`() => this.closest(".ant-select").innerText`).Str()))
	})
}

func (x *person) keys(ks ...input.Key) {
	x.t.Helper()
	x.page().Keyboard.MustType(ks...)
}

// another presses a key for which another reading is asked. The whole card is compared: the
// same two points may be asked at rest and then under load.
func (x *person) another(key input.Key) {
	x.t.Helper()
	card := func() string { return x.page().MustElement(".next").MustText() }
	before := card()
	x.keys(key)
	x.until("another reading is asked", func() bool { return card() != before })
}

// types sends a text key by key, wherever the focus is.
func (x *person) types(text string) {
	x.t.Helper()
	for _, r := range text {
		x.page().Keyboard.MustType(input.Key(r))
	}
}

// understood acknowledges the caution of the state in hand, where it has not been. The card of before may
// still stand while the next one, with its caution, is on its way: the page rests before it is believed.
func (x *person) understood() {
	x.t.Helper()
	x.until("the field, its caution read", func() bool {
		x.settle()
		if has, b, err := x.page().HasR(".next .caution button", "Understood"); err == nil && has {
			hits(b)
			return false
		}
		return x.page().MustHas(".next .entry, .next .answers, .next .blink")
	})
}

// state shows a state of the path. Which one Measure opens in follows the reasoning.
func (x *person) state(name string) {
	x.t.Helper()
	x.press(".states button", "^"+name+"$")
	x.sees(".states button.on", name)
}

// noOverflow: nothing hangs out of the side of the window.
func (x *person) noOverflow() {
	x.t.Helper()
	wide := x.page().MustEval(`() => document.documentElement.scrollWidth - document.documentElement.clientWidth`).Int()
	assert.LessOrEqual(x.t, wide, 0, "the page is wider than the window")
}

// count asks the page's own session for the readings stored for the open job.
func (x *person) stored() int {
	x.t.Helper()
	return x.page().MustEval(`async () => {
		const id = location.pathname.split("/")[2];
		const j = await (await fetch("/api/jobs/" + id)).json();
		return j.evidence.length;
	}`).Int()
}

func TestATechnicianAtWork(t *testing.T) {
	b, done, err := Browser()
	require.NoError(t, err)
	t.Cleanup(done)
	a := build(t)
	base := a.start()
	t.Cleanup(func() { a.stop(syscall.SIGTERM) })

	// In this order: a later one finds the jobs as the ones before left them.
	for _, c := range []struct {
		what string
		run  func(t *testing.T, b *rod.Browser, base string)
	}{
		{"a dead starter, by keyboard, with a slip on the way and the server killed",
			func(t *testing.T, b *rod.Browser, base string) { deadStarter(t, b, a, base) }},
		{"strike out by key, and the reasoning follows", strikeByKey},
		{"a verdict of every kind reads as a sentence", nothingWrong},
		{"the counter reads and cannot write", counterReads},
		{"on a phone, with our own keypad", onAPhone},
		{"from “the heater fan is dead” to the first useful check in three touches", threeTouches},
		{"quick checks in the adviser's order, the leaning shifts it, a lamp is tapped along with", quickChecks},
		{"what is known shifts the priors; values are refused with the mend", knownShifts},
		{"a repair in mid-job: the diagnosis goes on with what still holds", repairMidJob},
		{"a circuit of our own: a plug put in, nonsense refused, kept, used", ownCircuit},
		{"a table of codes: refused with the line, then kept", tableOfCodes},
		{"a broken case file is refused with the place", brokenCase},
		{"what cannot be reached is not asked again", outOfReach},
		{"a station opens, states redraw the path, and states without current say so", stationOpens},
		{"the board is searched, and the dark view stays", boardSearched},
		{"a complaint saves itself; one that comes and goes asks with each reading", complaintSaves},
		{"a session that ends costs nothing that was typed", sessionEnds},
		{"what keyboards and readers need", namedAndLarge},
		{"every stage opens", everyStage},
		{"at twice the size, without motion, and by ear", twiceTheSize},
		{"nobody but the browser's own scripts ran", ownScriptsOnly},
	} {
		t.Run(c.what, func(t *testing.T) { c.run(t, b, base) })
	}
}

func deadStarter(t *testing.T, b *rod.Browser, a *app, base string) {
	x := open(t, b, base, 1280, 800)
	x.signIn("jory")
	x.keys('n') // start a job
	x.sees(".circuit", "Starter, solenoid on the motor")
	x.page().MustElement("#machine").MustInput("Ice cream cart")
	x.page().MustElement("#complaint").MustInput("Starter: one clunk, nothing turns")
	x.press(".circuit", "Starter")
	x.sees("section.next", ".")
	assert.Contains(t, x.page().MustInfo().URL, "/measure")

	// Quick checks: one tap each.
	x.keys('g', 'q')
	x.press(".check .answers button", "one clunk")
	x.sees(".check.given button", "✓ one clunk")
	x.sees(".lead", "Likeliest so far")

	// Own points: volts across the solenoid contact while cranking.
	x.keys('g', 'm')
	x.sees(".states button", "Cranking").MustClick()
	x.sees(".states button.on", "Cranking")
	probe := func(red, black string) {
		x.page().MustElement(fmt.Sprintf(`.node[aria-label^="%s"]`, red)).MustClick()
		x.page().MustElement(fmt.Sprintf(`.node[aria-label^="%s"]`, black)).MustClick()
		x.sees(".next h1", "Red on the "+red+", black on the "+black)
		x.understood()
	}
	before := x.stored()
	probe("solenoid battery stud", "solenoid motor stud")
	// A wrong one: the sentence says what and the mend, nothing is stored.
	x.types("6.3 A")
	x.sees(".entry-says .wrong", "amperes do not fit.*write V or mV")
	x.keys(input.Enter)
	x.sees(".next p.wrong", "mperes do not fit")
	assert.Equal(t, before, x.stored())
	x.page().MustElement(".entry input").MustSelectAllText().MustInput("")
	x.types("6,3")
	x.sees(".judged.bad", "6.30 V ± .*not what a good circuit shows")

	// The server dies, with what was typed still in the field.
	a.stop(syscall.SIGKILL)
	x.keys(input.Enter)
	// It is kept, and weighed here: the suspects follow without a server.
	x.sees(".link-state", "No connection.*1 entry is kept here")
	x.sees(".suspects", "Solenoid main contact")
	a.start()
	x.counts(".link-state", 0)
	require.Equal(t, before+1, x.stored())

	// On to the verdict: whatever is asked, the readings of a burnt contact.
	for _, r := range [][3]string{{"battery plus post", "battery minus post", "11.9"},
		{"battery plus post", "solenoid battery stud", "0.21"}, {"starter case", "battery minus post", "0.12"}} {
		probe(r[0], r[1])
		n := x.stored()
		x.types(r[2])
		x.keys(input.Enter)
		x.storedIs(n + 1)
	}
	x.sees(".verdict h1", "solenoid main contact is at fault")

	// Repair or replace, recorded.
	x.keys('g', 'd')
	x.sees(".option-row.best", "costs least")
	assert.Greater(t, len(x.page().MustElements(".option-row")), 3)
	x.press(".option-head", "Open the solenoid")
	x.page().MustElement(`input[aria-label="Reason"]`).MustInput("kit on the shelf")
	x.press("button", "Choose this")
	x.sees(".repair", "Solenoid main contact[\\s\\S]*chosen by the customer: kit on the shelf")

	// A clean stop and a new start: all of it is there.
	addr := x.page().MustInfo().URL
	a.stop(syscall.SIGINT)
	a.start()
	x.page().MustNavigate(addr)
	x.sees(".repair", "kit on the shelf")
	x.keys('g', 'm')
	x.sees(".verdict h1", "solenoid main contact is at fault")
	x.keys('g', 'b')
	x.sees(".jobrow", "Ice cream cart")
}

func strikeByKey(t *testing.T, b *rod.Browser, base string) {
	x := open(t, b, base, 1280, 800)
	x.signIn("jory")
	x.press(".jobrow", "Cider press lorry")
	x.page().MustElement(".ribbon .here")
	x.keys('g', 'm')
	x.press(".tabs [role=tab]", "Readings")
	n := len(x.page().MustElements(".readings li.struck"))
	x.keys('u')
	x.counts(".readings li.struck", n+1)
	x.settle() // the row is struck before the server has said so, and is drawn anew when it has
	x.press(".readings li.struck button", "take back")
	x.counts(".readings li.struck", n)
}

func nothingWrong(t *testing.T, b *rod.Browser, base string) {
	x := open(t, b, base, 1280, 800)
	x.signIn("wanda")
	x.press("button", "Show closed too")
	x.press(".jobrow", "cranked slowly once")
	x.sees(".verdict.nothing_wrong h1", "Nothing wrong here")
}

func counterReads(t *testing.T, b *rod.Browser, base string) {
	x := open(t, b, base, 1280, 800)
	x.signIn("counter")
	x.press(".jobrow", "Orchard tractor 3")
	x.sees(".suspects", "%")
	assert.Empty(t, x.page().MustElements(".entry"))
	assert.Empty(t, x.page().MustElements(".next-tools button"))
}

func onAPhone(t *testing.T, b *rod.Browser, base string) {
	x := open(t, b, base, 390, 844)
	x.signIn("pip")
	x.noOverflow()
	x.press(".jobrow", "Orchard tractor 3")
	x.sees(".ribbon-button", "Measure 3/9")
	x.noOverflow()
	card := x.page().MustElement("section.next").MustShape().Box()
	strip := x.page().MustElement(".strip").MustShape().Box()
	assert.Less(t, card.Y, strip.Y, "the card comes first")
	x.understood()
	n := x.stored()
	for _, k := range []string{"9", "\\.", "0", "5"} {
		x.press(".keypad button", "^"+k+"$")
	}
	assert.Equal(t, "9.05", x.page().MustElement(".entry input").MustProperty("value").String())
	x.sees(".judged", "9.05 V")
	x.press(".entry button", "Record")
	x.storedIs(n + 1)
	for _, v := range []string{"complaint", "checks", "decide", "trace"} {
		x.page().MustNavigate(x.page().MustInfo().URL[:strings.LastIndex(x.page().MustInfo().URL, "/")+1] + v)
		x.page().MustElement("main")
		x.settle()
		x.noOverflow()
	}
}

func threeTouches(t *testing.T, b *rod.Browser, base string) {
	x := open(t, b, base, 1280, 800)
	x.signIn("pip")
	x.press("button", "Start a job") // 1
	x.page().MustElement("#complaint").MustInput("the heater fan is dead")
	x.sees(".heard .tag", "does not turn") // said: it is not asked
	x.sees(".ask legend", "How is the speed set")
	x.press(".ask button", "a knob with steps") // 2
	x.sees(".circuit.ant-btn-primary", "resistor pack[\\s\\S]*knob has steps")
	x.press(".circuit.ant-btn-primary", "resistor") // 3
	x.sees("section.next h1", ".")
	assert.Contains(t, x.page().MustInfo().URL, "/measure")
	assert.NotContains(t, x.sees(".suspects li", ".").MustText(), "Nothing wrong", "what was said counts")
	x.noOverflow()
}

func quickChecks(t *testing.T, b *rod.Browser, base string) {
	x := open(t, b, base, 1280, 800)
	x.signIn("jory")
	x.press(".jobrow", "Picking cart Teasel")
	x.page().MustElement(".ribbon .here")
	x.keys('g', 'q')
	x.sees(".check .best", "most telling")
	x.press(".leaning button", "quick tricks first")
	x.sees(".leaning .ant-btn-primary", "quick tricks first")
	x.page().MustElement(".blink-tap")
	// The lamp's pauses pass on the page's own clock, so that no test waits for them.
	x.page().MustEval(`() => { const real = performance.now.bind(performance); window.skipped = 0; performance.now = () => real() + window.skipped; }`)
	for range 2 {
		for range 3 {
			x.keys(input.Space)
			x.page().MustEval(`() => { window.skipped += 250; }`)
		}
		x.page().MustEval(`() => { window.skipped += 60_000; }`)
	}
	n := x.stored()
	x.press(".blink button", "Code 3.*record")
	x.storedIs(n + 1)
}

func knownShifts(t *testing.T, b *rod.Browser, base string) {
	x := open(t, b, base, 1280, 800)
	x.signIn("jory")
	x.press(".jobrow", "Frost fan east")
	x.page().MustElement(".ribbon .here")
	x.keys('g', 'c')
	x.page().MustElement("#new_parts").MustInput("Battery").MustType(input.Enter)
	x.sees(".shifts li", "Battery.*less likely")
	x.keys(input.Escape)
	x.page().MustElement("#value-of").MustInput("Plus cable: res").MustType(input.Enter)
	x.page().MustElement(`input[aria-label="Cable length, m"]`).MustInput("1.5")
	x.page().MustElement(`input[aria-label="Value"]`).MustInput("thick")
	x.press(".value-row button", "Keep")
	x.sees(".wrong", "thick.*not a cable size: write it as 35 mm2 or AWG 4")
	x.page().MustElement(`input[aria-label="Value"]`).MustSelectAllText().MustInput("AWG 2")
	x.press(".value-row button", "Keep")
	x.sees(".shifts li", "Plus cable.*33.6")
	x.plate("1.4 kW", "117 to 233 A")
}

func repairMidJob(t *testing.T, b *rod.Browser, base string) {
	x := open(t, b, base, 1280, 800)
	x.signIn("jory")
	x.press(".jobrow", "Irrigation pump")
	x.page().MustElement(".ribbon .here")
	x.keys('g', 'm')
	x.page().MustElement(`.foot[aria-label^="Plus clamp"]`).MustClick()
	x.press(".ant-drawer button", "This was put right")
	x.sees(".suspects", "Nothing wrong")
}

func ownCircuit(t *testing.T, b *rod.Browser, base string) {
	x := open(t, b, base, 1280, 800)
	x.signIn("wanda")
	x.page().MustNavigate(base + "/circuits")
	x.sees(".circuits-row", "two fuses|speed module").MustElementR("button", "Copy").MustClick()
	x.page().MustElement(`.foot[aria-label^="Supply wire"]`).MustFocus()
	x.keys(input.Enter) // by keyboard, as by touch
	x.page().MustElement("#st-add").MustInput("Floor plug")
	x.press("button", "Put it in")
	x.page().MustElement(`.foot[aria-label^="Floor plug"]`)
	x.page().MustElement(`.foot[aria-label^="Blower motor"]`).MustFocus()
	x.keys(input.Enter) // by keyboard, as by touch
	v := x.page().MustElementR("label.param", "^ke").MustElement("input")
	v.MustSelectAllText().MustInput("9").MustType(input.Tab)
	x.sees("p.wrong", "good blower motor does not turn")
	v.MustSelectAllText().MustInput("0.0215").MustType(input.Tab)
	x.counts("p.wrong", 0)
	x.press("button", "Keep this circuit")
	x.sees("button", "^Kept$")
	x.page().MustNavigate(base + "/start")
	x.press(".circuit", "our own")
	x.sees("section.next", ".")
	x.page().MustElement(`.foot[aria-label^="Floor plug"]`)
}

func tableOfCodes(t *testing.T, b *rod.Browser, base string) {
	x := open(t, b, base, 1280, 800)
	x.signIn("wanda")
	x.page().MustNavigate(base + "/codes")
	x.sees(".codes .differs", "≠")
	x.page().MustElement(`input[aria-label="Controller"]`).MustInput("Sedge 48")
	f := filepath.Join(t.TempDir(), "codes.csv")
	require.NoError(t, os.WriteFile(f, []byte("code,meaning,faults\n3,Motor,motor.melted\n"), 0o600))
	x.page().MustElement(`input[type=file]`).MustSetFiles(f)
	x.sees("p.wrong", "nothing was stored: line 2.*motor.melted")
	require.NoError(t, os.WriteFile(f, []byte("code,meaning,faults\n3,Motor circuit,motor.brushes_worn\n"), 0o600))
	x.page().MustElement(`input[type=file]`).MustSetFiles(f)
	x.sees("h2", "Sedge 48")
}

func brokenCase(t *testing.T, b *rod.Browser, base string) {
	x := open(t, b, base, 1280, 800)
	x.signIn("jory")
	f := filepath.Join(t.TempDir(), "broken.json")
	require.NoError(t, os.WriteFile(f, []byte(`{"format":"corriente-case/1","circuit":"starter","evidence":[{"measure":"voltage","state":"crank","from":"sol_q","to":"case","value":"1"}]}`), 0o600))
	x.page().MustElement(`input[type=file]`).MustSetFiles(f)
	x.sees("p.wrong", "/evidence/0/from.*no node")
	good, err := filepath.Abs("../examples/starter-clicks.json")
	require.NoError(t, err)
	x.page().MustElement(`input[type=file]`).MustSetFiles(good)
	x.sees(".suspects", "Solenoid main contact")
}

func outOfReach(t *testing.T, b *rod.Browser, base string) {
	x := open(t, b, base, 1280, 800)
	x.signIn("jory")
	x.press(".jobrow", "Frost fan east") // nothing taken yet: there is much to ask
	x.page().MustElement(".ribbon .here")
	x.keys('g', 'm')
	x.sees(".next h1", ".")
	x.another('c')
	x.another('n')
}

func stationOpens(t *testing.T, b *rod.Browser, base string) {
	x := open(t, b, base, 1280, 800)
	x.signIn("jory")
	x.press(".jobrow", "Ferry Waterlily")
	x.page().MustElement(".ribbon .here")
	x.keys('g', 'm')
	x.state("Cranking") // the cable's drop shows while current flows
	x.page().MustElement(`.foot.bad[aria-label^="Ground cable"]`).MustClick()
	x.sees(".ant-drawer", "Readings that touch it")
	x.sees(".ant-drawer .facts", "the vehicle’s own manual wins")
	x.keys(input.Escape)
	x.counts("[role=dialog]", 0)
	for _, want := range []string{"At rest", "Cranking", "Fed direct"} {
		x.state(want)
	}
	x.press(".states button", "At rest")
	x.sees(".path-note", "prove nothing")
	x.keys('?')
	x.sees(".ant-modal", "cannot reach this one")
}

func boardSearched(t *testing.T, b *rod.Browser, base string) {
	x := open(t, b, base, 1280, 800)
	x.signIn("jory")
	x.keys('/')
	x.types("waterlily ground")
	x.counts(".jobrow", 1)
	x.types(" submarine")
	x.sees(".empty", "Nothing matches")
	x.press("button", "Dark view")
	assert.Equal(t, "dark", x.page().MustEval(`() => document.documentElement.dataset.mode`).Str())
	x.page().MustReload()
	x.page().MustElement(".board")
	assert.Equal(t, "dark", x.page().MustEval(`() => document.documentElement.dataset.mode`).Str())
}

func complaintSaves(t *testing.T, b *rod.Browser, base string) {
	x := open(t, b, base, 1280, 800)
	x.signIn("jory")
	x.press(".jobrow", "Frost fan east")
	x.page().MustElement(".ribbon .here")
	x.keys('g', 'c')
	x.page().MustElement("#history").MustInput("A new switch last year")
	x.press("label", "It comes and goes")
	x.sees(".note", "clears nothing")
	x.sees("[role=status]", "^saved$")
	x.page().MustReload()
	x.page().MustElement("#history")
	assert.Contains(t, x.page().MustElement("#history").MustProperty("value").Str(), "A new switch last year")
	x.keys('g', 'm')
	x.page().MustElement("section.next")
	x.understood()
	x.sees(".symptom button", "It showed the fault")
	x.keys('g', 'c')
	x.press("button", "Read and understood")
	x.sees("p", "✓ Read and understood")
}

func sessionEnds(t *testing.T, b *rod.Browser, base string) {
	x := open(t, b, base, 1280, 800)
	x.signIn("jory")
	x.press(".jobrow", "Frost fan east")
	x.page().MustElement(".ribbon .here")
	x.keys('g', 'm')
	x.sees(".states button", "At rest").MustClick()
	x.sees(".states button.on", "At rest")
	x.page().MustElement(`.node[aria-label^="battery plus post"]`).MustClick()
	x.page().MustElement(`.node[aria-label^="battery minus post"]`).MustClick()
	n := x.stored()
	x.types("12.61")
	x.page().MustEval(`() => fetch("/api/session", {method: "DELETE"})`)
	x.keys(input.Enter)
	x.sees(".over", "You were signed out")
	x.page().MustElement(".over #login").MustInput("jory")
	x.page().MustElement(".over #password").MustInput("apple-blossom").MustType(input.Enter)
	x.counts(".over", 0)
	x.storedIs(n + 1)
}

func everyStage(t *testing.T, b *rod.Browser, base string) {
	x := open(t, b, base, 1280, 800)
	x.signIn("jory")
	x.press(".jobrow", "Orchard tractor 3")
	x.page().MustElement(".ribbon .here")
	for _, s := range []string{"Complaint", "Quick checks", "Trace", "Strip-down", "Decide", "Put back", "Prove", "Report", "Measure"} {
		x.press(".ribbon a", s)
		x.sees(".ribbon .here", s)
		x.page().MustElement("main")
		x.noOverflow()
	}
}

func ownScriptsOnly(t *testing.T, _ *rod.Browser, base string) {
	res, err := http.Get(base + "/")
	require.NoError(t, err)
	defer res.Body.Close()
	assert.NotContains(t, res.Header.Get("Content-Security-Policy"), "script-src 'self' 'unsafe")
	var ok any
	assert.Error(t, json.NewDecoder(res.Body).Decode(&ok), "the first page is HTML")
}

// namedAndLarge: every control has a name, and none is smaller than a gloved finger.
func namedAndLarge(t *testing.T, b *rod.Browser, base string) {
	for _, size := range [][2]int{{1280, 800}, {390, 844}} {
		x := open(t, b, base, size[0], size[1])
		x.signIn("jory")
		href := x.sees(".jobrow", "Orchard tractor 3").MustProperty("href").Str()
		stem := href[:strings.LastIndex(href, "/")+1]
		for _, v := range []string{"complaint", "checks", "measure", "decide"} {
			x.page().MustNavigate(stem + v)
			x.page().MustElement("main")
			x.settle()
			bad := x.page().MustEval(unnamed).Arr()
			assert.Empty(t, bad, "%s at %d px: controls without a name", v, size[0])
			small := x.page().MustEval(tooSmall).Arr()
			assert.Empty(t, small, "%s at %d px: touch targets under 40 px", v, size[0])
		}
	}
}

// twiceTheSize: at 200 % nothing hangs out of the window, nothing moves where that is asked, and what Record changed is said.
func twiceTheSize(t *testing.T, b *rod.Browser, base string) {
	x := open(t, b, base, 640, 400) // 1280x800 at 200 %
	x.signIn("jory")
	require.NoError(t, proto.EmulationSetEmulatedMedia{Features: []*proto.EmulationMediaFeature{{Name: "prefers-reduced-motion",
		Value: "reduce"}}}.Call(x.page()))
	href := x.sees(".jobrow", "Orchard tractor 3").MustProperty("href").Str()
	stem := href[:strings.LastIndex(href, "/")+1]
	for _, v := range []string{base + "/", base + "/machines", base + "/logbook?view=learned", base + "/circuits",
		base + "/you", stem + "complaint", stem + "decide", stem + "strip", stem + "measure"} {
		x.page().MustNavigate(v)
		x.page().MustElement("main")
		x.settle()
		x.noOverflow()
		moving := x.page().MustEval(`() => document.getAnimations().filter(a => (a.effect?.getComputedTiming().duration ?? 0) > 1).length`).Int()
		assert.Zero(t, moving, "%s still moves", v)
	}
	heard := func() string { return x.page().MustElement(".heard").MustText() }
	assert.Empty(t, heard(), "nothing is said of what was there before")
	before := x.stored()
	x.understood()
	x.fill(x.page().MustElement(".entry input"), "9.1")
	x.sees(".judged", "9.10 V")
	x.press(".entry button", "Record")
	x.until("the entry to be told", func() bool { return x.stored() == before+1 && strings.HasPrefix(heard(), "Recorded. ") })
	assert.Contains(t, heard(), "Likeliest now: ")
}

// unnamed lists controls that a screen reader could not name.
const unnamed = `() => [...document.querySelectorAll("button, a[href], input:not([type=hidden]), textarea, select, [role=button], [role=tab], svg[role=group]")]
	.filter(e => e.offsetParent !== null || e instanceof SVGElement)
	.filter(e => {
		const by = e.id && document.querySelector("label[for='" + e.id + "']");
		const text = (e.getAttribute("aria-label") || e.textContent || e.title || e.getAttribute("placeholder") || "").trim();
		return !text && !by && !e.closest("label") && e.getAttribute("aria-hidden") !== "true";
	}).map(e => e.outerHTML.slice(0, 120))`

// tooSmall lists buttons that a gloved finger would miss; links inside a
// sentence and what the component library hides are left out.
const tooSmall = `() => [...document.querySelectorAll("button, .ant-btn, .stage")]
	.filter(e => e.offsetParent !== null && !e.closest(".path-key, .ant-input-number, .ant-input-affix-wrapper"))
	.filter(e => { const r = e.getBoundingClientRect(); return r.width > 0 && r.height < 40; })
	.map(e => e.outerHTML.slice(0, 120) + " " + e.getBoundingClientRect().height)`

// A taken port costs one line, no database and exit code 2.
func TestTakenPort(t *testing.T) {
	a := build(t)
	base := a.start()
	defer a.stop(syscall.SIGTERM)
	out, err := exec.Command(a.bin, "demo", "--data", a.data+"2", "--addr", strings.TrimPrefix(base, "http://")).CombinedOutput()
	var ee *exec.ExitError
	require.ErrorAs(t, err, &ee)
	assert.Equal(t, 2, ee.ExitCode())
	assert.Contains(t, string(out), "is taken")
	assert.Equal(t, 1, strings.Count(strings.TrimSpace(string(out)), "\n")+1)
	_, err = os.Stat(a.data + "2")
	assert.ErrorIs(t, err, os.ErrNotExist)
}
