package backup

import (
	"bufio"
	"encoding/hex"
	"errors"
	"fmt"
	"io"
	"regexp"
	"strconv"
	"strings"
	"time"
)

// oldMark is the first line of a backup of before this format: a dump in SQL.
const oldMark = "-- corriente backup 1"

var (
	createRe = regexp.MustCompile("^CREATE TABLE `([a-z0-9_]+)` \\($")
	columnRe = regexp.MustCompile("^  `([a-z0-9_]+)` ([^,]*)")
	insertRe = regexp.MustCompile("^INSERT INTO `([a-z0-9_]+)` VALUES")
)

// readOld reads a dump. Nothing of it is run: the columns come from how a table is made, the values
// from what is inserted; every other statement is passed over. The version of its schema is what it
// says in the table of migrations.
func readOld(br *bufio.Reader, to sink) (map[string]int, error) {
	m := Manifest{Format: oldMark, At: time.Time{}, Tables: map[string][]string{}}
	n := map[string]int{}
	held := map[string][][]any{} // until the version is known, which stands among the tables
	whole, table := false, ""
	hand := func(t string, values []any) error {
		cs := m.Tables[t]
		if len(cs) != len(values) {
			return fmt.Errorf("table %s has %d columns and a row %d values", t, len(cs), len(values))
		}
		n[t]++
		return to.row(t, cs, values)
	}
	for {
		b, err := line(br)
		if errors.Is(err, io.EOF) {
			break
		}
		if err != nil {
			return nil, fmt.Errorf("it is damaged: %w", err)
		}
		s := strings.TrimRight(string(b), "\r\n")
		switch {
		case strings.HasPrefix(s, "-- Dump completed"):
			whole = true
		case createRe.MatchString(s):
			table = createRe.FindStringSubmatch(s)[1]
		case table != "" && columnRe.MatchString(s):
			if c := columnRe.FindStringSubmatch(s); !strings.Contains(strings.ToUpper(c[2]), "GENERATED ALWAYS") {
				m.Tables[table] = append(m.Tables[table], c[1])
			}
		case strings.HasPrefix(s, ")"):
			table = ""
		case insertRe.MatchString(s):
			t := insertRe.FindStringSubmatch(s)[1]
			rest := s[len(insertRe.FindString(s)):]
			for !strings.HasSuffix(rest, ";") { // rows on lines of their own
				b, err := line(br)
				if err != nil {
					return nil, errors.New("it ends in the middle")
				}
				rest += strings.TrimRight(string(b), "\r\n")
			}
			rows, err := tuples(rest)
			if err != nil {
				return nil, fmt.Errorf("it is damaged: what is inserted into %s: %w", t, err)
			}
			held[t] = append(held[t], rows...)
		}
	}
	if !whole {
		return nil, errors.New("it ends in the middle")
	}
	for _, r := range held["goose_db_version"] { // id, version, applied, when
		if len(r) > 2 {
			if v, err := strconv.ParseInt(fmt.Sprintf("%s", r[1]), 10, 64); err == nil && v > m.Schema {
				m.Schema = v
			}
		}
	}
	if m.Schema == 0 {
		return nil, errors.New("it holds no tables of this application")
	}
	for _, t := range leftOut {
		delete(held, t)
		delete(m.Tables, t)
	}
	if err := to.begin(m); err != nil {
		return nil, err
	}
	for t, rows := range held {
		for _, r := range rows {
			if err := hand(t, r); err != nil {
				return nil, err
			}
		}
	}
	return n, nil
}

// tuples reads "(1,'a',NULL),(0xff,...);" as values. Anything that is no value is refused.
func tuples(s string) ([][]any, error) {
	var out [][]any
	p := &parser{s: s}
	for {
		p.space()
		if err := p.expect('('); err != nil {
			return nil, err
		}
		var r []any
		for {
			v, err := p.value()
			if err != nil {
				return nil, err
			}
			r = append(r, v)
			p.space()
			if p.take(')') {
				break
			}
			if err := p.expect(','); err != nil {
				return nil, err
			}
		}
		out = append(out, r)
		p.space()
		if p.take(';') {
			return out, nil
		}
		if err := p.expect(','); err != nil {
			return nil, err
		}
	}
}

type parser struct {
	s string
	i int
}

func (p *parser) space() {
	for p.i < len(p.s) && (p.s[p.i] == ' ' || p.s[p.i] == '\n') {
		p.i++
	}
}

func (p *parser) take(c byte) bool {
	if p.i < len(p.s) && p.s[p.i] == c {
		p.i++
		return true
	}
	return false
}

func (p *parser) expect(c byte) error {
	if !p.take(c) {
		return fmt.Errorf("%q is missing at character %d", c, p.i+1)
	}
	return nil
}

// value is NULL, a number, a text in quotes, or bytes in hexadecimal.
func (p *parser) value() (any, error) {
	p.space()
	rest := p.s[p.i:]
	switch {
	case strings.HasPrefix(rest, "NULL"):
		p.i += 4
		return nil, nil
	case strings.HasPrefix(rest, "0x"):
		k := 2
		for k < len(rest) && strings.IndexByte("0123456789abcdefABCDEF", rest[k]) >= 0 {
			k++
		}
		p.i += k
		return hex.DecodeString(rest[2:k])
	case strings.HasPrefix(rest, "'"):
		return p.text()
	}
	k := 0
	for k < len(rest) && strings.IndexByte("0123456789.+-eE", rest[k]) >= 0 {
		k++
	}
	if _, err := strconv.ParseFloat(rest[:k], 64); err != nil {
		return nil, fmt.Errorf("no value at character %d", p.i+1)
	}
	p.i += k
	return []byte(rest[:k]), nil
}

var escapes = map[byte]byte{'0': 0, 'n': '\n', 'r': '\r', 't': '\t', 'Z': 0x1a, 'b': '\b'}

func (p *parser) text() (any, error) {
	p.i++
	out := []byte{}
	for p.i < len(p.s) {
		c := p.s[p.i]
		p.i++
		switch {
		case c == '\\' && p.i < len(p.s):
			e := p.s[p.i]
			p.i++
			if x, ok := escapes[e]; ok {
				e = x
			}
			out = append(out, e)
		case c == '\'' && p.take('\''):
			out = append(out, '\'')
		case c == '\'':
			return out, nil
		default:
			out = append(out, c)
		}
	}
	return nil, errors.New("a text does not end")
}
