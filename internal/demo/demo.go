package demo

import (
	"context"
	"fmt"
	"math/rand/v2"
	"slices"
	"time"

	"github.com/google/uuid"

	"corriente/core/blink"
	"corriente/core/casefile"
	"corriente/core/circuit"
	"corriente/core/diagnose"
	"corriente/core/machine"
	"corriente/core/meter"
	"corriente/core/unit"
	"corriente/internal/password"
	"corriente/internal/store"
)

// Password of every demo user.
const Password = "apple-blossom"

// Users of the demo: login, name, role.
var Users = [][3]string{
	{"wanda", "Wanda (owner)", "owner"},
	{"jory", "Jory (technician)", "technician"},
	{"pip", "Pip (apprentice)", "trainee"},
	{"counter", "Counter", "counter"},
}

var machines = []struct{ name, kind, place, note string }{
	{"Orchard tractor 1", "tractor", "upper orchard", "pulls the sprayer"},
	{"Orchard tractor 2", "tractor", "upper orchard", "narrow track"},
	{"Orchard tractor 3", "tractor", "lower orchard", "front loader"},
	{"Delivery van Linnet", "van", "yard", "cold box"},
	{"Delivery van Siskin", "van", "yard", "long wheelbase"},
	{"Market van Wren", "van", "market square", "sales hatch"},
	{"Ferry Waterlily, main engine", "boat", "landing stage", "twelve passengers"},
	{"Ferry Waterlily, generator", "boat", "landing stage", "lights and pumps"},
	{"Work punt Heron", "boat", "boathouse", "reed cutting"},
	{"Rescue boat Coot", "boat", "landing stage", "must always start"},
	{"Cider press lorry", "lorry", "press house", "tipper"},
	{"Harvest platform 1", "lift", "lower orchard", "picking height 3 m"},
	{"Harvest platform 2", "lift", "upper orchard", "picking height 3 m"},
	{"Crate forklift", "lift", "cold store", "engine driven"},
	{"Yard sweeper", "cart", "yard", ""},
	{"Mulcher", "tractor", "lower orchard", "own engine"},
	{"Frost fan east", "engine", "upper orchard", "runs on frost nights"},
	{"Frost fan west", "engine", "lower orchard", "runs on frost nights"},
	{"Irrigation pump", "engine", "lake shore", "trailer"},
	{"Visitors' cart train", "cart", "farm shop", "two wagons"},
	{"Picking cart Teasel", "battery cart", "lower orchard", "24 V, four pickers"},
	{"Pallet truck Burdock", "pallet truck", "cold store", "24 V"},
	{"Cold store fan", "mains fan", "cold store", "120 V, 60 Hz"},
}

// ages are how many years ago machines were built, where the workshop knows it.
var ages = map[string]int{"Orchard tractor 1": 17, "Orchard tractor 2": 21, "Orchard tractor 3": 9,
	"Delivery van Linnet": 4, "Delivery van Siskin": 8, "Market van Wren": 13,
	"Ferry Waterlily, main engine": 26, "Work punt Heron": 11, "Rescue boat Coot": 3, "Cider press lorry": 15,
	"Mulcher": 18, "Picking cart Teasel": 6}

type job struct {
	machine   string
	circuit   string // "": starter
	complaint string
	when      []string
	history   string
	faults    []string // hidden; empty with looks 0: nothing was taken yet
	looks     int      // steps of the adviser
	walk      []string // nodes then read against battery minus while cranking
	days      int      // opened so many days ago
	decide    string
	closed    bool
	seed      uint64

	controller string // whose blink codes are read

	bench, person string
	wait          string // kind of what it waits for
	waitNote      string
	waitHours     int // from now until it is there; 0: nobody knows
}

