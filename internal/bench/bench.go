package bench

import (
	"bufio"
	"context"
	"encoding/binary"
	"fmt"
	"math"
	"math/rand/v2"
	"net"
	"strconv"
	"strings"
	"sync"
	"time"

	"corriente/core/casefile"
	"corriente/core/circuit"
	"corriente/core/fault"
	"corriente/core/machine"
	"corriente/core/meter"
	"corriente/core/unit"
	"corriente/internal/scpi"
)

// Maker is how the bench's instruments name themselves first: whoever reads it
// knows that no person holds these probes.
const Maker = "Corriente simulated bench"

// Options of a bench.
type Options struct {
	Circuit *circuit.Circuit
	Faults  []string // as on the command line: motor.seized, pos_clamp.high_resistance=0.02ohm
	Seed    uint64
	Spread  float64 // log standard deviation of the true values; 0: nominal
	Leads   float64 // resistance of the meter's leads, Ω
	Ports   [3]int  // meter, clamp, scope; 0: any free one
	Slow    time.Duration
	Line    bool // a meter that reports over a serial line as well
}

// Bench is a running one.
type Bench struct {
	mu    sync.Mutex
	c     *circuit.Circuit
	mc    *machine.Machine
	rng   *rand.Rand
	leads float64
	slow  time.Duration

	state    string
	from, to string
	through  string
	since    time.Time // of the last change: displays take a moment

	dial unit.Measure // that the meter at the serial line stands on
	line *line

	listeners [3]net.Listener
	wg        sync.WaitGroup
	conns     map[net.Conn]struct{}
	closed    bool
}

// New makes the machine and opens the ports on loopback. Close ends it.
func New(ctx context.Context, o Options) (*Bench, error) {
	net_, err := circuit.Compile(o.Circuit)
	if err != nil {
		return nil, err
	}
	m, err := fault.NewModel(net_)
	if err != nil {
		return nil, err
	}
	rng := rand.New(rand.NewPCG(o.Seed, 7))
	var hidden []machine.Hidden
	for _, text := range o.Faults {
		f, sev, _, err := m.Parse(text)
		if err != nil {
			return nil, fmt.Errorf("--fault %w", err)
		}
		hidden = append(hidden, machine.Hidden{Fault: f, Severity: sev})
	}
	th := net_.Nominal()
	if o.Spread > 0 {
		th = machine.Spread(m, o.Spread, rng)
	}
	b := &Bench{c: o.Circuit, mc: machine.New(m, th, hidden, rng), rng: rng, leads: o.Leads, slow: o.Slow,
		state: o.Circuit.RunState, from: "bat_pos", to: circuit.Ground, since: time.Now(), conns: map[net.Conn]struct{}{}}
	if s := o.Circuit.State("rest"); s != nil {
		b.state = s.ID
	}
	b.dial = unit.Voltage
	if k := net_.MotorStation(); k >= 0 {
		b.through = o.Circuit.Stations[k].ID
	}
	for i, p := range o.Ports {
		l, err := (&net.ListenConfig{}).Listen(ctx, "tcp", net.JoinHostPort("127.0.0.1", strconv.Itoa(p)))
		if err != nil {
			b.Close()
			return nil, fmt.Errorf("port %d is taken: choose another with --ports, or 0 for any", p)
		}
		b.listeners[i] = l
		b.wg.Go(func() { b.accept(l, instruments[i]) })
	}
	if o.Line {
		if err := b.openLine(); err != nil {
			b.Close()
			return nil, err
		}
	}
	return b, nil
}

// Addrs returns where meter, clamp and scope listen.
func (b *Bench) Addrs() (meterAddr, clampAddr, scopeAddr string) {
	return b.listeners[0].Addr().String(), b.listeners[1].Addr().String(), b.listeners[2].Addr().String()
}

// Close ends all conversations and frees the ports.
func (b *Bench) Close() {
	b.mu.Lock()
	first := !b.closed
	b.closed = true
	for c := range b.conns {
		c.Close()
	}
	b.mu.Unlock()
	for _, l := range b.listeners {
		if l != nil {
			l.Close()
		}
	}
	if first && b.line != nil {
		close(b.line.stop)
	}
	b.wg.Wait()
}

type kind struct {
	name string
	in   meter.Instrument
	can  map[string]unit.Measure
}

