package e2e

import (
	"bufio"
	"crypto/sha256"
	"crypto/tls"
	"crypto/x509"
	"encoding/base64"
	"io"
	"net/http"
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"slices"
	"strings"
	"syscall"
	"testing"

	"github.com/go-rod/rod/lib/input"
	"github.com/go-rod/rod/lib/proto"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// house is a workshop's own installation on the network: nothing in it, over HTTPS.
type house struct {
	t               testing.TB
	bin, data, addr string
	code, base      string
	cmd             *exec.Cmd
}

var (
	saysCode  = regexp.MustCompile(`give this code: (\S+)`)
	saysReady = regexp.MustCompile(`ready at https://\S*:(\d+)`)
)

func (h *house) start() {
	h.t.Helper()
	h.cmd = exec.Command(h.bin, "serve", "--data", h.data, "--addr", h.addr)
	h.cmd.Stderr = os.Stderr
	pipe, err := h.cmd.StdoutPipe()
	require.NoError(h.t, err)
	require.NoError(h.t, h.cmd.Start())
	sc := bufio.NewScanner(pipe)
	for sc.Scan() {
		if m := saysCode.FindStringSubmatch(sc.Text()); m != nil {
			h.code = m[1]
		}
		if m := saysReady.FindStringSubmatch(sc.Text()); m != nil {
			h.addr, h.base = "0.0.0.0:"+m[1], "https://localhost:"+m[1]
			go func() { _, _ = io.Copy(io.Discard, pipe) }()
			return
		}
	}
	h.t.Fatal("the application did not start")
}

// authority takes the workshop's certificate as a phone does, over plain HTTP.
func (h *house) authority() *x509.Certificate {
	h.t.Helper()
	plain := strings.Replace(h.base, "https:", "http:", 1)
	read := func(path string) (int, string) {
		res, err := (&http.Client{CheckRedirect: func(*http.Request,
			[]*http.Request) error {
			return http.ErrUseLastResponse
		}}).Get(plain + path)
		require.NoError(h.t, err)
		defer res.Body.Close()
		b, err := io.ReadAll(res.Body)
		require.NoError(h.t, err)
		return res.StatusCode, string(b)
	}
	code, page := read("/")
	assert.Equal(h.t, 200, code)
	assert.Contains(h.t, page, h.base)
	for _, p := range []string{"/api/session", "/assets/index.js", "/board"} {
		code, _ := read(p)
		assert.Equal(h.t, 303, code, "plain HTTP serves nothing else: %s", p)
	}
	_, der := read("/authority.crt")
	c, err := x509.ParseCertificate([]byte(der))
	require.NoError(h.t, err)
	pool := x509.NewCertPool()
	pool.AddCert(c)
	res, err := (&http.Client{Transport: &http.Transport{TLSClientConfig: &tls.Config{RootCAs: pool},
		ForceAttemptHTTP2: true}}).Get(h.base + "/readyz")
	require.NoError(h.t, err)
	res.Body.Close()
	assert.Equal(h.t, 200, res.StatusCode)
	assert.Equal(h.t, 2, res.ProtoMajor)
	return c
}

func newHouse(t *testing.T) *house {
	t.Helper()
	from, err := made()
	require.NoError(t, err)
	dir, err := os.MkdirTemp("/tmp", "corriente-e2e-")
	require.NoError(t, err)
	require.NoError(t, os.Chmod(dir, 0o755))
	t.Cleanup(func() { os.RemoveAll(dir) })
	h := &house{t: t, bin: filepath.Join(from, "corriente"), data: filepath.Join(dir, "db"), addr: "0.0.0.0:0"}
	h.start()
	t.Cleanup(func() { _ = h.cmd.Process.Signal(syscall.SIGTERM); _ = h.cmd.Wait() })
	return h
}

// kill ends the application as a power cut does.
func (h *house) kill() {
	_ = h.cmd.Process.Signal(syscall.SIGKILL)
	_ = h.cmd.Wait()
}

// says runs the application's command line on the installation.
func (h *house) says(args ...string) (string, error) {
	out, err := exec.Command(h.bin, append(args, "--data", h.data)...).CombinedOutput()
	return string(out), err
}

// field fills in what stands under a label.
func (x *person) field(label, text string) {
	x.t.Helper()
	x.fill(x.sees("label", "^"+label).MustElement("input, textarea"), text)
}

// setUp works the set-up page, with a wrong code and a weak password on the way.
func (x *person) setUp(code string) {
	x.t.Helper()
	x.sees("h1", "Set this workshop up")
	x.field("Code", "AAAA-2222")
	x.field("Name, as on papers", "Lakeside cooperative")
	x.field("Currency", "EUR")
	x.field("Your name", "Wanda Sorrel")
	x.field("Short name", "wanda")
	x.field("New password", "wanda12345")
	x.press("button", "Set up and open")
	x.sees(".wrong", "not the code")
	x.field("Code", code)
	x.press("button", "Set up and open")
	x.sees(".wrong", "first that are tried")
	x.field("New password", "plum ladder seven")
	x.press("button", "Set up and open")
	x.sees("h2", "Where to begin")
}

// installable says what a browser has against installing the page as an application.
func (x *person) installable() []string {
	x.t.Helper()
	m, err := proto.PageGetAppManifest{}.Call(x.p)
	require.NoError(x.t, err)
	require.Empty(x.t, m.Errors)
	require.Contains(x.t, m.Data, `"start_url":"/"`)
	e, err := proto.PageGetInstallabilityErrors{}.Call(x.p)
	require.NoError(x.t, err)
	out := []string{}
	for _, i := range e.InstallabilityErrors {
		out = append(out, i.ErrorID)
	}
	return out
}

// batteryVolts enters a reading of one's own, across the battery at rest.
func (x *person) batteryVolts(value string) {
	x.t.Helper()
	x.press(".states button", "^At rest$")
	x.settle() // the card is drawn anew with what to do next: a press on the old one would be lost
	x.press(".next-tools button", "Other reading")
	x.press(".own-what button", "^Volts$")
	x.choose("Red on", "battery plus post")
	x.pick("Black on", "battery minus post")
	x.understood()
	x.fill(x.page().MustElement(".entry input"), value)
	x.page().MustElement(".entry input").MustType(input.Enter)
}

// backsUp makes a backup by hand: it takes the place of the day's own, and stands in the record.
func (x *person) backsUp(base string) {
	x.t.Helper()
	x.page().MustNavigate(base + "/settings")
	x.press("button", "Back up now")
	// The day's own may stand there already, and whoever leaves the page stops this one.
	x.until("the backup in the record", func() bool { return strings.Contains(x.fetch("/api/record"), "Made a backup") })
	x.sees("p", "1 file,")
	x.page().MustNavigate(base + "/people")
	x.sees("li", "Made a backup")
	x.page().MustNavigate(base + "/")
}

// A workshop moves in: set up in the browser by the code, a second person comes by link on a phone and works without
// a connection, eight tabs are open at once, and the server killed in the middle keeps everybody signed in.
func TestAWorkshopMovesIn(t *testing.T) {
	h := newHouse(t)
	ca := h.authority()
	spki := sha256.Sum256(ca.RawSubjectPublicKeyInfo)
	b, done, err := Browser(base64.StdEncoding.EncodeToString(spki[:]))
	require.NoError(t, err)
	t.Cleanup(done)

	// The set-up page, with a wrong code first.
	inc, err := b.Incognito()
	require.NoError(t, err)
	x := openIn(t, inc, h.base, 1280, 800)
	x.setUp(h.code)

	// The demo for a look, and out again.
	x.press("button", "Load the demo")
	x.sees(".jobrow", "Rescue boat Coot")
	x.press("button", "Take the demo out")
	x.sees("h2", "Where to begin")
	x.counts(".jobrow", 0)

	x.backsUp(h.base)

	// A second person, by the link that the page shows as a QR code.
	x.press("a", "The people who work here")
	x.field("Name, as on papers", "Nell Marl")
	x.press("button", "Add and show the link")
	link := x.sees("p", "/join#").MustText()
	assert.True(t, strings.HasPrefix(link, h.base+"/join#"), link)
	x.noOverflow()

	phoneContext, err := b.Incognito()
	require.NoError(t, err)
	n := openIn(t, phoneContext, link, 390, 844)
	n.sees("p", "Welcome, Nell Marl")
	n.field("New password", "three dry pears")
	n.press("button", "Keep it and open")
	n.sees("h2", "Where to begin")
	n.until("nothing stands against installing it", func() bool { // but that this browser keeps nothing
		return slices.Equal(n.installable(), []string{"in-incognito"})
	})
	n.press("button", "The first machine is here")
	n.page().MustElement("#complaint").MustInput("one clunk, nothing turns")
	n.page().MustElement("#machine").MustInput("Lighter Teal")
	n.page().MustElement("#kind").MustInput("boat").MustType(input.Enter)
	n.press(".circuit.ant-btn-primary", "Starter")
	n.sees("section.next", ".")
	n.noOverflow()
	job := n.page().MustEval(`() => location.pathname.split("/")[2]`).Str()

	// Without a connection: the page opens, a reading is taken, and it arrives once when the connection is back.
	n.kept()
	h.kill()
	n.page().MustReload()
	n.sees(".link-state", "No connection")
	n.batteryVolts("12.6")
	n.sees(".link-state", "1 entry is kept here")
	h.start()
	n.storedIs(1)

	// Eight tabs of one browser, all of them live: what Nell enters shows in the last of them.
	var last *person
	for range 7 {
		last = openIn(t, inc, h.base+"/jobs/"+job+"/measure", 1280, 800)
	}
	last.sees(".states-info", "1 entry")
	n.batteryVolts("12.5")
	n.storedIs(2)
	last.sees(".states-info", "2 entries")

	// Killed in the middle: the same authority, the same people, the same job.
	h.kill()
	h.start()
	assert.Equal(t, ca.Raw, h.authority().Raw)
	n.page().MustReload()
	n.sees(".states-info", "2 entries")

	h.suspended(x, n)
}

// suspended sees that a suspended person is out at once, and that nobody is locked out by mistake.
func (h *house) suspended(x, n *person) {
	t := h.t
	t.Helper()
	x.page().MustActivate() // a tab behind another draws nothing
	x.page().MustReload()
	x.page().MustElementR(`[role=group]`, "Nell Marl").MustElementR("button", "^Suspend$").MustClick()
	x.sees("small", "signs in as nell")
	x.sees("div", "^suspended$")
	n.page().MustNavigate(h.base + "/")
	n.page().MustElement("#login").MustInput("nell")
	n.page().MustElement("#password").MustInput("three dry pears").MustType(input.Enter)
	n.sees(".wrong", "may not sign in at present")

	// The doctor finds it well; the command line lists who is here.
	ill := regexp.MustCompile(`WRONG  (the interface|the database|the data folder|this workshop|the last backup|the application).*`)
	x.until("the doctor finds it well", func() bool {
		out, _ := h.says("doctor")
		return strings.Contains(out, "well   the database") && !ill.MatchString(out)
	})
	out, err := h.says("user", "list")
	require.NoError(t, err, out)
	assert.Regexp(t, `nell +Nell Marl +technician +suspended`, out)
	out, err = h.says("user", "suspend", "wanda")
	require.Error(t, err)
	assert.Contains(t, out, "last owner")
}

// Over plain HTTP a browser opens six connections to one address: eight tabs stay alive all the same, since one of
// them listens for all, and when it goes the next one does.
func TestEightTabsOfOneBrowser(t *testing.T) {
	_, b, base := running(t)
	inc, err := b.Incognito()
	require.NoError(t, err)
	first := openIn(t, inc, base, 1280, 800)
	first.signIn("jory")
	var tabs []*person
	for range 7 {
		x := openIn(t, inc, base, 1280, 800)
		x.sees(".jobrow", "Frost fan east")
		tabs = append(tabs, x)
	}
	rows := `() => [...document.querySelectorAll(".jobrow")].some((r) => r.textContent.includes("Tab job"))`
	for i, x := range []*person{first, tabs[3]} {
		// Another person opens a job; the last tab sees it, also after the one that listened is closed.
		y := open(t, b, base, 1280, 800)
		y.signIn("wanda")
		y.page().MustEval(`(n) => fetch("/api/jobs", { method: "POST", headers: { "Content-Type": "application/json" }, body: JSON.stringify({
			id: crypto.randomUUID(), machine_id: crypto.randomUUID(), new_machine: "Tab job " + n, kind: "cart", circuit: "traction", complaint: "slow" }) })`, i)
		last := tabs[6]
		last.until("the job of somebody else shows in the last tab", func() bool {
			return last.page().MustEval(strings.Replace(rows, "Tab job", "Tab job "+string(rune('0'+i)), 1)).Bool()
		})
		x.p.MustClose()
	}
}
