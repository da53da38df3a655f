// Package oldlist reads the list of jobs that a workshop kept before: CSV with a head,
// each line with its own verdict.
package oldlist

import (
	"encoding/csv"
	"errors"
	"fmt"
	"io"
	"math"
	"slices"
	"strconv"
	"strings"
	"time"
	"unicode/utf8"
)

// OldLine is one line as read or refused.
type OldLine struct {
	N       int       `json:"n"` // 1-based, the head counted
	Machine string    `json:"machine"`
	Circuit string    `json:"circuit"` // a family's id; empty where the list does not say or nobody knows it
	Fault   string    `json:"fault"`
	What    string    `json:"what"`
	Done    string    `json:"done"`
	On      time.Time `json:"on"`
	Price   *float64  `json:"price,omitempty"`
	Wrong   string    `json:"wrong,omitempty"`
	Remark  string    `json:"remark,omitempty"`
}

const maxLines = 100000

var columns = map[string][]string{
	"machine": {"machine", "vehicle", "unit", "customer machine"},
	"date":    {"date", "day", "on", "opened"},
	"what":    {"complaint", "what", "problem", "symptom", "description"},
	"done":    {"done", "work", "repair", "solution", "action"},
	"fault":   {"fault", "cause", "found"},
	"circuit": {"circuit", "system", "kind", "type"},
	"price":   {"price", "amount", "cost", "total"},
}

var layouts = []string{time.DateOnly, "02.01.2006", "2.1.2006", "02/01/2006", "2006/01/02", "02-01-2006", time.RFC3339}

// Read reads a list. circuits are the ids that are known; now is the latest day there can be.
// A day written with slashes is read as day/month/year; where that cannot be, the line
// is refused rather than guessed.
func Read(r io.Reader, circuits []string, now time.Time) ([]OldLine, error) {
	b, err := io.ReadAll(io.LimitReader(r, 16<<20))
	if err != nil {
		return nil, err
	}
	text := strings.TrimPrefix(string(b), "\ufeff")
	if !utf8.ValidString(text) {
		return nil, errors.New("the list is not UTF-8 text: save it as CSV UTF-8")
	}
	if strings.TrimSpace(text) == "" {
		return nil, errors.New("the list is empty: its first line names the columns: machine, date, complaint")
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
	out := []OldLine{}
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
			for _, must := range []string{"machine", "date", "what"} {
				if _, ok := at[must]; !ok {
					return nil, fmt.Errorf("line 1 must name the columns machine, date and complaint; it says %q", strings.Join(rec, ", "))
				}
			}
			continue
		}
		if len(rec) == 1 && strings.TrimSpace(rec[0]) == "" {
			continue
		}
		if len(out) >= maxLines {
			return nil, fmt.Errorf("the list has more than %d lines: send it in pieces", maxLines)
		}
		out = append(out, read(n, rec, at, circuits, now))
	}
	if len(out) == 0 {
		return nil, errors.New("the list has a head but no lines")
	}
	return out, nil
}

func read(n int, rec []string, at map[string]int, circuits []string, now time.Time) OldLine {
	get := func(c string) string {
		if i, ok := at[c]; ok && i < len(rec) {
			return strings.TrimSpace(rec[i])
		}
		return ""
	}
	l := OldLine{N: n, Machine: get("machine"), What: get("what"), Done: get("done"), Fault: get("fault")}
	switch {
	case l.Machine == "":
		l.Wrong = "the machine is missing"
		return l
	case l.What == "" && l.Done == "":
		l.Wrong = "neither a complaint nor what was done"
		return l
	case utf8.RuneCountInString(l.Machine) > 120 || utf8.RuneCountInString(l.What) > 600 || utf8.RuneCountInString(l.Done) > 600 || utf8.RuneCountInString(l.Fault) > 128:
		l.Wrong = "a field is too long: 120 characters for a machine, 600 for what was wrong and done"
		return l
	}
	day := get("date")
	for _, f := range layouts {
		if t, err := time.Parse(f, day); err == nil {
			l.On = t
			break
		}
	}
	switch {
	case l.On.IsZero():
		l.Wrong = fmt.Sprintf("%q is no day: write it as 2024-03-31 or 31.03.2024", day)
		return l
	case l.On.After(now.AddDate(0, 0, 1)) || l.On.Year() < 1950:
		l.Wrong = fmt.Sprintf("%s is not a day a job can have been", l.On.Format(time.DateOnly))
		return l
	}
	if c := strings.ToLower(strings.ReplaceAll(get("circuit"), " ", "_")); c != "" {
		if slices.Contains(circuits, c) {
			l.Circuit = c
		} else {
			l.Remark = fmt.Sprintf("no circuit is named %q: kept without", get("circuit"))
		}
	}
	if p := get("price"); p != "" {
		v, err := strconv.ParseFloat(strings.ReplaceAll(strings.ReplaceAll(p, " ", ""), ",", "."), 64)
		if err != nil || !(v >= 0 && v < 1e7) || math.IsNaN(v) {
			l.Wrong = fmt.Sprintf("%q is no price", p)
			return l
		}
		l.Price = &v
	}
	return l
}
