package parts

import (
	"errors"
	"fmt"
	"io"
	"math"
	"regexp"
	"slices"
	"sort"
	"strconv"
	"strings"
	"unicode/utf8"

	"corriente/core/list"
)

// Part is something that can be bought or lies on the shelf.
type Part struct {
	Kind     string    `json:"kind"` // brush set, bearing, solenoid, fuse
	Name     string    `json:"name"`
	Number   string    `json:"number"`
	Sizes    []float64 `json:"sizes"` // mm
	Price    float64   `json:"price"`
	Days     *float64  `json:"days"` // until it is here; nil: not known
	Stock    int       `json:"stock"`
	Supplier string    `json:"supplier"`
}

// ListLine is one line of a price list, as read or refused.
type ListLine struct {
	N      int    `json:"n"` // 1-based, the head counted
	Part   *Part  `json:"part,omitempty"`
	Wrong  string `json:"wrong,omitempty"`
	Remark string `json:"remark,omitempty"`
}

// MaxLines is the most lines of a list.
const MaxLines = 50000

var columns = map[string][]string{
	"kind":     {"kind", "type", "category", "what"},
	"name":     {"name", "description", "part", "item", "article"},
	"number":   {"number", "no", "part number", "article number", "sku", "code"},
	"size":     {"size", "sizes", "dimensions", "mm", "measures"},
	"price":    {"price", "cost", "net"},
	"days":     {"days", "delivery", "lead time", "delivery days", "wait"},
	"stock":    {"stock", "quantity", "qty", "on hand"},
	"supplier": {"supplier", "from", "vendor"},
}

// Read reads a price list: a head that names its columns, then a line a part; comma,
// semicolon or tab; decimal point or comma. It never stops at a bad line: each line gets
// its own verdict. The error says that the whole is no list.
func Read(r io.Reader) ([]ListLine, error) {
	rows, err := list.Read(r, columns, []string{"name", "price"}, MaxLines)
	if err != nil {
		return nil, err
	}
	out := make([]ListLine, len(rows))
	for i, row := range rows {
		out[i] = line(row)
	}
	return out, nil
}

func line(row list.Row) ListLine {
	get := row.Get
	l := ListLine{N: row.N}
	p := &Part{Kind: get("kind"), Name: get("name"), Number: get("number"), Supplier: get("supplier"), Sizes: Sizes(get("size"))}
	switch {
	case p.Name == "":
		l.Wrong = "the name is missing"
		return l
	case utf8.RuneCountInString(p.Name) > 200 || utf8.RuneCountInString(p.Number) > 80 ||
		utf8.RuneCountInString(p.Kind) > 80 || utf8.RuneCountInString(p.Supplier) > 80:
		l.Wrong = "a field is too long: 200 characters for a name, 80 for the others"
		return l
	case formula(p.Name) || formula(p.Number):
		l.Wrong = "a field begins like a spreadsheet formula: take the sign off"
		return l
	}
	if len(p.Sizes) == 0 {
		p.Sizes = Sizes(p.Name)
	}
	v, err := number(get("price"))
	switch {
	case get("price") == "":
		l.Wrong = "the price is missing"
		return l
	case err != nil || v < 0 || v > 1e6:
		l.Wrong = fmt.Sprintf("%q is no price", get("price"))
		return l
	}
	p.Price = v
	if s := get("stock"); s != "" {
		k, err := number(s)
		if err != nil || k < 0 || k > 1e6 || k != math.Trunc(k) {
			l.Wrong = fmt.Sprintf("%q is no count of pieces", s)
			return l
		}
		p.Stock = int(k)
	}
	if p.Price == 0 {
		if p.Stock == 0 {
			l.Wrong = "a price of zero for a part that is not on the shelf: give its price"
			return l
		}
		l.Remark = "costs nothing: from the shelf"
	}
	if d := get("days"); d != "" {
		k, err := number(d)
		if err != nil || k < 0 || k > 1000 {
			l.Wrong = fmt.Sprintf("%q is no number of days", d)
			return l
		}
		p.Days = &k
	} else if p.Stock == 0 {
		l.Remark = "days are missing: the usual wait stands in"
	}
	l.Part = p
	return l
}

