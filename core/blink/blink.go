package blink

import (
	"encoding/csv"
	"errors"
	"fmt"
	"io"
	"math"
	"slices"
	"strconv"
	"strings"

	"corriente/core/circuit"
)

// MostCode is the largest code that is counted.
const MostCode = 20

// Entry is what one code stands for.
type Entry struct {
	Code   int      `json:"code"`
	Says   string   `json:"says"`
	Faults []string `json:"faults"` // station.mode
}

// Table is one table of codes.
type Table struct {
	Controller string  `json:"controller"`
	Machine    string  `json:"machine"` // kind of machine; "" is the controller's own table
	Circuit    string  `json:"circuit"` // family whose faults it names
	Entries    []Entry `json:"entries"`
}

// MaxRows is the most rows a table may have.
const MaxRows = 500

// ReadCSV reads a table: code, meaning, faults, with a head row. Comma, semicolon or tab.
// Faults stand in plain words ("drive motor: worn brushes") parted by | or +, or as station.mode
// parted by spaces. The error names the line and the mend.
func ReadCSV(r io.Reader, c *circuit.Circuit) ([]Entry, error) {
	b, err := io.ReadAll(io.LimitReader(r, 1<<20+1))
	if err != nil {
		return nil, err
	}
	if len(b) > 1<<20 {
		return nil, errors.New("the table is larger than 1 MiB: a table of codes is a page")
	}
	text := strings.TrimPrefix(string(b), "\ufeff")
	head, _, _ := strings.Cut(text, "\n")
	cr := csv.NewReader(strings.NewReader(text))
	cr.FieldsPerRecord = -1
	cr.TrimLeadingSpace = true
	for _, sep := range []rune{';', '\t'} {
		if strings.ContainsRune(head, sep) {
			cr.Comma = sep
		}
	}
	var out []Entry
	for n := 0; ; n++ {
		rec, err := cr.Read()
		if err == io.EOF {
			break
		}
		if err != nil {
			var pe *csv.ParseError
			if errors.As(err, &pe) {
				return nil, fmt.Errorf("line %d: %v: close the quotes or take them out", pe.Line, pe.Err)
			}
			return nil, err
		}
		line, _ := cr.FieldPos(0)
		if n == 0 {
			if len(rec) < 2 || !strings.EqualFold(strings.TrimSpace(rec[0]), "code") {
				return nil, fmt.Errorf("line %d: the first line must be the head: code, meaning, faults", line)
			}
			continue
		}
		if len(rec) == 1 && strings.TrimSpace(rec[0]) == "" {
			continue
		}
		if len(rec) < 2 || len(rec) > 3 {
			return nil, fmt.Errorf("line %d: %d columns where code, meaning and faults are expected", line, len(rec))
		}
		code, err := strconv.Atoi(strings.TrimSpace(rec[0]))
		if err != nil || code < 1 || code > MostCode {
			return nil, fmt.Errorf("line %d: %q is not a code: give 1 to %d", line, rec[0], MostCode)
		}
		if slices.ContainsFunc(out, func(e Entry) bool { return e.Code == code }) {
			return nil, fmt.Errorf("line %d: code %d stands here twice: join the two", line, code)
		}
		e := Entry{Code: code, Says: strings.TrimSpace(plain(rec[1])), Faults: []string{}}
		if e.Says == "" {
			return nil, fmt.Errorf("line %d: code %d has no meaning", line, code)
		}
		if len(rec) == 3 {
			if e.Faults, err = faultsOf(rec[2], c); err != nil {
				return nil, fmt.Errorf("line %d: %w", line, err)
			}
		}
		out = append(out, e)
		if len(out) > MaxRows {
			return nil, fmt.Errorf("line %d: more than %d rows", line, MaxRows)
		}
	}
	if len(out) == 0 {
		return nil, errors.New("line 2: there is no code in this table: write one row a code under the head")
	}
	return out, nil
}

// WriteCSV writes a table as ReadCSV reads it, with its faults in plain words.
func WriteCSV(w io.Writer, c *circuit.Circuit, es []Entry) error {
	cw := csv.NewWriter(w)
	_ = cw.Write([]string{"code", "meaning", "faults"})
	for _, e := range es {
		words := make([]string, len(e.Faults))
		for i, f := range e.Faults {
			words[i] = Plain(c, f)
		}
		_ = cw.Write([]string{strconv.Itoa(e.Code), harmless(e.Says), strings.Join(words, " | ")})
	}
	cw.Flush()
	return cw.Error()
}

// harmless puts a quote before what a spreadsheet would run; plain takes it off again.
func harmless(s string) string {
	if s != "" && strings.ContainsRune("=+-@\t\r'", rune(s[0])) {
		return "'" + s
	}
	return s
}