var instruments = [3]kind{
	{"meter", meter.Handheld(), map[string]unit.Measure{"VOLT:DC": unit.Voltage, "VOLT": unit.Voltage,
		"VOLT:AC": unit.ACVoltage, "RES": unit.Resistance, "CAP": unit.Capacitance, "FREQ": unit.Frequency}},
	{"clamp", meter.Clamp(), map[string]unit.Measure{"CURR:DC": unit.Current, "CURR": unit.Current}},
	{"scope", meter.Clamp(), map[string]unit.Measure{"CURR:DC": unit.Current, "CURR": unit.Current}},
}

func (b *Bench) accept(l net.Listener, k kind) {
	for {
		c, err := l.Accept()
		if err != nil {
			return
		}
		b.mu.Lock()
		if b.closed {
			b.mu.Unlock()
			c.Close()
			return
		}
		b.conns[c] = struct{}{}
		b.mu.Unlock()
		b.wg.Go(func() {
			defer func() {
				b.mu.Lock()
				delete(b.conns, c)
				b.mu.Unlock()
				c.Close()
			}()
			(&talk{b: b, k: k, measure: k.first()}).serve(c)
		})
	}
}

func (k kind) first() unit.Measure {
	if k.name == "meter" {
		return unit.Voltage
	}
	return unit.Current
}

// talk is one conversation with one instrument.
type talk struct {
	b       *Bench
	k       kind
	measure unit.Measure
	errs    []string
}

func (t *talk) serve(c net.Conn) {
	sc := bufio.NewScanner(c)
	sc.Buffer(make([]byte, 0, 512), 4096)
	for sc.Scan() {
		for _, cmd := range strings.Split(sc.Text(), ";") {
			out := t.do(strings.TrimSpace(cmd))
			if out == nil {
				continue
			}
			if t.b.slow > 0 {
				time.Sleep(t.b.slow)
			}
			_ = c.SetWriteDeadline(time.Now().Add(10 * time.Second))
			if _, err := c.Write(append(out, '\n')); err != nil {
				return
			}
		}
	}
}

// long forms of the keywords that are understood (SCPI-99, 6.2.1).
var long = strings.NewReplacer("CONFIGURE", "CONF", "MEASURE", "MEAS", "FETCH", "FETC", "SYSTEM", "SYST", "ERROR", "ERR", ":NEXT", "",
	"VOLTAGE", "VOLT", "CURRENT", "CURR", "RESISTANCE", "RES", "CAPACITANCE", "CAP", "FREQUENCY", "FREQ", "VERSION", "VERS",
	"TRACE", "TRAC", "SIMULATE", "SIM", "STATE", "STAT", "PROBES", "PROB", "PROBE", "PROB", "THROUGH", "THR", "RATE", "RATE")

// do answers one command; nil is no answer.
func (t *talk) do(cmd string) []byte {
	head, arg, _ := strings.Cut(cmd, " ")
	arg = strings.TrimSpace(arg)
	head = long.Replace(strings.TrimPrefix(strings.ToUpper(head), ":"))
	say := func(s string) []byte { return []byte(s) }
	b := t.b
	switch head {
	case "":
		return nil
	case "*IDN?":
		return say(Maker + "," + t.k.name + ",0," + b.c.ID)
	case "*RST":
		t.measure = t.k.first()
		return nil
	case "*CLS":
		t.errs = nil
		return nil
	case "*OPC?":
		return say("1")
	case "SYST:VERS?":
		return say("1999.0")
	case "SYST:ERR?":
		if len(t.errs) == 0 {
			return say(`0,"No error"`)
		}
		e := t.errs[0]
		t.errs = t.errs[1:]
		return say(e)
	case "CONF?":
		return say(strconv.Quote(scpi.Function(t.measure)))
	case "READ?", "FETC?":
		return say(t.read())
	case "TRAC:DATA?":
		return t.trace()
	case "TRAC:RATE?":
		return say(strconv.Itoa(traceRate))
	case "SIM:STAT", "SIM:DIAL", "SIM:PROB", "SIM:THR":
		return t.simulate(head, arg)
	}
	verb, fn, _ := strings.Cut(head, ":")
	if m, ok := t.k.can[strings.TrimSuffix(fn, "?")]; ok && (verb == "CONF" || verb == "MEAS" && strings.HasSuffix(fn, "?")) {
		t.measure = m
		if verb == "MEAS" {
			return say(t.read())
		}
		return nil
	}
	return t.wrong(-113, "Undefined header")
}