// formula reports what a spreadsheet would run.
func formula(s string) bool {
	return s != "" && strings.ContainsRune("=+@", rune(s[0])) || len(s) > 1 && s[0] == '-' && (s[1] < '0' || s[1] > '9')
}

func number(s string) (float64, error) {
	s = strings.Map(func(r rune) rune {
		if strings.ContainsRune(" \u00a0'", r) {
			return -1
		}
		return r
	}, s)
	// 1.234,50 and 1,234.50: the last mark is the decimal one.
	if i, j := strings.LastIndex(s, ","), strings.LastIndex(s, "."); i > j {
		s = strings.ReplaceAll(s[:i], ".", "") + "." + s[i+1:]
	} else if j > i && i >= 0 {
		s = strings.ReplaceAll(s, ",", "")
	}
	v, err := strconv.ParseFloat(s, 64)
	if err != nil || math.IsNaN(v) || math.IsInf(v, 0) {
		return 0, errors.New("no number")
	}
	return v, nil
}

var sizeRe = regexp.MustCompile(`(?i)\d+(?:[.,]\d+)?(?:\s*[x×*]\s*\d+(?:[.,]\d+)?)+|\b\d+(?:[.,]\d+)?\s*mm\b`)

// Sizes reads measurements as they stand in a name or a question: 7x11x16, 20 × 47 × 14
// mm, 8 mm.
func Sizes(s string) []float64 {
	m := sizeRe.FindString(s)
	if m == "" {
		return nil
	}
	var out []float64
	for _, f := range strings.FieldsFunc(strings.ToLower(m), func(r rune) bool { return strings.ContainsRune("x×* m", r) }) {
		if v, err := strconv.ParseFloat(strings.ReplaceAll(f, ",", "."), 64); err == nil && v > 0 && v < 1e5 {
			out = append(out, v)
		}
	}
	return out
}

// Words are the words of a question without its measurements.
func Words(q string) []string {
	return strings.Fields(strings.ToLower(sizeRe.ReplaceAllString(q, " ")))
}

// Fit is how well a part answers a question, 0 to 1; 0 is not at all. Every word must
// stand in it (a plural counts as its singular), and every measurement asked for
// must be among its own, within 2 % or 0.3 mm, whichever is more.
func Fit(p *Part, words []string, sizes []float64) float64 {
	text := strings.ToLower(p.Kind + " " + p.Name + " " + p.Number)
	for _, w := range words {
		if !strings.Contains(text, w) && !strings.Contains(text, strings.TrimSuffix(w, "s")) &&
			!strings.Contains(text, strings.TrimSuffix(w, "es")) {
			return 0
		}
	}
	off, left := 0.0, slices.Clone(p.Sizes)
	for _, s := range sizes {
		best := -1
		for i, x := range left {
			if d := math.Abs(x - s); d <= math.Max(0.3, 0.02*s) && (best < 0 || d < math.Abs(left[best]-s)) {
				best = i
			}
		}
		if best < 0 {
			return 0
		}
		off += math.Abs(left[best]-s) / math.Max(0.3, 0.02*s)
		left = slices.Delete(left, best, best+1)
	}
	score := 1.0
	if len(sizes) > 0 {
		score -= 0.4 * off / float64(len(sizes))
	}
	return score
}

// Sort orders answers: the best fit first, then what is on the shelf, then price.
func Sort(ps []Part, words []string, sizes []float64) {
	sort.SliceStable(ps, func(i, j int) bool {
		a, b := Fit(&ps[i], words, sizes), Fit(&ps[j], words, sizes)
		if a != b {
			return a > b
		}
		if (ps[i].Stock > 0) != (ps[j].Stock > 0) {
			return ps[i].Stock > 0
		}
		return ps[i].Price < ps[j].Price
	})
}