var jobs = []job{
	{machine: "Orchard tractor 3", complaint: "Turns slower every morning since the first frost, this morning it only clicked.",
		when: []string{"cold"}, history: "New battery in spring.",
		faults: []string{"main_contact.high_resistance=0.06ohm"}, looks: 1,
		walk: []string{"bat_pos", "pos_cable_start", "sol_b"}, days: 0, seed: 11},
	{machine: "Delivery van Linnet", complaint: "Silent when the key is turned, lamps stay bright.",
		faults: []string{"interlock.stuck_open"}, looks: 4, days: 0, seed: 12},
	{machine: "Ferry Waterlily, main engine", complaint: "Cranks slowly, worse with passengers waiting.",
		when: []string{"wet"}, history: "Ground cable was off for the hull paint.",
		faults: []string{"gnd_cable.high_resistance=0.012ohm"}, looks: 20, days: 1, seed: 13},
	{machine: "Rescue boat Coot", complaint: "Chatters, then nothing.", when: []string{"cold", "wet"},
		faults: []string{"battery.discharged=9.6V"}, looks: 20, days: 1, decide: "replace", seed: 14, bench: "jetty",
		person: "jory", wait: "parts", waitNote: "battery, 70 Ah", waitHours: -20},
	{machine: "Cider press lorry", complaint: "One clunk, nothing turns. A knock with the handle helped twice.",
		history: "Starter never touched.", faults: []string{"motor.brushes_worn=0.9ohm"}, looks: 20, days: 2, seed: 15},
	{machine: "Harvest platform 1", complaint: "Starter whirrs, engine stands still.",
		faults: []string{"drive.slipping"}, looks: 20, days: 2, decide: "replace", seed: 16, bench: "bench 1",
		person: "pip", wait: "parts", waitNote: "pinion and clutch", waitHours: 50},
	{machine: "Market van Wren", complaint: "Dead on Saturday, fine on Sunday.", when: []string{"hot"}, days: 0, seed: 17},
	{machine: "Frost fan east", complaint: "Does not crank.", when: []string{"cold"}, days: 0, seed: 18},
	{machine: "Irrigation pump", complaint: "Slow crank after a winter in the shed.", when: []string{"cold"},
		faults: []string{"pos_clamp.high_resistance=0.02ohm"}, looks: 2, days: 3, seed: 19, bench: "yard",
		wait: "cold_start", waitHours: 18},
	{machine: "Crate forklift", complaint: "Blows the start fuse now and then; silent today.",
		faults: []string{"start_fuse.open"}, looks: 20, days: 3, decide: "repair", seed: 20},
	{machine: "Orchard tractor 1", complaint: "Turned slower and slower, smelled hot.", when: []string{"hot"},
		faults: []string{"motor.bearing_drag=x14"}, looks: 20, days: 5, decide: "replace", closed: true, seed: 21},
	{machine: "Work punt Heron", complaint: "Silent. Start wire looks green.", when: []string{"wet"},
		faults: []string{"control_wire.open"}, looks: 20, days: 6, decide: "repair", closed: true, seed: 22},
	{machine: "Delivery van Siskin", complaint: "Customer says it cranked slowly once.", faults: []string{},
		looks: 20, days: 8, closed: true, seed: 23},
	{machine: "Yard sweeper", complaint: "Clicks, sometimes starts at the third try.",
		faults: []string{"coil.sticking"}, looks: 20, days: 9, decide: "replace", closed: true, seed: 24},
	{machine: "Delivery van Linnet", circuit: "blower_module",
		complaint: "Heater fan dead since yesterday, plug smells.", when: []string{"wet"},
		faults: []string{"motor_connector.open"}, looks: 3, days: 1, seed: 31},
	{machine: "Market van Wren", circuit: "window",
		complaint: "Hatch window goes down but not up, sometimes it works with the door open.",
		faults:    []string{"jamb_wire_a.high_resistance=1.9ohm"}, looks: 3, days: 0, seed: 32},
	{machine: "Delivery van Siskin", circuit: "wiper", complaint: "Wipers only on fast.", when: []string{"wet"},
		faults: []string{"motor.low_brush_worn=open"}, looks: 20, days: 2, seed: 33},
	{machine: "Picking cart Teasel", circuit: "traction", complaint: "Does not drive, lamp flashes.",
		faults: []string{"motor.brushes_worn=open"}, looks: 2, days: 1, controller: "Reed 24", seed: 34},
	{machine: "Work punt Heron", circuit: "two_wire_motor", complaint: "Bilge pump silent, float moves freely.",
		when: []string{"wet"}, faults: []string{"ground_point.high_resistance=4ohm"}, looks: 20, days: 3, seed: 35,
		wait: "customer", waitNote: "asked on the telephone"},
	{machine: "Ferry Waterlily, generator", circuit: "contactor_motor",
		complaint: "Generator cranks slowly, charger hangs on the battery.", faults: []string{"battery.weak=x7"},
		looks: 20, days: 4, decide: "replace", closed: true, seed: 36},
	{machine: "Mulcher", complaint: "Does not turn, battery is new, jumper cables did not help.",
		history: "Rewired by the previous owner.", faults: []string{"neg_clamp.open"}, looks: 1, days: 4, seed: 25},
}

