package web_test

import (
	"fmt"
	"runtime"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"corriente/core/circuit"
	"corriente/internal/store"
	"corriente/internal/web"
)

// BenchmarkFiftyOpenJobs is the memory of a server at which fifty jobs on eight circuits
// are open, each with a battery of its own, worked three entries far and with a figure
// typed into the field: heap in use after a collection, and what the process has taken
// from the system.
func BenchmarkFiftyOpenJobs(b *testing.B) {
	c, _ := serve(b)
	c.signIn("jory")
	families := []string{"starter", "contactor_motor", "blower_module", "blower_resistor", "wiper", "two_wire_motor", "window", "traction"}
	for b.Loop() {
		for i := range 50 {
			id := store.NewID().String()
			f, err := circuit.Family(families[i%len(families)])
			require.NoError(b, err)
			require.Equal(b, 200, c.do("POST", "/api/jobs", map[string]any{"id": id, "machine_id": store.NewID(), "new_machine": fmt.Sprint("Cart ", id), "kind": "cart", "circuit": f.ID, "complaint": "slow"}, nil))
			c.do("PATCH", "/api/jobs/"+id, map[string]any{"parameter": map[string]any{"name": "battery.resistance", "value": fmt.Sprintf("%.4f ohm", 0.004+0.0001*float64(i))}}, nil)
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