// simulate does what a person at the bench does: switches something on, turns a dial, puts probes and clamp somewhere.
func (t *talk) simulate(head, arg string) []byte {
	b := t.b
	switch head {
	case "SIM:STAT":
		b.mu.Lock()
		defer b.mu.Unlock()
		if b.c.State(arg) == nil {
			return t.wrong(-224, "Illegal parameter value; no state "+arg)
		}
		if b.state != arg {
			b.state, b.since = arg, time.Now()
		}
		return nil
	case "SIM:DIAL":
		return t.turn(arg)
	case "SIM:PROB":
		red, black, ok := strings.Cut(arg, ",")
		b.mu.Lock()
		defer b.mu.Unlock()
		if !ok || b.c.NodeIndex(red) < 0 || b.c.NodeIndex(black) < 0 {
			return t.wrong(-224, "Illegal parameter value; probes go on two points of the circuit")
		}
		if b.from != red || b.to != black {
			b.from, b.to, b.since = red, black, time.Now()
		}
		return nil
	case "SIM:THR":
		b.mu.Lock()
		defer b.mu.Unlock()
		if b.c.StationIndex(arg) < 0 {
			return t.wrong(-224, "Illegal parameter value; no station "+arg)
		}
		if b.through != arg {
			b.through, b.since = arg, time.Now()
		}
		return nil

	}
	return nil
}

// wrong puts an error into the queue; a query that is not understood is not
// answered (IEEE 488.2, 6.3.1.8).
func (t *talk) wrong(code int, says string) []byte {
	if len(t.errs) < 20 {
		t.errs = append(t.errs, fmt.Sprintf("%d,%q", code, says))
	}
	return nil
}

// settling is the time constant of a display after probes or state have moved.
const settling = 250 * time.Millisecond

// read is one reading as the display shows it: the machine's, with the meter's
// own error, the last digit's unrest, and a moment until it has come.
func (t *talk) read() string {
	b := t.b
	b.mu.Lock()
	defer b.mu.Unlock()
	e := casefile.Evidence{Measure: t.measure, State: b.state, From: b.from, To: b.to}
	if t.measure == unit.Current {
		e.From, e.To, e.Through = "", "", b.through
	}
	st := b.c.State(b.state)
	powered := st.Supply != "none"
	if (t.measure == unit.Resistance || t.measure == unit.Capacitance) == powered {
		// Ohms on a live circuit, volts on a dead one: what the display shows means nothing.
		v := 0.0
		if powered {
			v = 0.1 + 30*b.rng.Float64()
		}
		return number(v)
	}
	if err := b.mc.Measure(&e, t.k.in); err != nil {
		t.wrong(-221, "Settings conflict; "+err.Error())
		return number(scpi.NaN)
	}
	if e.Value == "OL" {
		return number(scpi.Over)
	}
	v, err := strconv.ParseFloat(e.Value, 64)
	if err != nil {
		return number(scpi.NaN)
	}
	acc := t.k.in.For(t.measure)
	c := acc.Count(v)
	if t.measure == unit.Resistance {
		v += b.leads
	}
	v *= 1 - math.Exp(-float64(time.Since(b.since))/float64(settling))
	v += 0.35 * c * b.rng.NormFloat64()
	return number(math.Round(v/c) * c)
}

func number(v float64) string { return strconv.FormatFloat(v, 'E', 6, 64) }

// The scope's own figures: samples a second, and how many a trace has.
const (
	traceRate = 50000
	traceLen  = 20000
)

// trace is the motor's current as a block of little-endian float32, amperes, from
// the moment the state is entered.
func (t *talk) trace() []byte {
	if t.k.name != "scope" {
		return t.wrong(-113, "Undefined header")
	}
	b := t.b
	b.mu.Lock()
	defer b.mu.Unlock()
	x := b.mc.Trace(b.state, traceRate, traceLen)
	out := make([]byte, 4*len(x))
	for i, v := range x {
		binary.LittleEndian.PutUint32(out[4*i:], math.Float32bits(float32(v)))
	}
	n := strconv.Itoa(len(out))
	return append([]byte("#"+strconv.Itoa(len(n))+n), out...)
}
