// Command shots takes the pictures in docs/screenshots from demo data.
// usage: shots [-out DIR] [-base URL] [-only NAME]; without -base it starts a
// demo of its own, on a fresh database. One picture of any page:
// shots -base URL -out DIR -page "Orchard tractor 3/decide" -w 390 -press "button=Choose".
package main

import (
	"bufio"
	"cmp"
	"flag"
	"fmt"
	"math/rand/v2"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"syscall"
	"time"

	"github.com/go-rod/rod"
	"github.com/go-rod/rod/lib/input"
	"github.com/go-rod/rod/lib/proto"

	"corriente/core/trace/field"
	"corriente/e2e"
)

type shot struct {
	name, machine, path string
	w, h                int
	dark                bool
	as                  string // who signs in; empty: a technician
	act                 func(p *rod.Page)
}

var shots = []shot{
	{name: "board", path: "/", w: 1280, h: 800},
	{name: "start", path: "/start", w: 1280, h: 800},
	{name: "complaint", machine: "Orchard tractor 3", path: "complaint", w: 1280, h: 800},
	{name: "checks", machine: "Orchard tractor 3", path: "checks", w: 1280, h: 800},
	{name: "measure", machine: "Orchard tractor 3", path: "measure", w: 1280, h: 800, act: walk},
	{name: "verdict", machine: "Ferry Waterlily, main engine", path: "measure", w: 1280, h: 800},
	{name: "circuits", path: "/circuits", w: 1280, h: 800, act: openCircuit},
	{name: "decide", machine: "Cider press lorry", path: "decide", w: 1280, h: 800},
	{name: "people", path: "/people", as: "wanda", w: 1280, h: 800},
	{name: "meters", path: "/instruments", w: 1280, h: 800},
	{name: "trace", machine: "Cider press lorry", path: "trace", w: 1280, h: 800, act: openTrace},
	{name: "strip", machine: "Cider press lorry", path: "strip", w: 1280, h: 800},
	{name: "bench", machine: "Cider press lorry", path: "strip?beside=bench", w: 1280, h: 800, act: calculate},
	{name: "machine", path: "/machines", w: 1280, h: 800, act: openMachine},
	{name: "prove", machine: "Pallet truck Burdock", path: "prove", w: 1280, h: 800},
	{name: "report", machine: "Pallet truck Burdock", path: "report", w: 1280, h: 800},
	{name: "logbook", path: "/logbook", w: 1280, h: 800},
	{name: "exercise", path: "/training", w: 1280, h: 800, act: beginExercise},
	{name: "measure-390", machine: "Orchard tractor 3", path: "measure", w: 390, h: 844},
}

// openCircuit opens a circuit in the editor.
func openCircuit(p *rod.Page) {
	if el, err := p.Timeout(5*time.Second).ElementR(".circuits-row", "speed module"); err == nil {
		el.MustElementR("button", "Copy").MustClick()
		time.Sleep(1500 * time.Millisecond)
		if st, err := p.Timeout(3 * time.Second).Element(`.foot[aria-label^="Blower plug"]`); err == nil {
			_ = st.Click("left", 1)
		}
		time.Sleep(300 * time.Millisecond)
	}
}

// walk types a reading without recording it, so that its judgement shows.
func walk(p *rod.Page) {
	if el, err := p.Timeout(2 * time.Second).Element(".entry input"); err == nil {
		_ = el.Input("0.15")
		time.Sleep(700 * time.Millisecond)
	}
}

// weakBar is a trace of one of the coil-by-coil motors: 18 bars, 45 A, a shorted coil.
func weakBar() (amperes []float32, dt float64) {
	set := field.Tuning()
	set.PerHump, set.Turns, set.MostSamples = [2]float64{40, 120}, [2]float64{20, 60}, 60_000
	s := field.Draw(set, rand.New(rand.NewPCG(54, 4)))
	return s.Amperes, s.Dt
}

