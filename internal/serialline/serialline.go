package serialline

import (
	"bufio"
	"context"
	"errors"
	"fmt"
	"io"
	"os"
	"regexp"
	"strconv"
	"strings"
	"time"

	"go.bug.st/serial"

	"corriente/core/unit"
	"corriente/internal/meters"
)

// Wait is how long the next line may take.
const Wait = 3 * time.Second

// maxLine is the longest line that is taken, bytes.
const maxLine = 128

// Baud is the speed of a line that names none.
const Baud = 9600

// address is a serial line of Linux: a USB adapter or a meter with one inside, a built-in port, or one by its maker's
// name; pts are those of a simulated bench.
var address = regexp.MustCompile(`^(/dev/(?:tty(?:USB|ACM|S)\d{1,3}|serial/by-id/[A-Za-z0-9_.:-]{1,120}|pts/\d{1,6}))(?:@(\d{2,7}))?$`)

// dials are the words for what a dial stands on.
var dials = map[string]unit.Measure{"DCV": unit.Voltage, "ACV": unit.ACVoltage, "DCA": unit.Current, "OHM": unit.Resistance,
	"CAP": unit.Capacitance, "HZ": unit.Frequency}

// Dial returns the word for a measure, "" where there is none.
func Dial(m unit.Measure) string {
	for word, x := range dials {
		if x == m {
			return word
		}
	}
	return ""
}

// Protocol reaches meters at the serial lines of this machine. The zero value is the strict one.
type Protocol struct {
	Simulated bool // the lines of a simulated bench as well, /dev/pts
}

// Takes reports whether an address is a file's.
func (p Protocol) Takes(addr string) bool { return strings.HasPrefix(addr, "/") }

// Check refuses what is no serial line: no other file is opened.
func (p Protocol) Check(addr string) error {
	m := address.FindStringSubmatch(addr)
	if m == nil || strings.HasPrefix(m[1], "/dev/pts/") && !p.Simulated {
		return meters.Closed{Says: fmt.Sprintf("%q is no serial line: give one such as /dev/ttyUSB0, /dev/ttyACM0 or "+
			"/dev/serial/by-id/…, with @ and its baud where that is not %d", addr, Baud)}
	}
	return nil
}

// Dial opens the line. Nobody else can open it meanwhile.
func (p Protocol) Dial(_ context.Context, addr string) (meters.Session, error) {
	if err := p.Check(addr); err != nil {
		return nil, err
	}
	m := address.FindStringSubmatch(addr)
	baud := Baud
	if m[2] != "" {
		baud, _ = strconv.Atoi(m[2]) // digits
	}
	port, err := serial.Open(m[1], &serial.Mode{BaudRate: baud})
	if err != nil {
		return nil, plainly(m[1], err)
	}
	if err := port.ResetInputBuffer(); err != nil { // what it showed before anybody listened
		port.Close()
		return nil, err
	}
	return newSession(port), nil
}

// plainly says why a line cannot be opened and what to do.
func plainly(path string, err error) error {
	var pe *serial.PortError
	if errors.As(err, &pe) {
		switch pe.Code() {
		case serial.PermissionDenied:
			return meters.Refusal{Says: fmt.Sprintf("the application may not open %s: its user belongs into the group dialout", path)}
		case serial.PortBusy:
			return meters.Refusal{Says: fmt.Sprintf("another program reads %s: end it first", path)}
		case serial.InvalidSpeed:
			return meters.Refusal{Says: fmt.Sprintf("%s does not know this baud", path)}
		}
	}
	return fmt.Errorf("%s: %w", path, err)
}

// session is a line that is listened to: what came last counts, older lines are let go.
type session struct {
	port  io.ReadCloser
	last  chan string   // the newest line that nobody has read
	ended chan struct{} // closed when the line ended; err is set then
	err   error
	wait  time.Duration
	want  unit.Measure
}

func newSession(port io.ReadCloser) *session {
	s := &session{port: port, last: make(chan string, 1), ended: make(chan struct{}), wait: Wait}
	go s.listen()
	return s
}

func (s *session) listen() {
	defer close(s.ended)
	r := bufio.NewReaderSize(s.port, maxLine)
	for whole := false; ; {
		b, err := r.ReadSlice('\n')
		switch {
		case errors.Is(err, bufio.ErrBufferFull):
			s.tell(string(b))
			whole = false // the rest of it is no line
			continue
		case err != nil:
			s.err = err
			return
		}
		// The first piece may be the end of a line that began before it was listened to.
		if whole {
			s.tell(strings.TrimSpace(string(b)))
		}
		whole = true
	}
}

// tell keeps a line in the place of one that nobody has read.
func (s *session) tell(line string) {
	select {
	case <-s.last:
	default:
	}
	s.last <- line
}

// next waits for a line that came after the one before was read.
func (s *session) next(ctx context.Context) (string, error) {
	t := time.NewTimer(s.wait)
	defer t.Stop()
	select {
	case l := <-s.last:
		return l, nil
	case <-s.ended:
		return "", s.err
	case <-t.C:
		return "", os.ErrDeadlineExceeded
	case <-ctx.Done():
		return "", ctx.Err()
	}
}

// Configure listens for what the dial stands on.
func (s *session) Configure(ctx context.Context, m unit.Measure) error {
	if Dial(m) == "" {
		return fmt.Errorf("no dial for %q", m)
	}
	s.want = m
	_, _, err := s.Read(ctx)
	return err
}

// Read returns the newest reading; a [meters.Refusal] where the dial stands on something else.
func (s *session) Read(ctx context.Context) (v float64, over bool, err error) {
	line, err := s.next(ctx)
	if err != nil {
		return 0, false, err
	}
	m, r, err := Parse(line)
	if err != nil {
		return 0, false, err
	}
	if m != s.want {
		return 0, false, meters.Refusal{Says: fmt.Sprintf("its dial stands on %s; turn it to %s", noun(m), noun(s.want))}
	}
	return r.Value, r.Over, nil
}

// Close ends the conversation.
func (s *session) Close() error {
	err := s.port.Close()
	<-s.ended
	return err
}

func noun(m unit.Measure) string { return strings.ReplaceAll(string(m), "_", " ") }

// Parse reads a line: the dial's word and the reading as a display shows it. The error is a [meters.Nonsense], or a
// [meters.Refusal] of what can be read and no meter in this trade shows.
func Parse(line string) (unit.Measure, unit.Reading, error) {
	word, shown, _ := strings.Cut(strings.TrimSpace(line), " ")
	m, ok := dials[strings.ToUpper(word)]
	if !ok {
		return "", unit.Reading{}, meters.Nonsense{Said: clip(line)}
	}
	r, err := unit.Parse(shown, m)
	var e *unit.Error
	if errors.As(err, &e) && e.Beyond {
		return "", unit.Reading{}, meters.Refusal{Says: e.What + "; " + e.Mend}
	}
	if err != nil {
		return "", unit.Reading{}, meters.Nonsense{Said: clip(line)}
	}
	return m, r, nil
}

func clip(s string) string {
	if r := []rune(strings.ToValidUTF8(s, "?")); len(r) > 40 {
		return string(r[:40]) + "…"
	}
	return strings.ToValidUTF8(s, "?")
}
