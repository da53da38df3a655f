package parts

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func TestEveryLineGetsItsVerdict(t *testing.T) {
	ls, err := Read(strings.NewReader("\ufeffName;Kind;Size;Price;Days;Stock\r\n" +
		"Brush set, starter;brush set;7x11x16;24,50;4;\r\n" +
		"Ball bearing;bearing;20 × 47 × 14;1.234,00;;\r\n" +
		";bearing;;5;1;\r\n" +
		"Fuse 30 A;fuse;;free;1;\r\n" +
		"Solenoid;solenoid;;0;1;\r\n" +
		"Old fan;fan;;0;;2\r\n" +
		"=cmd|calc;fan;;4;1;\r\n" +
		"Wiper gear;gear;;40;soon;\r\n"))
	require.NoError(t, err)
	require.Len(t, ls, 8)
	assert.Equal(t, []float64{7, 11, 16}, ls[0].Part.Sizes)
	assert.Equal(t, 24.5, ls[0].Part.Price)
	assert.Equal(t, 4.0, *ls[0].Part.Days)
	assert.Equal(t, 1234.0, ls[1].Part.Price)
	assert.Contains(t, ls[1].Remark, "days are missing")
	assert.Contains(t, ls[2].Wrong, "name is missing")
	assert.Contains(t, ls[3].Wrong, `"free" is no price`)
	assert.Contains(t, ls[4].Wrong, "price of zero")
	assert.NotNil(t, ls[5].Part)
	assert.Contains(t, ls[6].Wrong, "spreadsheet formula")
	assert.Contains(t, ls[7].Wrong, `"soon"`)
	assert.Equal(t, 9, ls[7].N)
	for _, bad := range []string{"", "a,b\n1,2\n", "name,price\n"} {
		_, err := Read(strings.NewReader(bad))
		assert.Error(t, err, "%q", bad)
	}
}

func TestAPartIsFoundByWhatItIsAndMeasures(t *testing.T) {
	ps := []Part{{Name: "Ball bearing 6204, sealed", Kind: "bearing", Sizes: []float64{20, 47, 14}, Price: 9},
		{Name: "Ball bearing 6304", Kind: "bearing", Sizes: []float64{20, 52, 15}, Price: 11},
		{Name: "Brush set", Kind: "brush set", Sizes: []float64{7, 11, 16}, Price: 24},
		{Name: "Brush set", Kind: "brush set", Sizes: []float64{7, 11, 16}, Price: 30, Stock: 1}}
	find := func(q string) []Part {
		var out []Part
		for _, p := range ps {
			if Fit(&p, Words(q), Sizes(q)) > 0 {
				out = append(out, p)
			}
		}
		Sort(out, Words(q), Sizes(q))
		return out
	}
	got := find("bearing 20 x 47.1 x 14")
	require.Len(t, got, 1)
	assert.Contains(t, got[0].Name, "6204")
	got = find("brushes 7x11x16")
	require.Len(t, got, 2, "a plural counts as its singular")
	got = find("brush 11x7x16")
	require.Len(t, got, 2)
	assert.Equal(t, 1, got[0].Stock, "the shelf first")
	assert.Len(t, find("bearing"), 2)
	assert.Empty(t, find("bearing 25x52x15"))
}

func FuzzRead(f *testing.F) {
	f.Add("name,price\nx,1\n")
	f.Add("name;price;size\n\"a;b\";1,5;7x8\n")
	f.Fuzz(func(t *testing.T, s string) {
		ls, err := Read(strings.NewReader(s))
		if err != nil {
			return
		}
		for _, l := range ls {
			if (l.Part == nil) == (l.Wrong == "") {
				t.Fatalf("line %d is neither read nor refused", l.N)
			}
			if l.Part != nil && !(l.Part.Price >= 0) {
				t.Fatal("a price under zero")
			}
		}
	})
}
