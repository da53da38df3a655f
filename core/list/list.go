package list

import (
	"encoding/csv"
	"errors"
	"fmt"
	"io"
	"slices"
	"strings"
	"unicode/utf8"
)

// Row is one line by its columns' names.
type Row struct {
	N      int // line of the file, 1-based
	fields map[string]string
}

// Get returns a column, "" where the list has none.
func (r Row) Get(column string) string { return r.fields[column] }

// maxBytes is the most that is read of a list.
const maxBytes = 16 << 20

// Read reads a list. columns are the names by which each column is known; those in must have
// to be there; most is how many lines there may be. The error says that the whole is no
// such list; what is wrong with one line is the caller's to say.
func Read(r io.Reader, columns map[string][]string, must []string, most int) ([]Row, error) {
	b, err := io.ReadAll(io.LimitReader(r, maxBytes))
	if err != nil {
		return nil, err
	}
	text := strings.TrimPrefix(string(b), "\ufeff")
	if !utf8.ValidString(text) { // an older program's file
		var l strings.Builder
		for i := 0; i < len(text); i++ {
			l.WriteRune(rune(text[i]))
		}
		text = l.String()
	}
	if strings.TrimSpace(text) == "" {
		return nil, fmt.Errorf("the list is empty: its first line names the columns, %s among them", strings.Join(must, ", "))
	}
	head, _, _ := strings.Cut(text, "\n")
	cr := csv.NewReader(strings.NewReader(text))
	for _, sep := range []rune{';', '\t'} {
		if strings.Count(head, string(sep)) > strings.Count(head, string(cr.Comma)) {
			cr.Comma = sep
		}
	}
	cr.FieldsPerRecord, cr.LazyQuotes, cr.TrimLeadingSpace = -1, true, true
	var at map[string]int
	var out []Row
	for {
		rec, err := cr.Read()
		if errors.Is(err, io.EOF) {
			break
		}
		n, _ := cr.FieldPos(0)
		if err != nil {
			return nil, fmt.Errorf("line %d cannot be read: is a quotation mark left open?", n)
		}
		if at == nil {
			at = map[string]int{}
			for i, h := range rec {
				for c, names := range columns {
					if _, seen := at[c]; !seen && slices.Contains(names, strings.ToLower(strings.TrimSpace(h))) {
						at[c] = i
					}
				}
			}
			for _, m := range must {
				if _, ok := at[m]; !ok {
					return nil, fmt.Errorf("line 1 must name the columns, %s among them; it says %q",
						strings.Join(must, ", "), strings.Join(rec, ", "))
				}
			}
			continue
		}
		if len(rec) == 1 && strings.TrimSpace(rec[0]) == "" {
			continue
		}
		if len(out) >= most {
			return nil, fmt.Errorf("the list has more than %d lines: send it in pieces", most)
		}
		row := Row{N: n, fields: map[string]string{}}
		for c, i := range at {
			if i < len(rec) {
				row.fields[c] = strings.TrimSpace(rec[i])
			}
		}
		out = append(out, row)
	}
	if len(out) == 0 {
		return nil, errors.New("the list has a head but no lines")
	}
	return out, nil
}
