package scpi

import (
	"bufio"
	"context"
	"corriente/internal/meters"
	"errors"
	"fmt"
	"net"
	"net/netip"
	"slices"
	"strconv"
	"syscall"
)

// Ports on which instruments listen: SCPI over a socket and over telnet (5025 and 5024, IANA
// scpi-raw and scpi-telnet) and 5555, common practice among bench instruments.
var Ports = []int{5025, 5024, 5555}

// Gate says which addresses an instrument may have: those of a private network, at the ports
// of instruments. Without it, whoever may enter a meter's address could search the network
// from the server. The zero value is the strict one.
type Gate struct {
	Ports    []int            // besides those of instruments
	AnyPort  bool             // a bench that is simulated takes what is free
	Anywhere bool             // beyond private networks as well
	Never    []netip.AddrPort // the application's own: its database, itself
}

// Allow says why an instrument may not have an address; nil where it may.
func (g *Gate) Allow(a netip.AddrPort) error {
	ip := a.Addr().Unmap()
	for _, x := range g.Never {
		if x.Port() == a.Port() && (x.Addr().Unmap() == ip || ip.IsLoopback() && (x.Addr().IsUnspecified() || x.Addr().IsLoopback())) {
			return meters.Closed{Says: "this is an address of the application itself"}
		}
	}
	switch {
	case ip.IsUnspecified() || ip.IsMulticast() || ip.IsLinkLocalUnicast():
		return meters.Closed{Says: fmt.Sprintf("%s is no address of one instrument", ip)}
	case !g.Anywhere && !ip.IsPrivate() && !ip.IsLoopback():
		return meters.Closed{Says: fmt.Sprintf("%s lies outside the workshop's own network; the owner may allow it with --meters-anywhere",
			ip)}
	case !g.AnyPort && !slices.Contains(Ports, int(a.Port())) && !slices.Contains(g.Ports, int(a.Port())):
		return meters.Closed{Says: fmt.Sprintf("port %d is none of instruments (5025, 5024, 5555); the owner may "+
			"allow it with --meter-ports", a.Port())}
	}
	return nil
}

// Check looks at an address as it is entered: a name is looked up when it is called.
func (g *Gate) Check(addr string) error {
	host, port, err := net.SplitHostPort(addr)
	if err != nil {
		return err
	}
	n, err := strconv.ParseUint(port, 10, 16)
	if err != nil {
		return err
	}
	ip, err := netip.ParseAddr(host)
	if err != nil { // a name: its port at least
		ip = netip.AddrFrom4([4]byte{10, 0, 0, 1})
	}
	return g.Allow(netip.AddrPortFrom(ip, uint16(n)))
}

// Dial connects to host:port. The address is looked at when it is known and before anything is
// sent: a name that points elsewhere the next time gets nobody further.
func (g *Gate) Dial(ctx context.Context, addr string) (*Client, error) {
	d := net.Dialer{Timeout: Wait, ControlContext: func(_ context.Context, _, to string, _ syscall.RawConn) error {
		a, err := netip.ParseAddrPort(to)
		if err != nil {
			return meters.Closed{Says: fmt.Sprintf("%q is no address", to)}
		}
		return g.Allow(a)
	}}
	conn, err := d.DialContext(ctx, "tcp", addr)
	if err != nil {
		var no meters.Closed
		if errors.As(err, &no) {
			return nil, no
		}
		return nil, err
	}
	return &Client{conn, bufio.NewReaderSize(conn, maxLine), Wait}, nil
}

// Protocol reaches instruments over TCP, at host:port.
type Protocol struct{ Gate Gate }

// Takes reports whether an address has a host and a port.
func (p Protocol) Takes(addr string) bool {
	_, port, err := net.SplitHostPort(addr)
	n, perr := strconv.ParseUint(port, 10, 16)
	return err == nil && perr == nil && n > 0
}

// Check is the gate's.
func (p Protocol) Check(addr string) error { return p.Gate.Check(addr) }

// Dial is the gate's; the conversation is a *[Client].
func (p Protocol) Dial(ctx context.Context, addr string) (meters.Session, error) {
	c, err := p.Gate.Dial(ctx, addr)
	if err != nil {
		return nil, err
	}
	return c, nil
}