// openTrace opens a made-up trace of a motor with a weak bar and zooms in.
func openTrace(p *rod.Page) {
	amperes, dt := weakBar()
	name := filepath.Join(os.TempDir(), "cider press starter.csv")
	f, err := os.Create(name)
	if err != nil {
		return
	}
	defer func() { _ = os.Remove(name) }()
	fmt.Fprintln(f, "Time (s),Clamp (A)")
	for i, v := range amperes {
		fmt.Fprintf(f, "%.7f,%.3f\n", float64(i)*dt, v)
	}
	_ = f.Close()
	if in, err := p.Timeout(3 * time.Second).Element(`input[aria-label="Trace"]`); err == nil {
		_ = in.SetFiles([]string{name})
		if bars, err := p.Timeout(10 * time.Second).Element(`input[aria-label="Bars of the commutator"]`); err == nil {
			_ = bars.Input("18")
			_ = bars.Type(input.Tab)
		}
		if _, err := p.Timeout(20 * time.Second).Element(".ring"); err != nil {
			return
		}
		_, _ = p.Eval(`() => document.activeElement.blur()`)
		for range 5 {
			_ = p.Keyboard.Type('+')
			time.Sleep(120 * time.Millisecond)
		}
		time.Sleep(600 * time.Millisecond)
	}
}

// calculate has a commutator judged by its pattern.
func calculate(p *rod.Page) {
	if b, err := p.Timeout(4*time.Second).ElementR(".bench-list button", "Bar to bar"); err == nil {
		_ = b.Click("left", 1)
	}
	if f, err := p.Timeout(3 * time.Second).Element(`textarea[aria-label^="Drop from bar"]`); err == nil {
		_ = f.Input("21 22 21 20 21 2 22 21 21 20 22 21")
		time.Sleep(1200 * time.Millisecond)
	}
}

// beginExercise starts one and takes two readings.
func beginExercise(p *rod.Page) {
	if b, err := p.Timeout(4*time.Second).ElementR(".exercise", "Slow since the paint"); err == nil {
		_ = b.Click("left", 1)
	}
	for _, pair := range [][2]string{{"battery plus post", "battery minus post"}, {"engine block", "battery minus post"}} {
		for _, n := range pair {
			if el, err := p.Timeout(4 * time.Second).Element(`.probe[aria-label^="` + n + `"]`); err == nil {
				_ = el.Click("left", 1)
			}
		}
		if b, err := p.Timeout(2*time.Second).ElementR(".train-lower button", "^Read"); err == nil {
			_ = b.Click("left", 1)
		}
		if b, err := p.Timeout(1 * time.Second).Element(".ask-buttons button"); err == nil {
			_ = b.Click("left", 1)
		}
		time.Sleep(1200 * time.Millisecond)
	}
}

// openMachine opens the page of one machine.
func openMachine(p *rod.Page) {
	if el, err := p.Timeout(5*time.Second).ElementR("main a", "Pallet truck Burdock"); err == nil {
		_ = el.Click("left", 1)
		time.Sleep(1500 * time.Millisecond)
	}
}

// pressAll presses what is named, one after the other.
func pressAll(p *rod.Page, what string) {
	for _, x := range strings.Split(what, ";") {
		sel, text, ok := strings.Cut(x, "=")
		if !ok {
			continue
		}
		if el, err := p.Timeout(5*time.Second).ElementR(sel, text); err == nil {
			_ = el.Click("left", 1)
			time.Sleep(900 * time.Millisecond)
		} else {
			fmt.Fprintf(os.Stderr, "shots: nothing to press: %s\n", x)
		}
	}
}

