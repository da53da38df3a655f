package bench

import (
	"fmt"
	"os"
	"time"

	"github.com/creack/pty"

	"corriente/core/unit"
	"corriente/internal/scpi"
	"corriente/internal/serialline"
)

// reportEvery is how often the meter at the serial line says what it shows.
const reportEvery = 250 * time.Millisecond

// line is a pseudo-terminal in the place of a serial line: the bench's meter hangs on one end, whoever reads it on the
// other.
type line struct {
	meter, reader *os.File
	stop          chan struct{}
}

// openLine hangs a meter on a serial line. Its dial is turned with SIMulate:DIAL, to any instrument of the bench.
func (b *Bench) openLine() error {
	m, r, err := pty.Open()
	if err != nil {
		return fmt.Errorf("no pseudo-terminal for a meter on a serial line: %w", err)
	}
	b.line = &line{m, r, make(chan struct{})}
	b.wg.Go(b.report)
	return nil
}

// Line returns where the meter on the serial line is reached, "" without one.
func (b *Bench) Line() string {
	if b.line == nil {
		return ""
	}
	return b.line.reader.Name()
}

// report says what the meter shows until the bench is closed.
func (b *Bench) report() {
	defer func() { _, _ = b.line.meter.Close(), b.line.reader.Close() }() // nothing is kept in them
	t := time.NewTicker(reportEvery)
	defer t.Stop()
	for {
		select {
		case <-b.line.stop:
			return
		case <-t.C:
		}
		b.mu.Lock()
		m := b.dial
		b.mu.Unlock()
		k := instruments[0]
		if m == unit.Current {
			k = instruments[1]
		}
		v, over, err := scpi.Number((&talk{b: b, k: k, measure: m}).read())
		if err != nil {
			continue
		}
		shown := unit.Format(v, m)
		if over {
			shown = "OL"
		}
		// Where nobody listens what was said is lost, as on a wire.
		_ = b.line.meter.SetWriteDeadline(time.Now().Add(reportEvery))
		_, _ = fmt.Fprintf(b.line.meter, "%s %s\r\n", serialline.Dial(m), shown)
	}
}

// turn turns the dial of the meter on the serial line, as a person would.
func (t *talk) turn(word string) []byte {
	for _, m := range unit.Measures() {
		if serialline.Dial(m) == word {
			t.b.mu.Lock()
			t.b.dial, t.b.since = m, time.Now()
			t.b.mu.Unlock()
			return nil
		}
	}
	return t.wrong(-224, "Illegal parameter value; the dial has DCV, ACV, DCA, OHM, CAP and HZ")
}
