package store_test

import (
	"context"
	"fmt"
	"math/rand/v2"
	"os"
	"runtime"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/google/uuid"
	"github.com/stretchr/testify/require"

	"corriente/internal/store"
	"corriente/internal/testdb"
)

// filled is a workshop after many years: 100,000 jobs, ten readings each, all made up.
// CORRIENTE_JOBS changes how many.
func filled(b *testing.B) (*store.Store, uuid.UUID) {
	b.Helper()
	n := 100_000
	if v := os.Getenv("CORRIENTE_JOBS"); v != "" {
		_, err := fmt.Sscan(v, &n)
		require.NoError(b, err)
	}
	st := testdb.Open(b)
	ctx := context.Background()
	rng := rand.New(rand.NewPCG(1, 1))
	exec := func(head string, rows []string, args []any) {
		_, err := st.DB.ExecContext(ctx, head+strings.Join(rows, ","), args...)
		require.NoError(b, err)
	}
	const machines = 2000
	ids := make([]uuid.UUID, machines)
	for i := range ids {
		ids[i] = store.NewID()
		require.NoError(b, st.PutMachine(ctx,
			store.Machine{ID: ids[i], Name: fmt.Sprintf("Cart %d", i),
				Kind: []string{"tractor", "van", "boat", "lift"}[i%4], Place: "yard", Voltage: 12}))
	}
	words := []string{"slow", "silent", "clicks", "smells", "wet", "cold", "grinding", "dead", "jerks", "blower",
		"window", "wiper", "starter", "pump", "lamp", "fuse"}
	faults := []string{"motor.brushes_worn", "battery.weak", "gnd_cable.high_resistance",
		"main_contact.high_resistance", "coil.open", "pos_clamp.high_resistance"}
	now := time.Now().UTC()
	began := time.Now()
	for at := 0; at < n; at += 500 {
		var jr, er, vr, or, wr []string
		var ja, ea, va, oa, wa []any
		for k := at; k < min(at+500, n); k++ {
			id, m := store.NewID(), rng.IntN(machines)
			opened := now.Add(-time.Duration(n-k) * 40 * time.Minute)
			complaint := words[rng.IntN(len(words))] + " " + words[rng.IntN(len(words))] + " " + words[rng.IntN(len(words))]
			f := faults[rng.IntN(len(faults))]
			station, _, _ := strings.Cut(f, ".")
			var closed any
			if k < n-60 {
				closed = opened.Add(20 * time.Hour)
			}
			jr, ja = append(jr, "(?,?,'starter','{}',?,1,1,'[]',?,?)"), append(ja, id[:], ids[m][:], complaint, opened, closed)
			values := ""
			for r := range 10 {
				e, v := store.NewID(), fmt.Sprintf("%.2f", 13*rng.Float64())
				values += " " + strings.Replace(v, ".", "_", 1) + "v"
				er, ea = append(er, "(?,?,?,'voltage','','crank','bat_pos','bat_neg','',?,?,0,'','','','','','',?)"),
					append(ea, e[:], id[:], r+1, v+" V", v, opened)
			}
			p := 0.9 + 0.1*rng.Float64()
			vr, va = append(vr, "(?,1,'x','isolated',?,?,?,'{}',?)"), append(va, id[:], station, p, "The "+station+" is at fault.", opened)
			or, oa = append(or, "(?,'starter',?,?,?,?,'repair',?,?,?,10,30,?,?,0)"),
				append(oa, id[:], []string{"tractor", "van", "boat", "lift"}[m%4], ids[m][:], station, f, station, p,
					rng.Float64() < p, opened, m%20)
			wr, wa = append(wr, "(?,?,?)"), append(wa, id[:], opened,
				fmt.Sprintf(" cart %d %s %s%s", m, complaint, strings.ReplaceAll(f, ".", " "), values))
		}
		exec("INSERT INTO jobs (id, machine_id, circuit, head, complaint, revision, verdict_revision, unreachable, "+
			"opened_at, closed_at) VALUES ", jr, ja)
		exec("INSERT INTO evidence (id, job_id, seq, measure, observe, state, node_from, node_to, through, "+
			"value_text, value_si, over_limit, outcome, instrument, leads_text, uncertainty_text, circumstance, "+
			"symptom, taken_at) VALUES ", er, ea)
		exec("INSERT INTO verdicts (job_id, revision, reasoning, status, station, probability, says, result, created_at) VALUES ", vr, va)
		exec("INSERT INTO outcomes (job_id, circuit, machine_kind, machine_id, station, fault, option_id, said, p, "+
			"was_right, readings, minutes, at, age, excluded) VALUES ", or, oa)
		exec("INSERT INTO job_words (job_id, opened_at, words) VALUES ", wr, wa)
	}
	_, err := st.DB.ExecContext(ctx, "REPLACE INTO claim_sums SELECT FLOOR(p * 100), was_right, COUNT(*), SUM(p), "+
		"SUM(readings), COALESCE(SUM(minutes), 0) FROM outcomes WHERE excluded = 0 AND p IS NOT NULL GROUP BY FLOOR(p * 100), was_right")
	require.NoError(b, err)
	_, err = st.DB.ExecContext(ctx, "REPLACE INTO fault_sums SELECT circuit, machine_kind, COALESCE(age, -1), "+
		"fault, COUNT(*) FROM outcomes WHERE excluded = 0 AND fault <> '' GROUP BY circuit, machine_kind, COALESCE(age, -1), fault")
	require.NoError(b, err)
	_, err = st.DB.ExecContext(ctx, "ANALYZE TABLE jobs, evidence, verdicts, outcomes, job_words")
	require.NoError(b, err)
	b.Logf("%d jobs and %d readings made in %s", n, 10*n, time.Since(began).Round(time.Second))
	return st, ids[7]
}