func main() {
	out := flag.String("out", "docs/screenshots", "folder for the pictures")
	base := flag.String("base", "", "address of a running demo")
	only := flag.String("only", "", "take only the pictures whose name contains this")
	page := flag.String("page", "", "one picture of this page instead: machine/stage, or /address")
	width := flag.Int("w", 1280, "its width")
	height := flag.Int("h", 800, "its height")
	press := flag.String("press", "", "what is pressed first: selector=text, several by ;")
	as := flag.String("as", "", "who signs in")
	flag.Parse()
	if *page != "" {
		s := shot{name: "page", as: *as, path: *page, w: *width, h: *height, act: func(p *rod.Page) { pressAll(p, *press) }}
		if machine, stage, ok := strings.Cut(*page, "/"); ok && machine != "" {
			s.machine, s.path = machine, stage
		}
		shots = []shot{s}
	}
	if err := run(*out, *base, *only); err != nil {
		fmt.Fprintln(os.Stderr, "shots: "+err.Error())
		os.Exit(1)
	}
}

func run(out, base, only string) error {
	if base == "" {
		dir, err := os.MkdirTemp("/tmp", "corriente-shots-")
		if err != nil {
			return err
		}
		defer func() { _ = os.RemoveAll(dir) }()
		if err := os.Chmod(dir, 0o755); err != nil {
			return err
		}
		cmd := exec.Command("./bin/corriente", "demo", "--data", filepath.Join(dir, "db"), "--addr", "127.0.0.1:0")
		pipe, err := cmd.StdoutPipe()
		if err != nil {
			return err
		}
		if err := cmd.Start(); err != nil {
			return err
		}
		defer func() { _ = cmd.Process.Signal(syscall.SIGTERM); _ = cmd.Wait() }()
		sc := bufio.NewScanner(pipe)
		for sc.Scan() {
			if _, after, ok := strings.Cut(sc.Text(), "ready at "); ok {
				base, _, _ = strings.Cut(after, " ")
				break
			}
		}
		if base == "" {
			return fmt.Errorf("the demo did not start")
		}
	}
	b, done, err := e2e.Browser()
	if err != nil {
		return err
	}
	defer done()
	for _, s := range shots {
		if only != "" && !strings.Contains(s.name, only) {
			continue
		}
		if err := take(b, base, out, s); err != nil {
			return fmt.Errorf("%s: %w", s.name, err)
		}
		fmt.Println(s.name)
	}
	return nil
}

func take(b *rod.Browser, base, out string, s shot) error {
	inc, err := b.Incognito()
	if err != nil {
		return err
	}
	defer func() { _ = inc.Close() }()
	p, err := inc.Page(proto.TargetCreateTarget{URL: base})
	if err != nil {
		return err
	}
	p = p.Timeout(40 * time.Second)
	if err := e2e.Size(p, s.w, s.h); err != nil {
		return err
	}
	mode := "light"
	if s.dark {
		mode = "dark"
	}
	if _, err := p.Eval(`m => localStorage.setItem("corriente.mode", m)`, mode); err != nil {
		return err
	}
	p.MustElement("#login").MustInput(cmp.Or(s.as, "jory"))
	if s.path != "" {
		p.MustElement("#password").MustInput("apple-blossom")
		p.MustElement("button[type=submit]").MustClick()
		p.MustElement(".board")
		addr := base + s.path
		if s.machine != "" {
			if has, _, err := p.HasR(".jobrow", s.machine); err == nil && !has {
				p.MustElementR("button", "Show closed too").MustClick()
			}
			href := p.MustElementR(".jobrow", s.machine).MustProperty("href").String()
			addr = href[:strings.LastIndex(href, "/")+1] + s.path
		}
		p.MustNavigate(addr).MustWaitLoad()
		p.MustElement("main")
	}
	if err := e2e.Settle(p); err != nil {
		return err
	}
	if s.act != nil {
		s.act(p)
	}
	img, err := p.Screenshot(false, &proto.PageCaptureScreenshot{Format: proto.PageCaptureScreenshotFormatPng})
	if err != nil {
		return err
	}
	return os.WriteFile(filepath.Join(out, s.name+".png"), img, 0o644)
}
