package web_test

import (
	"bufio"
	"encoding/json"
	"net"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"corriente/core/circuit"
	"corriente/internal/bench"
	"corriente/internal/patience"
	"corriente/internal/scpi"
	"corriente/internal/store"
	"corriente/internal/web"
)

// listen opens a stream and hands out its events, name and data.
func (c *client) listen(path string) <-chan [2]string {
	c.t.Helper()
	res, err := c.http.Get(c.base + path)
	require.NoError(c.t, err)
	require.Equal(c.t, 200, res.StatusCode)
	require.Equal(c.t, "text/event-stream", res.Header.Get("Content-Type"))
	ch := make(chan [2]string, 100)
	go func() {
		defer close(ch)
		sc := bufio.NewScanner(res.Body)
		name := ""
		for sc.Scan() {
			if n, ok := strings.CutPrefix(sc.Text(), "event: "); ok {
				name = n
			} else if d, ok := strings.CutPrefix(sc.Text(), "data: "); ok {
				ch <- [2]string{name, d}
			}
		}
	}()
	c.t.Cleanup(func() { res.Body.Close() })
	return ch
}

// wait returns the first event of a name for which ok holds.
func wait(t *testing.T, ch <-chan [2]string, name string, ok func(data string) bool) string {
	t.Helper()
	end := time.After(patience.Limit())
	for {
		select {
		case ev, open := <-ch:
			require.True(t, open, "the stream ended")
			if ev[0] == name && ok(ev[1]) {
				return ev[1]
			}
		case <-end:
			t.Fatalf("no %s came", name)
		}
	}
}

func any_(string) bool { return true }

func TestEventsTellWhatOthersChange(t *testing.T) {
	c, _ := serve(t)
	assert.Equal(t, 401, c.do("GET", "/api/events", nil, nil))
	c.signIn("jory")
	j := c.job("Orchard tractor 3")
	ch := c.listen("/api/events")
	wait(t, ch, "hello", any_)
	e := web.Evidence{ID: store.NewID().String(), Measure: "voltage", State: "rest", From: "bat_pos", To: "bat_neg", Value: "12.5"}
	require.Equal(t, 200, c.do("POST", "/api/jobs/"+j.ID+"/evidence", map[string]any{"evidence": []web.Evidence{e}}, nil))
	assert.Contains(t, wait(t, ch, "job", any_), j.ID)
}

// A quick answer has the picture and the suspects; the next reading follows, and
// both say the same of the evidence.
func TestAQuickAnswerIsFollowedByTheWhole(t *testing.T) {
	c, _ := serve(t)
	c.signIn("jory")
	j := c.job("Orchard tractor 3")
	e := web.Evidence{ID: store.NewID().String(), Measure: "voltage", State: "crank", From: "bat_pos", To: "bat_neg", Value: "11.2"}
	var quick, whole web.JobView
	require.Equal(t, 200, c.do("POST", "/api/jobs/"+j.ID+"/evidence?quick=true&state=crank",
		map[string]any{"evidence": []web.Evidence{e}}, &quick))
	require.Equal(t, 200, c.do("GET", "/api/jobs/"+j.ID+"?state=crank", nil, &whole))
	assert.False(t, whole.Thinking)
	assert.NotEmpty(t, whole.Diagnosis.Next)
	assert.Equal(t, whole.Revision, quick.Revision)
	assert.Equal(t, whole.Suspects, quick.Suspects)
	assert.Equal(t, whole.Diagnosis.Verdict, quick.Diagnosis.Verdict)
}

func TestAsItStoodThen(t *testing.T) {
	c, _ := serve(t)
	c.signIn("jory")
	j := c.job("Ferry Waterlily, main engine")
	require.Greater(t, len(j.Evidence), 2)
	var then web.JobView
	require.Equal(t, 200, c.do("GET", "/api/jobs/"+j.ID+"?upto=1", nil, &then))
	assert.Len(t, then.Evidence, 1)
	assert.Less(t, then.Diagnosis.Verdict.Probability, j.Diagnosis.Verdict.Probability)
	require.Equal(t, 200, c.do("GET", "/api/jobs/"+j.ID, nil, &then))
	assert.Equal(t, j.Diagnosis.Verdict, then.Diagnosis.Verdict, "looking back changes nothing")
}

func (c *client) instrument(addr string) web.InstrumentView {
	c.t.Helper()
	v := web.InstrumentView{ID: store.NewID().String(), Name: "Shelf meter", Kind: "multimeter", Address: addr,
		Percent: 0.5, Counts: 2, Digit: 0.01, OhmDigit: 0.1}
	require.Equal(c.t, 200, c.do("PUT", "/api/instruments", v, nil))
	return v
}