// tables of blink codes: one controller, which flashes other meanings in another
// machine.
var tables = []blink.Table{
	{Controller: "Reed 24", Circuit: "traction", Entries: []blink.Entry{
		{Code: 2, Says: "Throttle not at rest at key-on", Faults: []string{"throttle.out_of_neutral"}},
		{Code: 3, Says: "Motor circuit open",
			Faults: []string{"motor.brushes_worn", "motor.winding_open", "motor_connector.open", "motor_return.open"}},
		{Code: 4, Says: "Interlock open", Faults: []string{"interlock.stuck_open"}},
		{Code: 8, Says: "Brake circuit open", Faults: []string{"brake_coil.open"}}}},
	{Controller: "Reed 24", Machine: "pallet truck", Circuit: "traction", Entries: []blink.Entry{
		{Code: 2, Says: "Tiller switch open", Faults: []string{"interlock.stuck_open"}},
		{Code: 3, Says: "Brake circuit open", Faults: []string{"brake_coil.open"}},
		{Code: 4, Says: "Throttle not at rest at key-on", Faults: []string{"throttle.out_of_neutral"}},
		{Code: 8, Says: "Motor circuit open",
			Faults: []string{"motor.brushes_worn", "motor.winding_open", "motor_connector.open", "motor_return.open"}}}},
	{Controller: "Sedge 12", Circuit: "actuator", Entries: []blink.Entry{
		{Code: 7, Says: "Actuator motor circuit out of range",
			Faults: []string{"motor.brushes_worn", "motor.winding_open", "motor.shorted_turns", "harness_a.open", "harness_b.open"}}}},
}

var space = uuid.MustParse("6ba7b812-9dad-11d1-80b4-00c04fd430c8")

func id(kind, name string) uuid.UUID {
	return uuid.NewSHA1(space, []byte("corriente demo "+kind+" "+name))
}

// stripped is the cider press lorry's starter as it came apart.
var stripped = []string{
	"unplug battery minus, taped back",
	"13 mm nut, washer, large washer",
	"unplug solenoid plug, brown",
	"2x M10 long bolt 45 Nm, upper one thin, breaks",
	"starter",
	"mark: end cap to case",
	"3x 8 mm nut at solenoid",
	"solenoid, plunger with spring",
	"2x long through bolt 6 Nm",
	"end cap, thrust washer inside",
	"brush plate",
	"brushes worn, one pigtail short",
	"armature",
}

// Load puts the demo data into an empty database. Loading it again adds
// nothing.
func Load(ctx context.Context, st *store.Store, now time.Time) error {
	if err := loadWork(ctx, st, now); err != nil {
		return err
	}
	// Users come last: a database with users is one that was loaded whole.
	hash, err := password.Hash(Password)
	if err != nil {
		return err
	}
	for _, u := range Users {
		if err := st.PutUser(ctx, store.User{ID: id("user", u[0]), Login: u[0], Name: u[1], Role: u[2], Hash: hash}); err != nil {
			return err
		}
	}
	return nil
}

// LoadForLook puts the demo's machines and jobs into a workshop that has none yet. Its people have no password and
// cannot sign in: the demo's own is known to everybody.
func LoadForLook(ctx context.Context, st *store.Store, now time.Time) error {
	for _, u := range Users {
		x := store.User{ID: id("user", u[0]), Login: "demo-" + u[0], Name: u[1], Role: "technician"}
		if err := st.AddUser(ctx, x, store.Act{}); err != nil {
			return err
		}
		if err := st.Suspend(ctx, x.ID, true, store.Act{}); err != nil {
			return err
		}
	}
	return loadWork(ctx, st, now)
}

// People are the ids of the demo's people.
func People() []uuid.UUID {
	var out []uuid.UUID
	for _, u := range Users {
		out = append(out, id("user", u[0]))
	}
	return out
}

