package demo

import (
	"context"
	"fmt"
	"strings"
	"time"

	"corriente/core/casefile"
	"corriente/core/circuit"
	"corriente/core/diagnose"
	"corriente/core/parts"
	"corriente/internal/store"
)

// past are the workshop's jobs of earlier years: what was brought in, what it turned out
// to be, what was done. They were worked by hand: there are no readings behind them.
var past = []struct {
	machine, circuit, complaint, fault, option string
	days                                       int
	way                                        float64 // minutes to get at the motor, where somebody wrote it down
}{
	{"Orchard tractor 2", "starter", "Clicks once, starts after a knock.", "motor.brushes_worn", "repair", 1420, 40},
	{"Orchard tractor 2", "starter", "Clicks once again.", "motor.brushes_worn", "replace", 540, 35},
	{"Orchard tractor 3", "starter", "One click, nothing.", "motor.brushes_worn", "repair", 1210, 45},
	{"Mulcher", "starter", "Dead after the winter.", "motor.brushes_worn", "repair", 980, 50},
	{"Yard sweeper", "starter", "Turns after three tries.", "motor.brushes_worn", "repair", 870, 0},
	{"Crate forklift", "starter", "Slow in the morning.", "battery.weak", "replace", 760, 0},
	{"Ferry Waterlily, main engine", "starter", "Slow after hull paint.", "gnd_cable.high_resistance", "repair", 700, 0},
	{"Rescue boat Coot", "starter", "Chatters.", "battery.discharged", "repair", 660, 70},
	{"Frost fan west", "starter", "Clicks, nothing turns.", "motor.brushes_worn", "replace", 420, 0},
	{"Irrigation pump", "starter", "Cranks slowly.", "pos_clamp.high_resistance", "repair", 400, 0},
	{"Cider press lorry", "starter", "Silent.", "interlock.stuck_open", "replace", 330, 0},
	{"Delivery van Siskin", "wiper", "Wipers slow on both speeds.", "feed_wire.high_resistance", "repair", 300, 0},
	{"Market van Wren", "window", "Hatch window stops half way.", "drive.binding", "repair", 260, 0},
	{"Work punt Heron", "two_wire_motor", "Bilge pump hums, no water.", "drive.jammed", "repair", 210, 0},
}

// list is the shelf and a price list.
const list = `kind;name;number;size;price;days;stock;supplier
brush set;Brush set for starters, 7x11x16 mm;SH-01;7x11x16;0;;2;shelf
bearing;Ball bearing 6203, 17x40x12 mm;SH-02;17x40x12;0;;1;shelf
relay;Relay 12 V, 40 A;SH-03;;0;;4;shelf
brush set;Brush set for starters, 7x11x16 mm;HM-220;7x11x16;22,40;6;;Harbour motors
solenoid;Solenoid for starters 12 V;HM-310;;61;6;;Harbour motors
starter;Starter 12 V, 1.4 kW;HM-400;;236;8;;Harbour motors
starter;Starter 12 V, 1.4 kW, used;HM-401;;70;3;1;Harbour motors
bearing;Ball bearing 6204, 20x47x14 mm;HM-512;20x47x14;8,10;6;;Harbour motors
wiper motor;Wiper motor 12 V;HM-600;;128;10;;Harbour motors
blower;Heater blower 12 V;HM-610;;102;7;;Harbour motors
cable;Battery cable 35 mm2, a metre;HM-700;35 mm;9,20;6;;Harbour motors
`

// loadPast puts the earlier jobs, the lists and the workshop's name in place.
func loadPast(ctx context.Context, st *store.Store, byName map[string]store.Machine, now time.Time) error {
	for i, p := range past {
		c, err := circuit.Family(p.circuit)
		if err != nil {
			return err
		}
		station, mode, _ := strings.Cut(p.fault, ".")
		s := c.Station(station)
		if s == nil || s.Faults[mode] == 0 {
			return fmt.Errorf("demo: %s has no fault %s", p.circuit, p.fault)
		}
		opened := now.AddDate(0, 0, -p.days)
		closed := opened.Add(30 * time.Hour)
		a := s.Repair
		if p.option == "replace" || a == nil {
			a = s.Replace
		}
		price := a.Parts + a.Minutes/60*52
		key := fmt.Sprintf("%d %s", i, p.machine)
		j := &store.Job{ID: id("past", key), Machine: byName[p.machine], Complaint: p.complaint, OpenedAt: opened, ClosedAt: &closed,
			Case: &casefile.Case{Circuit: c, CircuitID: c.ID, NominalVoltage: c.NominalVoltage, AmbientC: 15, Job: &casefile.Job{}},
			Decisions: []store.Decision{{ID: id("past decision", key), Option: p.option, Station: station,
				Price: price, By: "customer", Label: a.Label, At: opened.Add(4 * time.Hour)}}}
		if p.way > 0 {
			j.Case.AccessMinutes = map[string]float64{"motor": p.way}
		}
		if err := st.CreateJob(ctx, j, nil); err != nil {
			return err
		}
		if err := st.PutOutcome(ctx, j.ID, store.Outcome{Station: station, Fault: p.fault, Option: p.option, At: closed}); err != nil {
			return err
		}
	}
	ls, err := parts.Read(strings.NewReader(list))
	if err != nil {
		return err
	}
	var ps []parts.Part
	for _, l := range ls {
		if l.Part == nil {
			return fmt.Errorf("demo list, line %d: %s", l.N, l.Wrong)
		}
		ps = append(ps, *l.Part)
	}
	if err := st.PutParts(ctx, ps); err != nil {
		return err
	}
	return st.PutSetting(ctx, "workshop", "The orchard cooperative's workshop, by the landing stage")
}

// outcome is what a closed demo job turned out to be: the fault that was hidden.
func outcome(d *job, j *store.Job, v diagnose.Verdict, advised float64) store.Outcome {
	readings := len(j.Case.Evidence)
	o := store.Outcome{Option: d.decide, Readings: readings, At: *j.ClosedAt}
	if len(d.faults) > 0 {
		o.Fault, _, _ = strings.Cut(d.faults[0], "=")
		o.Station, _, _ = strings.Cut(o.Fault, ".")
	}
	if v.Status == diagnose.Isolated || v.Status == diagnose.NothingWrong {
		o.P = &v.Probability
		if v.Station != nil {
			o.Said = *v.Station
		}
		o.Right = o.Said == o.Station
	}
	// Made up, as all of the demo: some were quicker than reckoned, most a little slower.
	minutes := advised * (0.8 + 0.07*float64(readings*5%13))
	o.Minutes, o.Advised = &minutes, &advised
	return o
}

// Supplier sets where the simulated supplier answers this time.
func Supplier(ctx context.Context, st *store.Store, address string) error {
	return st.PutSetting(ctx, "supplier", address)
}
