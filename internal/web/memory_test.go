package web_test

import (
	"fmt"
	"runtime"
	"runtime/debug"
	"slices"
	"sync"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"corriente/core/circuit"
	"corriente/internal/store"
	"corriente/internal/web"
)

var families = []string{"starter", "contactor_motor", "blower_module", "blower_resistor", "wiper", "two_wire_motor", "window", "traction"}

// BenchmarkFiftyOpenJobs is the memory of a server at which fifty jobs on eight circuits
// are open, each with a battery of its own, worked three entries far and with a figure
// typed into the field: heap in use after a collection, and what the process has taken
// from the system.
func BenchmarkFiftyOpenJobs(b *testing.B) {
	c, _ := serve(b)
	c.signIn("jory")
	for b.Loop() {
		for i := range 50 {
			id := store.NewID().String()
			f, err := circuit.Family(families[i%len(families)])
			require.NoError(b, err)
			require.Equal(b, 200, c.do("POST", "/api/jobs",
				map[string]any{"id": id, "machine_id": store.NewID(), "new_machine": fmt.Sprint("Cart ", id),
					"kind": "cart", "circuit": f.ID, "complaint": "slow"}, nil))
			c.do("PATCH", "/api/jobs/"+id, map[string]any{"parameter": map[string]any{"name": "battery.resistance",
				"value": fmt.Sprintf("%.4f ohm", 0.004+0.0001*float64(i))}}, nil)
			for range 3 {
				var v web.JobView
				require.Equal(b, 200, c.do("GET", "/api/jobs/"+id, nil, &v))
				if len(v.Diagnosis.Next) == 0 {
					break
				}
				n := v.Diagnosis.Next[0]
				e := map[string]any{"id": store.NewID(), "state": n.State, "taken_at": time.Now().UTC().Format(time.RFC3339Nano)}
				if n.Observe != "" {
					e["observe"], e["outcome"] = n.Observe, f.Observation(n.Observe).Outcomes[0].ID
				} else {
					e["measure"], e["from"], e["to"], e["through"], e["value"] = n.Measure, n.From, n.To, n.Through, "1.2"
					c.do("POST", "/api/jobs/"+id+"/preview", e, nil)
				}
				c.do("POST", "/api/jobs/"+id+"/evidence", map[string]any{"evidence": []any{e}}, nil)
			}
		}
	}
	c.srv.Rest() // what is worked out in the background
	runtime.GC()
	var m runtime.MemStats
	runtime.ReadMemStats(&m)
	b.ReportMetric(float64(m.HeapAlloc)/1e6, "MB-heap")
	b.ReportMetric(float64(m.Sys)/1e6, "MB-system")
}

// BenchmarkFiftyTechnicians is what fifty people at fifty jobs on eight circuits wait, each with a reading
// every five seconds for a minute: until the picture and the verdict, and until the next reading, in
// milliseconds; errors must be none. Client, server and database share the machine.
func BenchmarkFiftyTechnicians(b *testing.B) {
	const people, every, long = 50, 5 * time.Second, time.Minute
	defer debug.SetMemoryLimit(debug.SetMemoryLimit(web.Memory))
	c, _ := serve(b)
	c.signIn("jory")
	var mu sync.Mutex
	var shown, next []float64
	errs := 0
	for b.Loop() {
		shown, next, errs = nil, nil, 0
		var wg sync.WaitGroup
		began := make(chan struct{})
		for p := range people {
			t := &technician{client: c, family: families[p%len(families)], n: p}
			t.start()
			wg.Go(func() {
				<-began
				time.Sleep(every * time.Duration(p) / people) // not all at one moment
				for end := time.Now().Add(long); time.Now().Before(end); {
					at := time.Now()
					quick, whole, ok := t.read()
					mu.Lock()
					shown, next = append(shown, quick), append(next, whole)
					if !ok {
						errs++
					}
					mu.Unlock()
					time.Sleep(time.Until(at.Add(every)))
				}
			})
		}
		c.srv.Rest()
		close(began)
		wg.Wait()
	}
	for name, xs := range map[string][]float64{"shown": shown, "next": next} {
		slices.Sort(xs)
		for _, q := range []int{50, 95, 99} {
			b.ReportMetric(xs[min(len(xs)*q/100, len(xs)-1)], fmt.Sprintf("ms-%s-p%d", name, q))
		}
	}
	b.ReportMetric(float64(len(shown)), "readings")
	b.ReportMetric(float64(errs), "errors")
	var m runtime.MemStats
	runtime.ReadMemStats(&m)
	b.ReportMetric(float64(m.Sys)/1e6, "MB-system")
}

// technician works one job after another as the adviser says, on a machine that reads as a good one.
type technician struct {
	*client
	family string
	n      int
	job    string
	view   web.JobView
}

func (t *technician) start() {
	t.job = store.NewID().String()
	require.Equal(t.t, 200, t.do("POST", "/api/jobs",
		map[string]any{"id": t.job, "machine_id": store.NewID(), "new_machine": fmt.Sprint("Cart ", t.job),
			"kind": "cart", "circuit": t.family, "complaint": "slow"}, nil))
	t.do("PATCH", "/api/jobs/"+t.job, map[string]any{"parameter": map[string]any{"name": "battery.resistance",
		"value": fmt.Sprintf("%.4f ohm", 0.004+0.0001*float64(t.n))}}, nil)
	require.Equal(t.t, 200, t.do("GET", "/api/jobs/"+t.job, nil, &t.view))
}

// read enters what was asked for as the page does: the figure is weighed while it is typed, the answer with the
// picture comes first, the next reading after it. It returns both waits from the key, ms.
func (t *technician) read() (shown, next float64, ok bool) {
	if len(t.view.Diagnosis.Next) == 0 {
		t.start()
	}
	n := t.view.Diagnosis.Next[0]
	e := map[string]any{"id": store.NewID(), "state": n.State, "taken_at": time.Now().UTC().Format(time.RFC3339Nano)}
	f, err := circuit.Family(t.family)
	require.NoError(t.t, err)
	if n.Observe != "" {
		e["observe"], e["outcome"] = n.Observe, f.Observation(n.Observe).Outcomes[0].ID
	} else {
		v := "OL"
		if n.Good != nil {
			v = fmt.Sprintf("%.4g", (n.Good.Low+n.Good.High)/2)
		} else if n.Measure != "resistance" {
			v = "0"
		}
		e["measure"], e["from"], e["to"], e["through"], e["value"] = n.Measure, n.From, n.To, n.Through, v
		t.do("POST", "/api/jobs/"+t.job+"/preview", e, nil)
	}
	from := time.Now()
	first := t.do("POST", "/api/jobs/"+t.job+"/evidence?quick=true&state="+n.State, map[string]any{"evidence": []any{e}}, nil)
	shown = float64(time.Since(from).Microseconds()) / 1000
	second := t.do("GET", "/api/jobs/"+t.job+"?state="+n.State, nil, &t.view)
	return shown, float64(time.Since(from).Microseconds()) / 1000, first == 200 && second == 200
}
