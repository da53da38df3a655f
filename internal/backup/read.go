package backup

import (
	"bufio"
	"compress/gzip"
	"crypto/sha256"
	"encoding/base64"
	"encoding/hex"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"strings"
)

// sink takes what a file holds, in its order.
type sink struct {
	begin func(Manifest) error
	row   func(table string, columns []string, values []any) error
}

// most is the longest line of a file, in bytes: a part of a file that somebody sent in, as base64.
const most = 64 << 20

// read goes through a file of either format. An error says what is wrong with it in one sentence;
// rows handed on before it are then to be thrown away.
func read(r io.Reader, to sink) (map[string]int, error) {
	z, err := gzip.NewReader(r)
	if err != nil {
		return nil, errors.New("it is no backup: it is not compressed as one")
	}
	br := bufio.NewReaderSize(z, 1<<20)
	head, err := br.Peek(len(oldMark))
	if err != nil {
		return nil, fmt.Errorf("it is no backup of this application: it does not begin with %q", Format)
	}
	if string(head) == oldMark {
		return readOld(br, to)
	}
	if head[0] != '{' {
		return nil, fmt.Errorf("it is no backup of this application: it does not begin with %q", Format)
	}
	return readLines(br, to)
}

func readLines(br *bufio.Reader, to sink) (map[string]int, error) {
	sum, n := sha256.New(), map[string]int{}
	var m Manifest
	for at := 1; ; at++ {
		b, err := line(br)
		switch {
		case errors.Is(err, io.EOF):
			return nil, fmt.Errorf("it ends in the middle, at line %d", at)
		case err != nil:
			return nil, fmt.Errorf("it is damaged at line %d: %w", at, err)
		}
		if at == 1 {
			if err := json.Unmarshal(b, &m); err != nil || m.Format != Format {
				return nil, fmt.Errorf("it is no backup of this application: it does not begin with %q", Format)
			}
			if err := to.begin(m); err != nil {
				return nil, err
			}
			sum.Write(b)
			continue
		}
		if strings.HasPrefix(string(b[:min(len(b), 12)]), `{"end":true`) {
			return n, check(b, hex.EncodeToString(sum.Sum(nil)), n, br)
		}
		sum.Write(b)
		var r row
		if err := json.Unmarshal(b, &r); err != nil {
			return nil, fmt.Errorf("it is damaged at line %d: that is no row", at)
		}
		cs := m.Tables[r.Table]
		if cs == nil || len(cs) != len(r.Values) {
			return nil, fmt.Errorf("it is damaged at line %d: a row of %q with %d values", at, r.Table, len(r.Values))
		}
		values := make([]any, len(cs))
		for i, v := range r.Values {
			if v == nil {
				continue
			}
			if values[i], err = base64.StdEncoding.DecodeString(*v); err != nil {
				return nil, fmt.Errorf("it is damaged at line %d: a value cannot be read", at)
			}
		}
		if err := to.row(r.Table, cs, values); err != nil {
			return nil, fmt.Errorf("line %d cannot be put back: %w", at, err)
		}
		n[r.Table]++
	}
}

// check holds what was read against what the end says.
func check(b []byte, sum string, n map[string]int, br *bufio.Reader) error {
	var e end
	if err := json.Unmarshal(b, &e); err != nil {
		return errors.New("its end cannot be read")
	}
	if e.SHA256 != sum {
		return errors.New("it is damaged: its checksum is not that of its lines")
	}
	for t, want := range e.Rows {
		if n[t] != want {
			return fmt.Errorf("it is damaged: table %s has %d rows of %d", t, n[t], want)
		}
	}
	if _, err := br.ReadByte(); !errors.Is(err, io.EOF) {
		return errors.New("something stands after its end")
	}
	return nil
}

// line reads one line with its end.
func line(br *bufio.Reader) ([]byte, error) {
	var out []byte
	for {
		b, err := br.ReadSlice('\n')
		out = append(out, b...)
		switch {
		case err == nil:
			return out, nil
		case !errors.Is(err, bufio.ErrBufferFull):
			if errors.Is(err, io.EOF) && len(out) > 0 {
				return nil, io.EOF
			}
			return nil, err
		case len(out) > most:
			return nil, errors.New("a line is too long")
		}
	}
}
