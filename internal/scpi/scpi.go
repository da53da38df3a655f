package scpi

import (
	"bufio"
	"context"
	"errors"
	"fmt"
	"io"
	"net"
	"strconv"
	"strings"
	"time"

	"corriente/core/unit"
	"corriente/internal/meters"
)

// Limits on what an instrument may send.
const (
	maxLine  = 1 << 12
	maxBlock = 64 << 20
)

// Over is what SCPI-99 (7.2.1.4 and 7.2.1.5) sends for infinity, and NaN for
// no measurement.
const (
	Over = 9.9e37
	NaN  = 9.91e37
)

// Wait is how long an answer may take.
const Wait = 3 * time.Second

// Client is a connection to one instrument. It is not safe for concurrent use.
type Client struct {
	conn net.Conn
	r    *bufio.Reader
	wait time.Duration
}

// Close ends the connection.
func (c *Client) Close() error { return c.conn.Close() }

func (c *Client) deadline(ctx context.Context) error {
	d := time.Now().Add(c.wait)
	if x, ok := ctx.Deadline(); ok && x.Before(d) {
		d = x
	}
	return c.conn.SetDeadline(d)
}

// Send sends one command that is not answered.
func (c *Client) Send(ctx context.Context, cmd string) error {
	if err := c.deadline(ctx); err != nil {
		return err
	}
	_, err := io.WriteString(c.conn, cmd+"\n")
	return err
}

// Ask sends a query and returns the line that answers it.
func (c *Client) Ask(ctx context.Context, cmd string) (string, error) {
	if err := c.Send(ctx, cmd); err != nil {
		return "", err
	}
	line, err := c.r.ReadSlice('\n')
	if errors.Is(err, bufio.ErrBufferFull) {
		return "", meters.Nonsense{Said: string(line[:40]) + "…"}
	}
	if err != nil {
		return "", err
	}
	return strings.TrimSpace(string(line)), nil
}

// AskBlock sends a query that is answered by a block of definite length, #nL…
// (IEEE 488.2, 7.7.6).
func (c *Client) AskBlock(ctx context.Context, cmd string) ([]byte, error) {
	if err := c.Send(ctx, cmd); err != nil {
		return nil, err
	}
	head := make([]byte, 2)
	if _, err := io.ReadFull(c.r, head); err != nil {
		return nil, err
	}
	if head[0] != '#' || head[1] < '1' || head[1] > '9' {
		return nil, meters.Nonsense{Said: string(head)}
	}
	digits := make([]byte, head[1]-'0')
	if _, err := io.ReadFull(c.r, digits); err != nil {
		return nil, err
	}
	n, err := strconv.Atoi(string(digits))
	if err != nil || n < 0 || n > maxBlock {
		return nil, meters.Nonsense{Said: string(head) + string(digits)}
	}
	b := make([]byte, n)
	if _, err := io.ReadFull(c.r, b); err != nil {
		return nil, err
	}
	_, err = c.r.ReadSlice('\n')
	return b, err
}

// Identify asks who it is: maker, model, serial number and firmware, separated by
// commas.
func (c *Client) Identify(ctx context.Context) (string, error) {
	s, err := c.Ask(ctx, "*IDN?")
	if err == nil && strings.Count(s, ",") < 1 {
		err = meters.Nonsense{Said: s}
	}
	return s, err
}

// Errors empties the instrument's error queue and returns the first, nil for
// none.
func (c *Client) Errors(ctx context.Context) error {
	var first error
	for range 20 {
		s, err := c.Ask(ctx, "SYST:ERR?")
		if err != nil {
			return err
		}
		num, says, _ := strings.Cut(s, ",")
		n, err := strconv.Atoi(strings.TrimSpace(num))
		if err != nil {
			return meters.Nonsense{Said: s}
		}
		if n == 0 {
			return first
		}
		if first == nil {
			first = meters.Refusal{Code: n, Says: strings.Trim(says, `" `)}
		}
	}
	return first
}

// functions are the SCPI-99 names of what is measured.
var functions = map[unit.Measure]string{
	unit.Voltage: "VOLT:DC", unit.ACVoltage: "VOLT:AC", unit.Current: "CURR:DC", unit.Resistance: "RES",
	unit.Capacitance: "CAP", unit.Frequency: "FREQ",
}

// Function returns the SCPI-99 name of a measure, "" where there is none.
func Function(m unit.Measure) string { return functions[m] }

// Configure sets the instrument to a measure and asks it whether it can.
func (c *Client) Configure(ctx context.Context, m unit.Measure) error {
	f := functions[m]
	if f == "" {
		return fmt.Errorf("no instrument function for %q", m)
	}
	if err := c.Send(ctx, "CONF:"+f); err != nil {
		return err
	}
	return c.Errors(ctx)
}

// Read triggers a measurement and returns it, SI; over where the display would
// say so.
func (c *Client) Read(ctx context.Context) (v float64, over bool, err error) {
	s, err := c.Ask(ctx, "READ?")
	if err != nil {
		return 0, false, err
	}
	return Number(s)
}

// Number parses a decimal numeric answer (NR1, NR2 or NR3 of IEEE 488.2, 8.7).
func Number(s string) (v float64, over bool, err error) {
	first, _, _ := strings.Cut(s, ",")
	v, err = strconv.ParseFloat(strings.TrimSpace(first), 64)
	switch {
	case err != nil || v != v:
		return 0, false, meters.Nonsense{Said: clip(s)}
	case v >= NaN*(1-1e-9) && v <= NaN*(1+1e-9):
		return 0, false, meters.Nonsense{Said: clip(s)}
	case v >= Over*(1-1e-9), v <= -Over*(1-1e-9):
		return 0, true, nil
	}
	return v, false, nil
}

func clip(s string) string {
	if r := []rune(s); len(r) > 40 {
		return string(r[:40]) + "…"
	}
	return s
}