// BenchmarkYears answers what a workshop asks after 100,000 jobs: milliseconds at the
// median and the 95th percentile.
func BenchmarkYears(b *testing.B) {
	st, machine := filled(b)
	ctx := context.Background()
	words := []string{"slow wet", "cart 1234", "grinding", "battery weak cold", "blower", "brushes jerks", "silent", "lamp fuse"}
	for _, q := range []struct {
		name string
		f    func(i int) error
	}{
		{"search", func(i int) error {
			es, err := st.Logbook(ctx, store.Search{Words: words[i%len(words)]})
			if err == nil && len(es) == 0 {
				err = fmt.Errorf("nothing found for %q", words[i%len(words)])
			}
			return err
		}},
		{"search_number", func(i int) error {
			_, err := st.Logbook(ctx, store.Search{Words: fmt.Sprint("cart ", 100+17*i)})
			return err
		}},
		{"search_value", func(i int) error {
			_, err := st.Logbook(ctx, store.Search{Words: fmt.Sprintf("%.2f V", 0.01*float64(100+i))})
			return err
		}},
		{"search_rare", func(int) error { _, err := st.Logbook(ctx, store.Search{Words: "submarine periscope"}); return err }},
		{"latest", func(int) error { _, err := st.Logbook(ctx, store.Search{}); return err }},
		{"board", func(int) error { _, err := st.Board(ctx, false); return err }},
		{"history", func(int) error { _, err := st.Logbook(ctx, store.Search{Machine: &machine, Limit: 200}); return err }},
		{"reliability", func(int) error {
			if _, err := st.Reliability(ctx); err != nil {
				return err
			}
			_, err := st.Wrong(ctx, 20)
			return err
		}},
		{"learned", func(int) error {
			if _, err := st.Counts(ctx, "starter", "van", 7, time.Unix(0, 0)); err != nil {
				return err
			}
			_, _, err := st.AccessTimes(ctx, "starter", "van", time.Unix(0, 0))
			return err
		}},
	} {
		b.Run(q.name, func(b *testing.B) {
			var took []float64
			for i := range max(b.N, 60) {
				t := time.Now()
				if err := q.f(i); err != nil {
					b.Fatal(err)
				}
				took = append(took, float64(time.Since(t).Microseconds())/1000)
			}
			slices.Sort(took)
			b.ReportMetric(took[len(took)/2], "ms-median")
			b.ReportMetric(took[len(took)*95/100], "ms-p95")
			b.ReportMetric(0, "ns/op")
		})
	}
	b.Run("export", func(b *testing.B) {
		n := 0
		var m runtime.MemStats
		runtime.GC()
		runtime.ReadMemStats(&m)
		before, most := m.HeapAlloc, uint64(0)
		t := time.Now()
		if err := st.Every(ctx, store.Search{}, func(*store.Entry) error {
			if n++; n%1000 == 0 {
				runtime.ReadMemStats(&m)
				most = max(most, m.HeapAlloc)
			}
			return nil
		}); err != nil {
			b.Fatal(err)
		}
		b.ReportMetric(float64(most-min(before, most))/1e6, "MB-more")
		b.ReportMetric(float64(n)/time.Since(t).Seconds(), "jobs/s")
	})
}
