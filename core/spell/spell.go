package spell

import (
	"slices"
	"strings"
	"unicode"
)

// Book is a vocabulary in small letters.
type Book struct {
	// Right are the words that errors are mended to. A word that begins like one of them is
	// right as it is.
	Right []string
	// Fine are words of every day that are a letter away from one of these and mean themselves.
	Fine []string
}

// Word mends a word of small letters that is not in the book but one slip of the keys away from
// a word in it, two from one of nine letters and more. Words under four letters stay.
func (b *Book) Word(w string) string {
	if len(w) < 4 || slices.Contains(b.Fine, w) {
		return w
	}
	best, least := w, 3
	for _, v := range b.Right {
		if strings.HasPrefix(w, v) || strings.HasPrefix(v, w) {
			return w
		}
		most := 1
		switch {
		case len(v) < 5:
			continue
		case len(v) >= 9:
			most = 2
		}
		if w[0] != v[0] && len(v) < 6 {
			continue
		}
		// Of two as near, the one with the same first letter.
		if d := slips(w, v); d <= most && (d < least || d == least && best[0] != w[0] && v[0] == w[0]) {
			best, least = v, d
		}
	}
	return best
}

// Text mends every word of a text in small letters; what is between the words stays.
func (b *Book) Text(text string) string {
	var out strings.Builder
	var word []rune
	flush := func() {
		if len(word) > 0 {
			out.WriteString(b.Word(string(word)))
			word = word[:0]
		}
	}
	for _, r := range text {
		if unicode.IsLetter(r) {
			word = append(word, r)
			continue
		}
		flush()
		out.WriteRune(r)
	}
	flush()
	return out.String()
}

// slips counts letters left out, put in, taken for others or swapped with their neighbour:
// the optimal string alignment distance (Damerau, 1964).
func slips(a, b string) int {
	x, y := []rune(a), []rune(b)
	if n := len(x) - len(y); n > 2 || n < -2 {
		return 3
	}
	var two, one, row []int
	row = make([]int, len(y)+1)
	for j := range row {
		row[j] = j
	}
	for i := range x {
		two, one, row = one, row, make([]int, len(y)+1)
		row[0] = i + 1
		for j := range y {
			sub := one[j]
			if x[i] != y[j] {
				sub++
			}
			row[j+1] = min(sub, one[j+1]+1, row[j]+1)
			if i > 0 && j > 0 && x[i] == y[j-1] && x[i-1] == y[j] {
				row[j+1] = min(row[j+1], two[j-1]+1)
			}
		}
	}
	return row[len(y)]
}
