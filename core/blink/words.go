package blink

import (
	"fmt"
	"maps"
	"slices"
	"strings"
	"unicode"

	"corriente/core/circuit"
	"corriente/core/fault"
)

// faultsOf reads the faults of one cell: station.mode parted by spaces, or plain words such as
// "drive motor: worn brushes" parted by ; | + or a comma.
func faultsOf(cell string, c *circuit.Circuit) ([]string, error) {
	out := []string{}
	add := func(f string) {
		if !slices.Contains(out, f) {
			out = append(out, f)
		}
	}
	for _, part := range strings.FieldsFunc(cell, func(r rune) bool { return strings.ContainsRune(";|+,\n\r", r) }) {
		part = strings.TrimSpace(part)
		if part == "" {
			continue
		}
		if ids := strings.Fields(part); !slices.ContainsFunc(ids,
			func(w string) bool { return !strings.Contains(strings.Trim(w, "."), ".") }) {
			for _, f := range ids {
				st, mode, _ := strings.Cut(f, ".")
				if s := c.Station(st); s == nil || !slices.Contains(circuit.KindModes(s.Kind), mode) {
					return nil, fmt.Errorf("circuit %s has no fault %q: write the part and what is wrong with it in "+
						"plain words, such as %q, or station.mode, such as motor.brushes_worn", c.ID, f, example(c))
				}
				add(f)
			}
			continue
		}
		f, err := plainFault(part, c)
		if err != nil {
			return nil, err
		}
		add(f)
	}
	return out, nil
}

// plainFault finds the fault that words name: the part by its label or id, what is wrong by the
// mode's. The one that accounts for most of the words wins.
func plainFault(text string, c *circuit.Circuit) (string, error) {
	said := significant(text)
	best, most, tie := "", 0, false
	for i := range c.Stations {
		s := &c.Stations[i]
		part := 2 * max(within(s.Label, said), within(strings.ReplaceAll(s.ID, "_", " "), said))
		if strings.Contains(strings.ToLower(text), strings.ToLower(s.Label)) { // in one piece, not by words of the fault
			part++
		}
		for mode := range s.Faults {
			wrong := max(within(fault.Label(mode), said), within(strings.ReplaceAll(mode, "_", " "), said))
			if wrong == 0 {
				continue
			}
			n := 10*part + wrong
			switch {
			case n > most:
				best, most, tie = s.ID+"."+mode, n, false
			case n == most && best != s.ID+"."+mode:
				tie = true
			}
		}
	}
	switch {
	case best == "":
		return "", fmt.Errorf("%q names no fault of this circuit: write the part and what is wrong with it, such as %q", text, example(c))
	case tie:
		return "", fmt.Errorf("%q may be several parts: name the part too, such as %q", text, example(c))
	}
	return best, nil
}

// example is a fault of a circuit in plain words.
func example(c *circuit.Circuit) string {
	for i := range c.Stations {
		if s := &c.Stations[i]; s.Kind == circuit.Motor {
			for _, mode := range slices.Sorted(maps.Keys(s.Faults)) {
				return strings.ToLower(s.Label) + ": " + fault.Label(mode)
			}
		}
	}
	return "motor: worn or hanging brushes"
}

// Plain is a fault in the words that are read back.
func Plain(c *circuit.Circuit, f string) string {
	st, mode, _ := strings.Cut(f, ".")
	if s := c.Station(st); s != nil {
		return strings.ToLower(s.Label) + ": " + fault.Label(mode)
	}
	return f
}

// within is how many significant words a name has, where all of them were said; 0 where one was not.
func within(name string, said []string) int {
	w := significant(name)
	for _, x := range w {
		if !slices.Contains(said, x) {
			return 0
		}
	}
	return len(w)
}

// significant are the words of a text in small letters, without those that part nothing and
// without a plural's s.
func significant(text string) []string {
	out := []string{}
	for _, w := range strings.FieldsFunc(strings.ToLower(text), func(r rune) bool { return !unicode.IsLetter(r) && !unicode.IsDigit(r) }) {
		switch w {
		case "or", "the", "a", "an", "to", "of", "and", "is", "are", "in", "at", "when", "its", "but", "too":
			continue
		}
		if len(w) > 4 {
			w = strings.TrimSuffix(strings.TrimSuffix(w, "s"), "e")
		}
		out = append(out, w)
	}
	return out
}
