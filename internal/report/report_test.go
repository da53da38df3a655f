package report

import (
	"bytes"
	"fmt"
	"os/exec"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"corriente/core/diagnose"
)

func full() *Report {
	p, m := 145.5, 90.0
	until := time.Date(2026, 12, 9, 0, 0, 0, 0, time.UTC)
	pic := &diagnose.Picture{Powered: true, Paths: []diagnose.PicturePath{{
		Nodes:    []diagnose.PictureNode{{Label: "plus", Mid: 12.1, Ghost: 12.2}, {Label: "stud", Mid: 9, Ghost: 12}, {Label: "case", Mid: 0.4, Ghost: 0.1}, {Label: "minus"}},
		Stations: []diagnose.PictureStation{{Kind: "wire", Label: "Plus cable", Drop: diagnose.Band90{Mid: 3.1}, Allowed: 0.2}, {Kind: "motor", Label: "Motor", Drop: diagnose.Band90{Mid: 8.6}}, {Kind: "wire", Label: "Ground", Drop: diagnose.Band90{Mid: 0.4}, Allowed: 0.5}}}}}
	r := &Report{Workshop: "Workshop by the lake", Job: "8b8049", Machine: "Punt “Ägir” 2½", Place: "jetty", Circuit: "Starter", Complaint: "Läuft nicht an, 0,3 Ω ± 5 µF",
		Opened: time.Date(2026, 11, 25, 0, 0, 0, 0, time.UTC), Counter: "88 214 km", Found: "The plus cable is at fault: high resistance.", RestsOn: []string{"volts, 3.1 V"}, Done: "Crimp a new end", Choice: "Chosen by the customer.",
		Estimate: &p, Paid: &p, Parts: &p, Minutes: &m, Proof: "Proved good.", Watch: []string{"Clock and radio code."}, Before: pic, After: pic, Temporary: "at most 14 days, labelled", Until: &until, By: "Jory",
		Checks: []Check{{"Volts at the motor", "8.6 V", "11.5 V", "10.6 V to 12 V", "good"}}, Suspects: []Suspect{{"Plus cable: high resistance", 0.97}}, Strip: []string{"13 mm nut, washer"}, Notes: []string{"Cable size: 16 mm²"},
		Photos: []Photo{{"torn", []byte("no jpeg")}}}
	for i := range 60 {
		r.Readings = append(r.Readings, Reading{N: i + 1, What: "Volts, somewhere to somewhere else", State: "cranking", Value: "9.05 V", Sig: "± 0.07 V", Says: strings.Repeat("it told this much ", 6), At: "25 Nov 10:00"})
	}
	return r
}

func pages(pdf []byte) int { return bytes.Count(pdf, []byte("/Type /Page\n")) }

// The customer's page is one page, however much there is to say; the file copy goes on; a
// label is a label. A torn photo spoils none of them.
func TestPapers(t *testing.T) {
	r := full()
	for i := range 40 {
		r.Checks = append(r.Checks, Check{fmt.Sprint("check ", i), "a", "b", "c", ""})
	}
	var b bytes.Buffer
	require.NoError(t, r.Customer(&b))
	assert.True(t, bytes.HasPrefix(b.Bytes(), []byte("%PDF-")))
	assert.Equal(t, 1, pages(b.Bytes()))
	b.Reset()
	require.NoError(t, r.File(&b))
	assert.Greater(t, pages(b.Bytes()), 2)
	if tool, err := exec.LookPath("pdftotext"); err == nil {
		cmd := exec.Command(tool, "-", "-")
		cmd.Stdin = &b
		text, err := cmd.Output()
		require.NoError(t, err)
		assert.Contains(t, strings.Join(strings.Fields(string(text)), " "), "This photo could not be read and is not printed: torn")
	}
	b.Reset()
	require.NoError(t, r.Label(&b))
	assert.Equal(t, 1, pages(b.Bytes()))
}

// A job of which next to nothing is known prints too.
func TestAnEmptyJobPrints(t *testing.T) {
	r := &Report{Machine: "Cart", Opened: time.Now(), Before: &diagnose.Picture{}}
	for _, f := range []func(*bytes.Buffer) error{func(b *bytes.Buffer) error { return r.Customer(b) }, func(b *bytes.Buffer) error { return r.File(b) }, func(b *bytes.Buffer) error { return r.Label(b) }} {
		var b bytes.Buffer
		require.NoError(t, f(&b))
		assert.Greater(t, b.Len(), 1000)
	}
}
