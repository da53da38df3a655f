package circuit

import (
	"fmt"
	"io"
	"math"
	"math/cmplx"
)

// WriteNetlist writes the circuit of the last [Work.Solve] (or SolvePhase) as a
// SPICE netlist whose nodes bear their ids and which prints all of them. The
// motor is written as its own equations, so a simulator solves it anew: its
// speed is the voltage of the node motor_speed, in rad/s.
func (w *Work) WriteNetlist(out io.Writer, title string) error {
	n := w.net
	if sup := n.C.States[w.st].Supply; sup == "running" || sup == "mains" {
		return w.writeACNetlist(out, title)
	}
	ew := &errWriter{w: out}
	p := ew.line
	p("* %s", title)
	p("* state %s; ground is %s; SI units", n.C.States[w.st].ID, n.nodeID(n.ground))
	if w.Chatter {
		p("* the coil cannot hold its contact: this is the phase with the contact open")
	}
	p(".options gmin=1e-13 reltol=1e-6 abstol=1e-9 vntol=1e-7 itl1=2000")
	p("Vground %s 0 0", n.nodeID(n.ground))
	p("Rground %s 0 1e9", n.nodeID(n.ground))
	w.writeElements(p)
	if w.hasM {
		w.writeMotor(p)
	}
	// A node with nothing on it still gets an equation.
	for i := range n.C.Nodes {
		if i != n.ground {
			p("Rleak_%s %s 0 1e12", n.nodeID(i), n.nodeID(i))
		}
	}
	p(".control")
	p("set numdgt=9")
	p("op")
	for i := range n.C.Nodes {
		p("print v(%s)", n.nodeID(i))
	}
	if w.hasM {
		p("print v(motor_speed)")
	}
	p("quit")
	p(".endc")
	p(".end")
	return ew.err
}

func (n *Network) nodeID(i int) string { return n.C.Nodes[i].ID }

// writeElements writes resistors and sources, and a charger that limits its current.
func (w *Work) writeElements(p func(format string, a ...any)) {
	n := w.net
	lead := 0
	for i, e := range w.el {
		id := fmt.Sprintf("lead%d", lead)
		if e.station >= 0 {
			id = n.C.Stations[e.station].ID
		} else {
			lead++
		}
		a, b := n.nodeID(e.a), n.nodeID(e.b)
		if x := w.emfs[i]; x != 0 {
			p("V%s %s %s_internal %.12g", id, a, id, x)
			p("R%s %s_internal %s %.12g", id, id, b, 1/e.g)
			continue
		}
		note := ""
		if w.isOp[i] {
			note = " ; open"
		}
		p("R%s %s %s %.12g%s", id, a, b, 1/e.g, note)
	}
	if w.float == chargerLimits {
		p("Icharger %s %s %.12g", n.nodeID(w.b[n.charger]), n.nodeID(w.a[n.charger]), w.param(n.charger, slotLimit))
	}
}

// writeMotor writes the motor's own equations, and the solution as where a simulator begins.
func (w *Work) writeMotor(p func(format string, a ...any)) {
	n := w.net
	a, b, m := n.nodeID(w.a[n.motor]), n.nodeID(w.b[n.motor]), w.m
	if w.sgn < 0 {
		a, b = b, a
	}
	p("* motor: v = R i + Vb tanh(i/i0) + ke w ; ke i = friction tanh(w/w0) + load (w/rated)^n + drag w")
	p("Vmotor_sense %s motor_1 0", a)
	p("Rmotor motor_1 motor_2 %.12g", m.Resistance)
	phi := "1"
	if m.Series {
		phi = fmt.Sprintf("abs(i(Vmotor_sense))/sqrt(i(Vmotor_sense)^2+%.12g)", m.SatCurrent*m.SatCurrent)
	}
	if m.Seized {
		p("Bmotor motor_2 %s V=%.12g*tanh(i(Vmotor_sense)/%.12g)", b, m.BrushDrop, m.BrushKnee)
		p("Rmotor_speed motor_speed 0 1")
	} else {
		p("Bmotor motor_2 %s V=%.12g*tanh(i(Vmotor_sense)/%.12g)+%.12g*%s*v(motor_speed)", b, m.BrushDrop, m.BrushKnee, m.Ke, phi)
		// Torque balance as a node: what the armature gives flows in, what
		// holds it flows out; below zero speed a stiff stop pushes back.
		x := fmt.Sprintf("max(v(motor_speed),0)/%.12g", m.RatedSpeed)
		load := fmt.Sprintf("%.12g", m.Load)
		switch m.LoadPower {
		case 1:
			load += "*" + x
		case 2:
			load += "*(" + x + ")^2"
		}
		p("Btorque 0 motor_speed I=%.12g*%s*i(Vmotor_sense)-%.12g*tanh(v(motor_speed)/%.12g)-%s"+
			"-%.12g*v(motor_speed)-1e4*min(v(motor_speed),0)",
			m.Ke, phi, m.Friction, m.SpeedKnee, load, m.Drag)
		p("Rmotor_speed motor_speed 0 1e12")
	}
	speed := w.Motor.W
	if w.Motor.Stalled && !m.Seized {
		speed = -math.Max(m.Load-w.Torque(), 0) / 1e4 // against the stop
		if m.LoadPower > 0 {
			speed = 0
		}
	}
	p(".nodeset v(motor_speed)=%.6g", speed)
	for i := range n.C.Nodes {
		if i != n.ground {
			p(".nodeset v(%s)=%.6g", n.nodeID(i), w.V[i])
		}
	}
}