// loadWork loads what the demo's workshop did.
func loadWork(ctx context.Context, st *store.Store, now time.Time) error {
	byName := map[string]store.Machine{}
	for _, m := range machines {
		x := store.Machine{ID: id("machine", m.name), Name: m.name, Kind: m.kind, Place: m.place, Voltage: voltage(m.kind), Note: m.note}
		if years, known := ages[m.name]; known {
			x.Built = now.Year() - years
		}
		if err := st.PutMachine(ctx, x); err != nil {
			return err
		}
		byName[m.name] = x
	}
	for _, t := range tables {
		if err := st.PutCodeTable(ctx, t, nil); err != nil {
			return err
		}
	}
	advisers := map[string]*diagnose.Adviser{}
	for i := range jobs {
		d := &jobs[i]
		if d.circuit == "" {
			d.circuit = "starter"
		}
		if advisers[d.circuit] == nil {
			f, err := circuit.Family(d.circuit)
			if err != nil {
				return err
			}
			if advisers[d.circuit], err = diagnose.NewAdviser(f); err != nil {
				return err
			}
		}
		if err := (&loading{st, byName, now}).job(ctx, advisers[d.circuit], d); err != nil {
			return fmt.Errorf("demo job %s: %w", jobs[i].machine, err)
		}
	}
	if err := loadPast(ctx, st, byName, now); err != nil {
		return err
	}
	if err := loadProved(ctx, st, byName, now); err != nil {
		return fmt.Errorf("demo job with two repairs: %w", err)
	}
	for i, line := range stripped {
		if err := st.AddStrip(ctx, id("job", "Cider press lorry starter"),
			store.NewLine{ID: id("strip", line), Text: line}, uuid.Nil); err != nil {
			return fmt.Errorf("demo strip-down, line %d: %w", i+1, err)
		}
	}
	return nil
}

// schedule says where a job stands, who has it and what it waits for. People come last, so that a
// person is only given once they are there.
func schedule(ctx context.Context, st *store.Store, job uuid.UUID, d *job, now time.Time) error {
	if d.bench != "" {
		var person *uuid.UUID
		if d.person != "" {
			p := id("user", d.person)
			person = &p
		}
		if err := st.PutSchedule(ctx, job, d.bench, person); err != nil {
			return err
		}
	}
	if d.wait == "" {
		return nil
	}
	w := store.Wait{ID: id("wait", d.machine), Job: job, Kind: d.wait, Note: d.waitNote}
	if d.waitHours != 0 {
		until := now.Add(time.Duration(d.waitHours) * time.Hour).Truncate(time.Hour)
		w.Until = &until
	}
	return st.PutWait(ctx, w, uuid.Nil)
}

// loading is the demo's data on its way into a database.
type loading struct {
	st       *store.Store
	machines map[string]store.Machine // by name
	now      time.Time
}

// job stores one job as far as it came.
func (l *loading) job(ctx context.Context, a *diagnose.Adviser, d *job) error {
	st, byName, now := l.st, l.machines, l.now
	opened := now.Add(-time.Duration(d.days)*24*time.Hour - time.Duration(d.seed)*7*time.Minute)
	c := &casefile.Case{Circuit: a.C.Clone(), CircuitID: a.C.ID, NominalVoltage: a.C.NominalVoltage, AmbientC: 14,
		Job: &casefile.Job{When: d.when, History: d.history}}
	if d.controller != "" {
		ch := blink.Choose(tables, d.controller, byName[d.machine].Kind)
		c.Job.Controller, c.Codes, c.Known.CodesTrust = d.controller, ch.Table.Codes(), ch.Trust
	}
	j := &store.Job{ID: id("job", d.machine+" "+d.circuit), Machine: byName[d.machine], Case: c, Complaint: d.complaint, OpenedAt: opened}
	op, err := work(ctx, a, d, j, opened)
	if err != nil {
		return err
	}
	if d.decide != "" && op.Verdict.Station != nil {
		s := a.C.Station(*op.Verdict.Station)
		act := s.Repair
		if d.decide == "replace" {
			act = s.Replace
		}
		j.Decisions = append(j.Decisions, store.Decision{ID: id("decision", d.machine+" "+d.circuit), Option: d.decide, Station: s.ID,
			Price: act.Parts + act.Minutes/60*58, Reason: "agreed on the telephone", By: "customer", Label: act.Label,
			Found: op.Verdict.Plain, Life: act.LifeYears, At: opened.Add(3 * time.Hour)})
	}
	if d.closed {
		t := opened.Add(26 * time.Hour)
		j.ClosedAt = &t
	}
	if err := st.CreateJob(ctx, j, nil); err != nil {
		return err
	}
	saved, err := st.Job(ctx, j.ID)
	if err != nil {
		return err
	}
	v := op.Verdict
	if err := st.PutVerdict(ctx, j.ID, saved.Revision,
		store.Verdict{Reasoning: op.Reasoning, Status: v.Status, Station: v.Station, Probability: v.Probability,
			Says: v.Says, Result: []byte("{}")}); err != nil {
		return err
	}
	if err := schedule(ctx, st, j.ID, d, now); err != nil {
		return err
	}
	if j.ClosedAt != nil {
		return st.PutOutcome(ctx, j.ID, outcome(d, j, v, a.Spent(&diagnose.Job{Evidence: j.Case.Evidence})))
	}
	return nil
}

