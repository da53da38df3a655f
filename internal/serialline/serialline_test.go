package serialline

import (
	"context"
	"io"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"corriente/core/unit"
	"corriente/internal/meters"
)

func TestParse(t *testing.T) {
	for line, want := range map[string]unit.Reading{
		"DCV 12.34 V": {Value: 12.34}, "dcv -0.3": {Value: -0.3}, "OHM OL": {Over: true}, "OHM 0.3 Ω": {Value: 0.3},
		"DCA 142 A": {Value: 142}, "CAP 7.5": {Value: 7.5e-6}, "HZ 50 Hz\r": {Value: 50}, " DCV  12,6 V ": {Value: 12.6},
	} {
		m, r, err := Parse(line)
		require.NoError(t, err, line)
		assert.Equal(t, strings.ToUpper(strings.Fields(line)[0]), Dial(m), line)
		assert.InDelta(t, want.Value, r.Value, 1e-12, line)
		assert.Equal(t, want.Over, r.Over, line)
	}
	for _, line := range []string{"", "DCV", "DCV much", "VOLT 12", "12.34 V", "DCV 12 A", "\xff\xfe", strings.Repeat("DCV 1 ", 99)} {
		_, _, err := Parse(line)
		var no meters.Nonsense
		require.ErrorAs(t, err, &no, line)
		assert.LessOrEqual(t, len([]rune(no.Said)), 41)
	}
	// Mains under the probes is no nonsense: it is said what it is.
	_, _, err := Parse("ACV 231 V")
	var stop meters.Refusal
	require.ErrorAs(t, err, &stop)
	assert.Contains(t, stop.Says, "mains")
}

func TestWhichFilesAreLines(t *testing.T) {
	strict, bench := Protocol{}, Protocol{Simulated: true}
	for addr, want := range map[string][2]bool{
		"/dev/ttyUSB0": {true, true}, "/dev/ttyACM12@115200": {true, true}, "/dev/ttyS1": {true, true},
		"/dev/serial/by-id/usb-Bench_Meter_01-if00": {true, true}, "/dev/pts/3": {false, true},
		"/dev/sda": {false, false}, "/etc/passwd": {false, false}, "/dev/ttyUSB0/../sda": {false, false},
		"/dev/serial/by-id/../../sda": {false, false}, "/dev/ttyUSB0@fast": {false, false}, "/dev/tty": {false, false},
	} {
		assert.Equal(t, want, [2]bool{strict.Check(addr) == nil, bench.Check(addr) == nil}, addr)
		assert.True(t, strict.Takes(addr))
	}
	_, err := strict.Dial(t.Context(), "/etc/passwd")
	require.ErrorAs(t, err, &meters.Closed{})
	assert.False(t, strict.Takes("192.168.1.20:5025"))
}

// wire is a line whose other end is held by a test.
func wire(t *testing.T) (*session, *io.PipeWriter) {
	t.Helper()
	r, w := io.Pipe()
	s := newSession(r)
	t.Cleanup(func() { s.Close(); w.Close() })
	return s, w
}

// heard is what the session would read next, once all that was said has come.
func heard(t *testing.T, s *session) string {
	t.Helper()
	l, err := s.next(t.Context())
	require.NoError(t, err)
	return l
}

func TestTheNewestLineCounts(t *testing.T) {
	s, w := wire(t)
	s.want = unit.Voltage
	said := make(chan struct{})
	go func() {
		defer close(said)
		// The end of a line that began before, and three readings that nobody waited for.
		_, _ = io.WriteString(w, "2.34 V\nDCV 1 V\nDCV 2 V\nDCV 12.6 V\n")
		_, _ = io.WriteString(w, "D") // taken once the lines before have been kept
	}()
	<-said
	v, over, err := s.Read(t.Context())
	require.NoError(t, err)
	assert.InDelta(t, 12.6, v, 1e-12)
	assert.False(t, over)
}

func TestTheDialIsTurnedByHand(t *testing.T) {
	s, w := wire(t)
	go func() { _, _ = io.WriteString(w, "\nOHM 0.3 Ω\n") }()
	err := s.Configure(t.Context(), unit.Voltage)
	var no meters.Refusal
	require.ErrorAs(t, err, &no)
	assert.Equal(t, "its dial stands on resistance; turn it to voltage", no.Says)
	go func() { _, _ = io.WriteString(w, "DCV 12.6 V\n") }()
	require.NoError(t, s.Configure(t.Context(), unit.Voltage))
	assert.Error(t, s.Configure(t.Context(), "warmth"))
}

func TestALineThatHasNoEndIsNonsense(t *testing.T) {
	s, w := wire(t)
	go func() { _, _ = io.WriteString(w, "\n"+strings.Repeat("x", maxLine)) }()
	_, _, err := Parse(heard(t, s))
	require.ErrorAs(t, err, &meters.Nonsense{})
}

func TestSilenceAndAPulledPlug(t *testing.T) {
	s, w := wire(t)
	s.wait = time.Millisecond
	_, _, err := s.Read(t.Context())
	var late interface{ Timeout() bool }
	require.ErrorAs(t, err, &late)
	assert.True(t, late.Timeout(), "a meter that is off says nothing")
	s.wait = Wait
	require.NoError(t, w.Close())
	_, _, err = s.Read(t.Context())
	require.ErrorIs(t, err, io.EOF)

	s, _ = wire(t)
	ctx, cancel := context.WithCancel(t.Context())
	cancel()
	_, _, err = s.Read(ctx)
	assert.ErrorIs(t, err, context.Canceled)
}

func FuzzParse(f *testing.F) {
	for _, s := range []string{"DCV 12.34 V", "OHM OL", "ACV 231 V", "HZ 50", "\xff"} {
		f.Add(s)
	}
	f.Fuzz(func(t *testing.T, line string) {
		m, r, err := Parse(line)
		if err != nil {
			return
		}
		if Dial(m) == "" || r.Value != r.Value {
			t.Fatalf("%q is read as %v %v", line, m, r)
		}
	})
}
