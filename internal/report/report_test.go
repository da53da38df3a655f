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
)

func full() *Paper {
	p := &Paper{Workshop: "Workshop by the lake", Job: "8b8049", Title: "Punt “Ägir” 2½", Sub: "jetty · Starter",
		Opened: time.Date(2026, 11, 25, 0, 0, 0, 0, time.UTC), Foot: "The machine's own manual and local rules come before this page.",
		Sections: []Section{{ID: "complaint", Head: "What was wrong", Lines: []Para{{Text: "“Läuft nicht an, 0,3 Ω ± 5 µF”"}}},
			{ID: "found", Head: "What we found",
				Lines: []Para{{Text: "The plus cable is at fault.", Style: Strong},
					{Text: "This is a temporary repair.", Style: Caution},
					{Text: "Clock and radio code.", Style: Point}, {Text: "by the way", Style: Quiet}}}}}
	t := &Grid{Head: []string{"Checked", "Before", "After"}, Share: []float64{0.5, 0.25, 0.25}}
	for i := range 8 {
		t.Rows = append(t.Rows, []string{fmt.Sprint("Volts, somewhere to somewhere else ", i), "8.6 V", "11.5 V"})
	}
	p.Sections = append(p.Sections, Section{ID: "checks", Head: "How we know it is good", Table: t,
		After: []Para{{Text: "Proved good.", Style: Strong}}})
	return p
}

func pages(pdf []byte) int { return bytes.Count(pdf, []byte("/Type /Page\n")) }

// A customer's page is one page, a long copy goes on; a torn photo is named where it would
// stand; a label is a label.
func TestPapers(t *testing.T) {
	p := full()
	var b bytes.Buffer
	require.NoError(t, p.Write(&b, nil))
	assert.True(t, bytes.HasPrefix(b.Bytes(), []byte("%PDF-")))
	assert.Equal(t, 1, pages(b.Bytes()))
	b.Reset()
	for range 60 {
		p.Sections[2].Table.Rows = append(p.Sections[2].Table.Rows, []string{strings.Repeat("it told this much ", 6), "a", "b"})
	}
	require.NoError(t, p.Write(&b, []Photo{{"torn", []byte("no jpeg")}}))
	assert.Greater(t, pages(b.Bytes()), 2)
	if tool, err := exec.LookPath("pdftotext"); err == nil {
		cmd := exec.Command(tool, "-", "-")
		cmd.Stdin = &b
		text, err := cmd.Output()
		require.NoError(t, err)
		assert.Contains(t, strings.Join(strings.Fields(string(text)), " "), "This photo could not be read and is not printed: torn")
	}
	b.Reset()
	until := time.Date(2026, 12, 9, 0, 0, 0, 0, time.UTC)
	l := Label{Workshop: "Workshop", Job: "8b8049", Machine: "Punt",
		Done: []string{"Crimp a new end", strings.Repeat("a long story ", 30), "three", "four", "five"}, At: until,
		Temporary: "at most 14 days", Until: &until, By: "Jory"}
	require.NoError(t, l.Write(&b))
	assert.Equal(t, 1, pages(b.Bytes()))
}

// A job of which next to nothing is known prints too.
func TestAnEmptyJobPrints(t *testing.T) {
	var b bytes.Buffer
	require.NoError(t, (&Paper{Title: "Cart", Opened: time.Now(), Sections: []Section{{}}}).Write(&b, nil))
	assert.Greater(t, b.Len(), 1000)
	b.Reset()
	require.NoError(t, (&Label{}).Write(&b))
	assert.Greater(t, b.Len(), 1000)
}
