package scpi

import (
	"corriente/internal/meters"
	"net"
	"net/netip"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// Private ranges are those of RFC 1918 and RFC 4193, link-local those of RFC 3927 and RFC 4291.
func TestGate(t *testing.T) {
	db := netip.MustParseAddrPort("127.0.0.1:5555")
	strict := Gate{Never: []netip.AddrPort{db, netip.MustParseAddrPort("0.0.0.0:443")}}
	wide := Gate{AnyPort: true, Anywhere: true, Never: strict.Never}
	for addr, want := range map[string][2]bool{ // strict, wide
		"192.168.1.20:5025":        {true, true},
		"10.1.2.3:5024":            {true, true},
		"[fd12::20]:5025":          {true, true},
		"127.0.0.1:5025":           {true, true},
		"scope.workshop:5025":      {true, true},
		"scope.workshop:22":        {false, true},
		"192.168.1.20:22":          {false, true},
		"172.32.0.1:5025":          {false, true}, // just beyond 172.16.0.0/12
		"203.0.113.7:5025":         {false, true},
		"[2001:db8::1]:5025":       {false, true},
		"169.254.169.254:5025":     {false, false}, // link-local, where clouds keep their secrets
		"[fe80::1]:5025":           {false, false},
		"0.0.0.0:5025":             {false, false},
		"224.0.0.1:5025":           {false, false},
		"127.0.0.1:5555":           {false, false}, // the database
		"[::1]:5555":               {false, false},
		"[::ffff:127.0.0.1]:5555":  {false, false},
		"127.0.0.1:443":            {false, false}, // itself, which listens everywhere
		"[::ffff:192.168.1.20]:80": {false, true},
	} {
		assert.Equal(t, want[0], strict.Check(addr) == nil, "strict, %s: %v", addr, strict.Check(addr))
		assert.Equal(t, want[1], wide.Check(addr) == nil, "wide, %s: %v", addr, wide.Check(addr))
	}
	assert.NoError(t, (&Gate{Ports: []int{9001}}).Check("192.168.1.20:9001"))
	assert.Error(t, strict.Check("192.168.1.20"))
}

// A name is looked at when it has become an address, before anything reaches who listens there.
func TestGateLooksWhenItDials(t *testing.T) {
	l, err := net.Listen("tcp", "127.0.0.1:0")
	require.NoError(t, err)
	defer l.Close()
	called := make(chan struct{}, 1)
	go func() {
		if c, err := l.Accept(); err == nil {
			called <- struct{}{}
			c.Close()
		}
	}()
	at := l.Addr().(*net.TCPAddr).AddrPort()
	_, port, _ := net.SplitHostPort(at.String())
	g := Gate{AnyPort: true, Never: []netip.AddrPort{at}}
	_, err = g.Dial(t.Context(), net.JoinHostPort("localhost", port))
	require.ErrorAs(t, err, &meters.Closed{})
	assert.Contains(t, err.Error(), "application itself")
	assert.Empty(t, called)
	g.Never = nil
	c, err := g.Dial(t.Context(), net.JoinHostPort("localhost", port))
	require.NoError(t, err)
	require.NoError(t, c.Close())
	<-called
}