// writeACNetlist writes a running state as a SPICE small-signal circuit at its
// frequency. Node voltages are printed as magnitude and phase, V rms.
func (w *Work) writeACNetlist(out io.Writer, title string) error {
	n := w.net
	name := func(i int) string { return n.C.Nodes[i].ID }
	ew := &errWriter{w: out}
	p := func(format string, a ...any) { fmt.Fprintf(ew, format+"\n", a...) }
	p("* %s", title)
	p("* state %s at %g Hz; ground is %s; SI units, rms", n.C.States[w.st].ID, n.C.Frequency, name(n.ground))
	p("Vground %s 0 0", name(n.ground))
	omega := 2 * math.Pi * n.C.Frequency
	phase := 0
	for k := range n.C.Stations {
		id := n.C.Stations[k].ID
		deg := -120 * float64(phase)
		if sh := w.h[k].Shunt; sh > 0 && n.presentIn[w.st][k] && w.shuntTo(k) != w.a[k] {
			p("Rshunt_%s %s %s %.12g", id, name(w.a[k]), name(w.shuntTo(k)), sh)
		}
		y, emf, ok := w.admittance(k, &phase)
		if !ok {
			continue
		}
		a, z := name(w.a[k]), 1/y
		if emf != 0 {
			p("V%s %s %s_1 DC 0 AC %.12g %g", id, a, id, cmplx.Abs(emf), deg)
			a = id + "_1"
		}
		switch {
		case imag(z) < 0:
			p("C%s %s %s %.12g", id, a, name(w.b[k]), imag(y)/omega)
		case imag(z) > 0:
			p("R%s %s %s_2 %.12g", id, a, id, real(z))
			p("L%s %s_2 %s %.12g", id, id, name(w.b[k]), imag(z)/omega)
		default:
			p("R%s %s %s %.12g", id, a, name(w.b[k]), real(z))
		}
	}
	if f := n.C.States[w.st].Feed; f != nil {
		p("Vsupply %s supply_1 DC 0 AC %g", f.Plus, n.C.NominalVoltage)
		p("Rsupply supply_1 %s 1e-3", f.Minus)
	}
	for i := range n.C.Nodes {
		if i != n.ground {
			p("Rleak_%s %s 0 1e12", name(i), name(i))
		}
	}
	p(".control")
	p("set numdgt=9")
	p("ac lin 1 %g %g", n.C.Frequency, n.C.Frequency)
	for i := range n.C.Nodes {
		if i != n.ground {
			p("print vr(%s) vi(%s)", name(i), name(i))
		}
	}
	p("quit")
	p(".endc")
	p(".end")
	return ew.err
}

// errWriter remembers the first error, so that the writing reads as a list.
type errWriter struct {
	w   io.Writer
	err error
}

func (e *errWriter) line(format string, a ...any) { fmt.Fprintf(e, format+"\n", a...) }

func (e *errWriter) Write(b []byte) (int, error) {
	if e.err != nil {
		return 0, e.err
	}
	n, err := e.w.Write(b)
	e.err = err
	return n, err
}
