package oldlist

import (
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func TestAnOldListLineByLine(t *testing.T) {
	now := time.Date(2026, 11, 25, 0, 0, 0, 0, time.UTC)
	ls, err := Read(strings.NewReader("\ufeffMachine;Date;Complaint;Done;Circuit;Price\r\n"+
		"Orchard tractor 9;31.03.2019;cranks slowly;new ground strap;starter;45,50\r\n"+
		"Old punt;2018-07-02;bilge pump dead;;pump thing;\r\n"+
		";2018-07-02;x;y;;\r\nOld punt;31/31/2018;x;y;;\r\nOld punt;2031-01-01;x;y;;\r\nOld "+
		"punt;2018-07-03;;;;\r\nOld punt;2018-07-04;x;;;dear\r\n"), []string{"starter"}, now)
	require.NoError(t, err)
	require.Len(t, ls, 7)
	assert.Equal(t, "starter", ls[0].Circuit)
	assert.Equal(t, 45.5, *ls[0].Price)
	assert.Equal(t, 2019, ls[0].On.Year())
	assert.Contains(t, ls[1].Remark, "kept without")
	for i, w := range []string{"machine is missing", "no day", "can have been", "neither", "no price"} {
		assert.Contains(t, ls[i+2].Wrong, w)
	}
	for _, bad := range []string{"", "a;b\n1;2\n", "machine,date,complaint\n"} {
		_, err := Read(strings.NewReader(bad), nil, now)
		assert.Error(t, err, "%q", bad)
	}
}

func FuzzRead(f *testing.F) {
	f.Add("machine,date,complaint\nx,2020-01-01,y\n")
	f.Fuzz(func(t *testing.T, s string) {
		ls, err := Read(strings.NewReader(s), nil, time.Now())
		if err != nil {
			return
		}
		for _, l := range ls {
			if l.Wrong == "" && (l.Machine == "" || l.On.IsZero()) {
				t.Fatalf("%+v", l)
			}
		}
	})
}
