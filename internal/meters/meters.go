// Package meters reads a workshop's instruments as they stand, whatever they speak: what an instrument's address looks
// like says which protocol it is.
package meters

import (
	"context"
	"fmt"

	"corriente/core/unit"
)

// Session is a conversation with one instrument. It is not safe for concurrent use.
type Session interface {
	// Configure sets the instrument to a measure. A [Refusal] says that it cannot, or what a person has to turn.
	Configure(ctx context.Context, m unit.Measure) error
	// Read returns what the display shows, SI; over where it says so. A [Nonsense] is an answer that is no reading.
	Read(ctx context.Context) (v float64, over bool, err error)
	Close() error
}

// Protocol is a language that instruments speak, and how they are reached in it.
type Protocol interface {
	// Takes reports whether an address is written as this protocol's are.
	Takes(addr string) bool
	// Check says why no instrument may have this address: a [Closed]; nil where it may.
	Check(addr string) error
	// Dial opens a conversation; it looks again at what Check looks at.
	Dial(ctx context.Context, addr string) (Session, error)
}

// Set is the protocols that are spoken. None of them is asked about an address that another takes before it.
type Set []Protocol

func (s Set) of(addr string) (Protocol, error) {
	for _, p := range s {
		if p.Takes(addr) {
			return p, nil
		}
	}
	return nil, Closed{fmt.Sprintf("%q is no address: give host and port, such as 192.168.1.20:5025, or the serial line "+
		"of this machine that it hangs on, such as /dev/ttyUSB0", addr)}
}

// Check says why no instrument may have an address; nil where it may. The error is a [Closed].
func (s Set) Check(addr string) error {
	p, err := s.of(addr)
	if err != nil {
		return err
	}
	return p.Check(addr)
}

// Dial opens a conversation with the instrument at an address.
func (s Set) Dial(ctx context.Context, addr string) (Session, error) {
	p, err := s.of(addr)
	if err != nil {
		return nil, err
	}
	return p.Dial(ctx, addr)
}

// Closed is an address that no instrument may have.
type Closed struct{ Says string }

func (c Closed) Error() string { return c.Says }

// Nonsense is an answer that is none.
type Nonsense struct{ Said string }

func (n Nonsense) Error() string { return fmt.Sprintf("answered %q, which is no reading", n.Said) }

// Refusal is what an instrument will not do.
type Refusal struct {
	Code int // of its own error queue; 0: it has none
	Says string
}

func (r Refusal) Error() string {
	if r.Code == 0 {
		return r.Says
	}
	return fmt.Sprintf("error %d: %s", r.Code, r.Says)
}