func TestALiveMeter(t *testing.T) {
	c, _ := serve(t)
	c.signIn("jory")
	f, err := circuit.Family("starter")
	require.NoError(t, err)
	b, err := bench.New(t.Context(), bench.Options{Circuit: f, Seed: 1})
	require.NoError(t, err)
	defer b.Close()
	addr, _, _ := b.Addrs()
	v := c.instrument(addr)
	var list []web.InstrumentView
	bad := v
	bad.ID, bad.Address = store.NewID().String(), "nowhere"
	assert.Equal(t, 422, c.do("PUT", "/api/instruments", bad, nil), "an address without a port is refused")
	require.Equal(t, 200, c.do("GET", "/api/instruments", nil, &list))
	require.Len(t, list, 1)
	assert.Contains(t, list[0].Measures, "voltage")

	ch := c.listen("/api/instruments/" + v.ID + "/live?measure=voltage&state=rest&from=bat_pos&to=bat_neg")
	var l web.LiveReading
	wait(t, ch, "reading", func(d string) bool { require.NoError(t, json.Unmarshal([]byte(d), &l)); return l.Settled })
	assert.InDelta(t, 12.6, l.Value, 0.3)
	assert.Equal(t, l.Take, l.Text)

	// The bench goes away: said plainly, and it comes back by itself.
	b.Close()
	assert.Contains(t, wait(t, ch, "problem", any_), "does not answer")

	assert.Equal(t, 422, c.do("GET", "/api/instruments/"+v.ID+"/live?measure=current", nil, nil),
		"a multimeter without a clamp reads no current here")
	assert.Equal(t, 404, c.do("GET", "/api/instruments/"+store.NewID().String()+"/live?measure=voltage", nil, nil))

	// A reading with a workshop's meter keeps the meter's accuracy in its job.
	j := c.job("Orchard tractor 3")
	e := web.Evidence{ID: store.NewID().String(), Measure: "voltage", State: "rest", From: "bat_pos", To: "bat_neg",
		Value: "12.5", Instrument: "Shelf meter"}
	require.Equal(t, 200, c.do("POST", "/api/jobs/"+j.ID+"/evidence", map[string]any{"evidence": []web.Evidence{e}}, &j))
	assert.Equal(t, "Shelf meter", j.Evidence[len(j.Evidence)-1].Instrument)
	e.ID, e.Instrument = store.NewID().String(), "Nobody's meter"
	assert.Equal(t, 422, c.do("POST", "/api/jobs/"+j.ID+"/evidence", map[string]any{"evidence": []web.Evidence{e}}, nil))
}

// A meter that reports by itself over a serial line: what its dial stands on is compared with what is asked, and said
// to whoever holds it.
func TestALiveMeterOnASerialLine(t *testing.T) {
	c, _ := serve(t)
	c.signIn("jory")
	f, err := circuit.Family("starter")
	require.NoError(t, err)
	b, err := bench.New(t.Context(), bench.Options{Circuit: f, Seed: 1, Line: true})
	require.NoError(t, err)
	defer b.Close()
	addr, _, _ := b.Addrs()
	hand, err := (&scpi.Gate{AnyPort: true}).Dial(t.Context(), addr)
	require.NoError(t, err)
	defer hand.Close()
	require.NoError(t, hand.Send(t.Context(), "SIM:DIAL OHM"))
	require.NoError(t, hand.Errors(t.Context()))

	v := c.instrument(b.Line())
	ch := c.listen("/api/instruments/" + v.ID + "/live?measure=voltage&state=rest&from=bat_pos&to=bat_neg")
	assert.Contains(t, wait(t, ch, "problem", any_), "its dial stands on resistance; turn it to voltage")
	require.NoError(t, hand.Send(t.Context(), "SIM:DIAL DCV"))
	var l web.LiveReading
	wait(t, ch, "reading", func(d string) bool { require.NoError(t, json.Unmarshal([]byte(d), &l)); return l.Settled })
	assert.InDelta(t, 12.6, l.Value, 0.3)
	b.Close()
	assert.Contains(t, wait(t, ch, "problem", any_), "is it on and plugged in")
}

// An instrument that talks nonsense: nothing is taken, and it is said.
func TestNonsenseFromAnInstrument(t *testing.T) {
	c, _ := serve(t)
	c.signIn("jory")
	l, err := net.Listen("tcp", "127.0.0.1:0")
	require.NoError(t, err)
	defer l.Close()
	go func() {
		for {
			conn, err := l.Accept()
			if err != nil {
				return
			}
			go func() {
				sc := bufio.NewScanner(conn)
				for sc.Scan() {
					switch {
					case sc.Text() == "*IDN?":
						_, _ = conn.Write([]byte("Some,meter,1,2\n"))
					case sc.Text() == "SYST:ERR?":
						_, _ = conn.Write([]byte("0,\"No error\"\n"))
					case strings.HasSuffix(sc.Text(), "?"):
						_, _ = conn.Write([]byte("<html>\n"))
					}
				}
			}()
		}
	}()
	v := c.instrument(l.Addr().String())
	ch := c.listen("/api/instruments/" + v.ID + "/live?measure=voltage")
	says := wait(t, ch, "problem", any_)
	assert.Contains(t, says, "no reading")
	assert.Contains(t, says, "nothing was taken")
}