// work hides the faults in a simulated machine and takes the readings that the
// adviser asks for.
func work(ctx context.Context, a *diagnose.Adviser, d *job, j *store.Job, opened time.Time) (*diagnose.Opinion, error) {
	rng := rand.New(rand.NewPCG(2026, d.seed))
	var hidden []machine.Hidden
	for _, t := range d.faults {
		f, sev, _, err := a.Model.Parse(t)
		if err != nil {
			return nil, err
		}
		hidden = append(hidden, machine.Hidden{Fault: f, Severity: sev})
	}
	m := machine.New(a.Model, machine.Spread(a.Model, 0.15, rng), hidden, rng)
	dj := &diagnose.Job{Brief: true, When: d.when, Codes: j.Case.Codes, Known: j.Case.Known}
	take := func(e casefile.Evidence) error {
		n := len(dj.Evidence)
		e.ID = id("evidence", fmt.Sprint(d.machine, " ", d.circuit, n)).String()
		e.TakenAt = opened.Add(time.Duration(8+4*n) * time.Minute).UTC().Truncate(time.Microsecond).Format(time.RFC3339Nano)
		if e.Observe != "" {
			e.Outcome = a.Answer(m.Truth(), e.Observe, e.State, dj.Codes, rng)
		} else if err := m.Measure(&e, meter.Default(e.Measure)); err != nil {
			return err
		}
		if p := e.Check(a.C, nil); p != nil {
			return p
		}
		dj.Evidence = append(dj.Evidence, e)
		return nil
	}
	if d.looks > 0 {
		for _, o := range []string{"turning", "click", "airflow", "sweep", "glass_moves", "moves", "blink_code"} {
			if x := a.C.Observation(o); x == nil || !slices.Contains(x.States, a.C.RunState) {
				continue
			}
			if err := take(casefile.Evidence{Observe: o, State: a.C.RunState}); err != nil {
				return nil, err
			}
		}
	}
	op, err := a.Weigh(ctx, dj)
	for k := len(dj.Evidence); err == nil && k < d.looks && len(op.Next) > 0; k++ {
		if op.Verdict.Status == diagnose.Isolated || op.Verdict.Status == diagnose.NothingWrong {
			break
		}
		n := op.Next[0]
		if err := take(casefile.Evidence{Measure: unit.Measure(n.Measure), Observe: n.Observe, State: n.State,
			From: n.From, To: n.To, Through: n.Through}); err != nil {
			return nil, err
		}
		op, err = a.Weigh(ctx, dj)
	}
	for _, n := range d.walk {
		if err := take(casefile.Evidence{Measure: unit.Voltage, State: a.C.RunState, From: n, To: circuit.Ground}); err != nil {
			return nil, err
		}
	}
	if len(d.walk) > 0 {
		op, err = a.Weigh(ctx, dj)
	}
	j.Case.Evidence = dj.Evidence
	// Who read in a state had read its caution.
	for i := range dj.Evidence {
		if st := dj.Evidence[i].State; dj.Evidence[i].Measure != "" && !slices.Contains(j.Case.Job.Acknowledged, st) {
			j.Case.Job.Acknowledged = append(j.Case.Job.Acknowledged, st)
		}
	}
	return op, err
}

func voltage(kind string) float64 {
	switch kind {
	case "battery cart", "pallet truck":
		return 24
	case "mains fan":
		return 120
	}
	return 12
}
