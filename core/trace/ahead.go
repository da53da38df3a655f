package trace

import "io"

// ahead reads on while what it read is being parsed: on a machine with more than one
// core the file costs next to nothing beside the parsing.
type ahead struct {
	full  chan piece
	empty chan []byte
	stop  chan struct{}
	now   piece
	at    int
}

type piece struct {
	b   []byte
	err error
}

const pieceSize = 1 << 20

// readAhead starts reading r; close ends it.
func readAhead(r io.Reader) *ahead {
	a := &ahead{full: make(chan piece, 2), empty: make(chan []byte, 3), stop: make(chan struct{})}
	for range 3 {
		a.empty <- make([]byte, pieceSize)
	}
	go func() {
		for {
			var buf []byte
			select {
			case buf = <-a.empty:
			case <-a.stop:
				return
			}
			n, err := io.ReadFull(r, buf[:pieceSize])
			if err == io.ErrUnexpectedEOF {
				err = io.EOF
			}
			select {
			case a.full <- piece{buf[:n], err}:
			case <-a.stop:
				return
			}
			if err != nil {
				return
			}
		}
	}()
	return a
}

func (a *ahead) close() { close(a.stop) }

// Read hands out what is there.
func (a *ahead) Read(p []byte) (int, error) {
	for a.at == len(a.now.b) {
		if a.now.err != nil {
			return 0, a.now.err
		}
		if a.now.b != nil {
			a.empty <- a.now.b[:cap(a.now.b)]
		}
		a.now, a.at = <-a.full, 0
	}
	n := copy(p, a.now.b[a.at:])
	a.at += n
	return n, nil
}
