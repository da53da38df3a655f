package trace

import (
	"bufio"
	"bytes"
	"errors"
	"io"
	"runtime"
	"sync"
)

// pieceSize is how much of a large file is parsed at a time.
const pieceSize = 1 << 18

// piece is a stretch of whole lines on its way through a worker.
type piece struct {
	b    []byte
	err  error // of the reader, after b
	got  batch
	all  bool // every row of b was plain
	done chan struct{}
}

// side reads what is left in pieces of whole lines, parses them side by side on all
// cores, and puts them together in order. What is not plain, or does not follow on the
// rows before it, is read again one row after the other, so that it is understood or
// refused as in a small file.
func (p *parser) side() error {
	workers := runtime.GOMAXPROCS(0)
	stop := make(chan struct{})
	todo, ordered := make(chan *piece), make(chan *piece, workers)
	pool := sync.Pool{New: func() any { return &piece{b: make([]byte, 0, pieceSize+maxLine)} }}
	br := p.br // put takes its place where it reads a piece again
	var wg sync.WaitGroup
	defer wg.Wait()
	defer close(stop)
	wg.Go(func() {
		defer close(ordered)
		defer close(todo)
		var carry []byte
		for {
			c := pool.Get().(*piece)
			c.b, c.err, c.done = append(c.b[:0], carry...), nil, make(chan struct{})
			n := len(c.b)
			m, err := io.ReadFull(br, c.b[n:pieceSize])
			if errors.Is(err, io.ErrUnexpectedEOF) {
				err = io.EOF
			}
			c.b, c.err = c.b[:n+m], err
			if err == nil {
				// A line without an end goes on with the next piece, or is refused by the one who
				// reads rows.
				if i := bytes.LastIndexByte(c.b, '\n'); i >= 0 && len(c.b)-i <= maxLine {
					carry = append(carry[:0], c.b[i+1:]...)
					c.b = c.b[:i+1]
				} else {
					carry = carry[:0]
				}
			}
			select {
			case ordered <- c:
			case <-stop:
				return
			}
			select {
			case todo <- c:
			case <-stop:
				return
			}
			if err != nil {
				return
			}
		}
	})
	for range workers {
		wg.Go(func() {
			for c := range todo {
				d := &c.got
				for k := range p.f.Channels {
					if d.x[k] == nil { // rows are mostly longer than the first
						d.x[k] = make([]float32, 0, len(c.b)/(len(p.first)+1)+16)
					}
					d.x[k] = d.x[k][:0]
				}
				*d = batch{x: d.x}
				c.all = p.plain(c.b, d) == len(c.b)
				close(c.done)
			}
		})
	}
	for c := range ordered {
		<-c.done
		if err := p.put(c); err != nil {
			return err
		}
		if c.err != nil && !errors.Is(c.err, io.EOF) {
			return c.err
		}
		pool.Put(c)
	}
	return nil
}

// put adds a piece to what was read before it.
func (p *parser) put(c *piece) error {
	d := &c.got
	if timed := p.timeCol >= 0; c.all && p.ended == 0 && (!timed || p.f.N == 0 || d.n == 0 || d.t0 >= p.tN) {
		if timed && d.n > 0 {
			if d.t0 == p.tN && p.f.N > 0 {
				p.f.Repeats++
			}
			p.tN = d.tN
		}
		for k := range p.f.Channels {
			p.f.Channels[k].X = append(p.f.Channels[k].X, d.x[k]...)
			p.peak[k] = max(p.peak[k], d.peak[k])
		}
		p.f.N += d.n
		p.f.Repeats += d.repeats
		p.line += d.n
		return nil
	}
	was := p.br
	p.br = bufio.NewReaderSize(bytes.NewReader(c.b), len(c.b)+1)
	err := p.rest()
	p.br = was
	return err
}
