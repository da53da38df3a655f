package oldlist

import (
	"fmt"
	"io"
	"math"
	"slices"
	"strconv"
	"strings"
	"time"
	"unicode/utf8"

	"corriente/core/list"
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

var layouts = []string{time.DateOnly, "2.1.2006", "2/1/2006", "2006/01/02", "02-01-2006", time.RFC3339}

// Read reads a list. circuits are the ids that are known; now is the latest day there can be.
// A day written with slashes is read as day/month/year; where that cannot be, the line
// is refused rather than guessed.
func Read(r io.Reader, circuits []string, now time.Time) ([]OldLine, error) {
	rows, err := list.Read(r, columns, []string{"machine", "date", "what"}, maxLines)
	if err != nil {
		return nil, err
	}
	out := make([]OldLine, len(rows))
	for i, row := range rows {
		out[i] = read(row, circuits, now)
	}
	return out, nil
}

func read(row list.Row, circuits []string, now time.Time) OldLine {
	get := row.Get
	l := OldLine{N: row.N, Machine: get("machine"), What: get("what"), Done: get("done"), Fault: get("fault")}
	switch {
	case l.Machine == "":
		l.Wrong = "the machine is missing"
		return l
	case l.What == "" && l.Done == "":
		l.Wrong = "neither a complaint nor what was done"
		return l
	case utf8.RuneCountInString(l.Machine) > 120 || utf8.RuneCountInString(l.What) > 600 ||
		utf8.RuneCountInString(l.Done) > 600 || utf8.RuneCountInString(l.Fault) > 128:
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
