package demo

import (
	"context"
	"fmt"
	"math/rand/v2"
	"slices"
	"strings"
	"time"

	"github.com/google/uuid"

	"corriente/core/casefile"
	"corriente/core/circuit"
	"corriente/core/diagnose"
	"corriente/core/machine"
	"corriente/core/meter"
	"corriente/core/record"
	"corriente/core/repair"
	"corriente/core/unit"
	"corriente/internal/store"
	"corriente/internal/workshop"
)

// patience is how long one answer of the adviser may take while the demo is made.
const patience = 5 * time.Minute

// loadProved works one job through from the complaint to the signed proof, by the same
// service that people use: a burnt connector, and behind it a worn motor.
func loadProved(ctx context.Context, st *store.Store, byName map[string]store.Machine, now time.Time) error {
	const name, family = "Pallet truck Burdock", "traction"
	f, err := circuit.Family(family)
	if err != nil {
		return err
	}
	a, err := diagnose.NewAdviser(f)
	if err != nil {
		return err
	}
	p := &provedJob{st: st, ws: &workshop.Service{Store: st, Advisers: workshop.NewAdvisers(patience)}, a: a,
		id: id("job", name+" proved"), rng: rand.New(rand.NewPCG(2026, 41)), at: now.Add(-5 * time.Hour)}
	if j, err := st.Job(ctx, p.id); err == nil && len(j.Proofs) > 0 {
		return nil // loaded before
	}
	for _, x := range []string{"motor_connector.open", "motor.brushes_worn=0.9ohm"} {
		fl, sev, _, err := a.Model.Parse(x)
		if err != nil {
			return err
		}
		p.bad = append(p.bad, machine.Hidden{Fault: fl, Severity: sev})
	}
	j := &store.Job{ID: p.id, Machine: byName[name],
		Complaint: "Stands still under load, the plug at the motor smells burnt.", OpenedAt: p.at,
		Case: &casefile.Case{Circuit: f.Clone(), CircuitID: f.ID, NominalVoltage: f.NominalVoltage, AmbientC: 8, Job: &casefile.Job{}}}
	if err := st.CreateJob(ctx, j, nil); err != nil {
		return err
	}
	if err := p.repair(ctx, "New connector crimped on, housing replaced", 64); err != nil {
		return err
	}
	if err := p.sign(ctx, "failed", "runs, but slowly and weak"); err != nil {
		return err
	}
	if err := p.repair(ctx, "New brushes with their springs, commutator cleaned", 171.5); err != nil {
		return err
	}
	return p.sign(ctx, "passed", "")
}

type provedJob struct {
	st  *store.Store
	ws  *workshop.Service
	a   *diagnose.Adviser
	id  uuid.UUID
	rng *rand.Rand
	bad []machine.Hidden
	at  time.Time // of the next reading, while nothing is repaired; then they are taken now
	now bool
	n   int
}

func (p *provedJob) made(kind string) uuid.UUID {
	p.n++
	return id(kind, fmt.Sprint(p.id, p.n))
}

// take answers one question from the machine as it stands.
func (p *provedJob) take(ctx context.Context, e casefile.Evidence) error {
	m := machine.New(p.a.Model, machine.Spread(p.a.Model, 0.1, rand.New(rand.NewPCG(3, 3))), p.bad, p.rng)
	if e.Observe != "" {
		for said := map[string]int{}; e.Outcome == ""; { // asked until it is clear
			x := p.a.Answer(m.Truth(), e.Observe, e.State, nil, p.rng)
			if said[x]++; said[x] == 3 {
				e.Outcome = x
			}
		}
	} else if err := m.Measure(&e, meter.Default(e.Measure)); err != nil {
		return err
	}
	if p.now {
		p.at = time.Now()
	}
	e.ID, e.TakenAt = p.made("evidence").String(), p.at.UTC().Truncate(time.Microsecond).Format(time.RFC3339Nano)
	p.at = p.at.Add(4 * time.Minute)
	if prob := e.Check(p.a.C, nil); prob != nil {
		return prob
	}
	_, err := p.st.AddEvidence(ctx, p.id, []casefile.Evidence{e}, uuid.Nil)
	return err
}

// repair measures to a verdict, takes the plan that costs least, and records the work.
func (p *provedJob) repair(ctx context.Context, what string, price float64) error {
	for range 25 {
		j, err := p.st.Job(ctx, p.id)
		if err != nil {
			return err
		}
		op, err := p.ws.Advisers.Weigh(ctx, j)
		if err != nil {
			return err
		}
		if op.Verdict.Status == diagnose.Isolated || len(op.Next) == 0 {
			break
		}
		n := op.Next[0]
		if err := p.take(ctx, casefile.Evidence{Measure: unit.Measure(n.Measure), Observe: n.Observe, State: n.State,
			From: n.From, To: n.To, Through: n.Through}); err != nil {
			return err
		}
	}
	j, err := p.st.Job(ctx, p.id)
	if err != nil {
		return err
	}
	terms := repair.Terms{HourRate: 58, LossPerDay: 25, Years: 4, Comeback: 60, Postage: 8}
	cmp, err := p.ws.Compare(ctx, j, record.Compare{Terms: terms})
	if err != nil {
		return err
	}
	i := slices.IndexFunc(cmp.Options, func(o repair.Option) bool {
		return len(o.Steps) > 0 && o.Veto == nil && !o.Temporary && o.CuresThis > 0.5
	})
	if i < 0 {
		return fmt.Errorf("nothing cures %s", j.Complaint)
	}
	d := p.made("decision")
	if j, err = p.ws.Decide(ctx, j, record.Choice{ID: d.String(), Option: cmp.Options[i].ID, Price: price,
		By: "customer", Who: "Cold store", Reason: "needed for the apples on Friday",
		Compare: record.Compare{Terms: terms}, At: time.Now()}, uuid.Nil); err != nil {
		return err
	}
	if _, err = p.ws.Done(ctx, j, record.Work{ID: p.made("work").String(), Decision: d.String(), What: what}, uuid.Nil); err != nil {
		return err
	}
	for _, id := range j.Decisions[len(j.Decisions)-1].All() {
		p.bad = slices.DeleteFunc(p.bad, func(h machine.Hidden) bool { return h.Fault.Station == id })
	}
	p.now = true
	return p.st.PutCosts(ctx, p.id, d, store.Costs{Parts: price / 3, Minutes: 40, Price: price}, uuid.Nil)
}

// sign takes the checks of the proof and signs.
func (p *provedJob) sign(ctx context.Context, result, remark string) error {
	j, err := p.st.Job(ctx, p.id)
	if err != nil {
		return err
	}
	v, err := p.ws.Proof(ctx, j)
	if err != nil {
		return err
	}
	for _, k := range v.Checks {
		if k.Passed == nil {
			if err := p.take(ctx, casefile.Evidence{Measure: unit.Measure(k.Measure), Observe: k.Observe,
				State: k.State, From: k.From, To: k.To, Through: k.Through}); err != nil {
				return err
			}
		}
	}
	for _, t := range v.Ticks {
		if err := p.st.PutTick(ctx, p.id, t.ID, "yes"); err != nil {
			return err
		}
	}
	if j, err = p.st.Job(ctx, p.id); err != nil {
		return err
	}
	_, err = p.ws.Sign(ctx, j, record.Signature{ID: p.made("proof").String(), Result: result, Remark: remark,
		Signed: strings.TrimSuffix(Users[1][1], " (technician)"), Counter: "2 318 h"}, uuid.Nil)
	return err
}
