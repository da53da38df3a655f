package main

import (
	"fmt"
	"os"
	"sync"
)

// progress is a line on the terminal that says how far long work has come; Ctrl-C stops the work. Where the errors go
// into a file or a pipe it says nothing. Safe for concurrent use.
func progress(what string) func(done, of int) {
	if i, err := os.Stderr.Stat(); err != nil || i.Mode()&os.ModeCharDevice == 0 {
		return nil
	}
	var mu sync.Mutex
	said := -1
	return func(done, of int) {
		mu.Lock()
		defer mu.Unlock()
		share := 100 * done / max(of, 1)
		if share <= said {
			return
		}
		said = share
		fmt.Fprintf(os.Stderr, "\r%d %% of %d %s, Ctrl-C stops ", share, of, what)
		if done >= of {
			fmt.Fprint(os.Stderr, "\r\033[K")
		}
	}
}