func plain(s string) string {
	if len(s) > 1 && s[0] == '\'' && strings.ContainsRune("=+-@\t\r'", rune(s[1])) {
		return s[1:]
	}
	return s
}

// WrongTable is how far a code is believed when only the controller's own table
// is at hand and machines of this kind have others (from memory).
const WrongTable = 0.5

// Choice is the table that holds for a machine, and how far it is believed.
type Choice struct {
	Table *Table  `json:"table"`
	Trust float64 `json:"trust"` // 0..1
	Says  string  `json:"says"`
}

// Choose picks the table of a controller for a kind of machine: the machine's own
// where there is one, else the controller's, believed less where other machines
// are known to have their own meanings.
func Choose(tables []Table, controller, machine string) Choice {
	var own *Table
	others := 0
	for i := range tables {
		t := &tables[i]
		if !strings.EqualFold(t.Controller, controller) {
			continue
		}
		switch {
		case t.Machine != "" && strings.EqualFold(t.Machine, machine):
			return Choice{t, 1, fmt.Sprintf("%s in a %s has its own meanings: these hold.", t.Controller, t.Machine)}
		case t.Machine == "":
			own = t
		default:
			others++
		}
	}
	switch {
	case own == nil:
		return Choice{nil, 0, "There is no table for this controller: a code says only that it finds something wrong."}
	case others > 0:
		return Choice{own, WrongTable, fmt.Sprintf("The controller's own table, but other machines give %s's codes "+
			"other meanings: a code counts for half.", own.Controller)}
	}
	return Choice{own, 1, "The controller's own table."}
}

// Codes gives a table's codes as the diagnosis takes them.
func (t *Table) Codes() map[int][]string {
	out := map[int][]string{}
	if t == nil {
		return out
	}
	for _, e := range t.Entries {
		if len(e.Faults) > 0 {
			out[e.Code] = e.Faults
		}
	}
	return out
}

// Count is what a lamp flashed, from being tapped along with.
type Count struct {
	Code   int     `json:"code"`   // 0: not known yet
	Rounds []int   `json:"rounds"` // flashes in each round, the last one perhaps not over
	Sure   float64 `json:"sure"`   // 0..1
	Says   string  `json:"says"`
}

// Group turns the times of taps (seconds, rising) into a code: flashes of one
// round follow each other quickly, rounds are parted by a longer pause. now is
// the time that has passed since, on the same clock. Two equal rounds, the
// second one over, make a code.
func Group(taps []float64, now float64) Count {
	out := Count{Rounds: []int{}}
	if len(taps) == 0 {
		out.Says = "Tap with each flash: space bar or the button."
		return out
	}
	var gaps []float64
	for i := 1; i < len(taps); i++ {
		gaps = append(gaps, taps[i]-taps[i-1])
	}
	// The pause between rounds is at least 1.8 times the usual gap between
	// flashes; codes of one flash have only pauses.
	short := math.Inf(1)
	for _, g := range gaps {
		short = math.Min(short, g)
	}
	limit := 1.8 * short
	if len(gaps) == 0 || slices.Max(gaps) < limit && short > 1.2 {
		limit = 1.2 // every gap is a pause: a code of one flash
	}
	run := 1
	for _, g := range gaps {
		if g > limit {
			out.Rounds = append(out.Rounds, run)
			run = 0
		}
		run++
	}
	out.Rounds = append(out.Rounds, run)
	closed := len(out.Rounds) - 1
	if now-taps[len(taps)-1] > limit && (len(gaps) > 0 || now-taps[0] > 3) {
		closed++
	}
	if closed == 0 {
		out.Says = "Go on: the first round is not over."
		return out
	}
	// The commonest count among the rounds that are over.
	votes := map[int]int{}
	for _, r := range out.Rounds[:closed] {
		votes[r]++
	}
	best, n := 0, 0
	for r, v := range votes {
		if v > n || v == n && r > best {
			best, n = r, v
		}
	}
	switch {
	case best > MostCode:
		out.Says = "No pause was seen: tap again, and let the pauses be."
	case n >= 2:
		out.Code = best
		// A round miscounted one time in ten: two equal ones out of k.
		out.Sure = math.Round(100*(1-math.Pow(0.1, float64(n))*float64(closed)/float64(n))) / 100
		out.Says = fmt.Sprintf("Code %d, seen in %d of %d rounds.", best, n, closed)
	case closed == 1:
		out.Says = fmt.Sprintf("%d flashes so far: one more round, to be sure.", best)
	default:
		out.Says = fmt.Sprintf("The rounds differ (%s): go on until two are equal.",
			strings.Trim(strings.ReplaceAll(fmt.Sprint(out.Rounds[:closed]), " ", ", "), "[]"))
	}
	return out
}
