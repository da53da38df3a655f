package disk

import (
	"fmt"
	"os"
	"path/filepath"
	"syscall"
)

// Below these shares of a disk it is said that room runs out: at Low to whoever can make some, at Full to all, since
// a database without room stores nothing.
const (
	Low  = 0.10
	Full = 0.02
)

// Room is what a disk has left for the application, in bytes.
type Room struct{ Free, Of uint64 }

// At is the room where a folder is, or is to be: of a folder that is not there yet its nearest parent's.
func At(dir string) (Room, error) {
	for {
		if _, err := os.Stat(dir); err == nil || dir == filepath.Dir(dir) {
			break
		}
		dir = filepath.Dir(dir)
	}
	var s syscall.Statfs_t
	if err := syscall.Statfs(dir, &s); err != nil {
		return Room{}, fmt.Errorf("%s: its disk cannot be asked how full it is: %w", dir, err)
	}
	return Room{Free: s.Bavail * uint64(s.Bsize), Of: s.Blocks * uint64(s.Bsize)}, nil
}

// Share is what is left of the disk, 0 to 1; 1 where its size is not known.
func (r Room) Share() float64 {
	if r.Of == 0 {
		return 1
	}
	return min(float64(r.Free)/float64(r.Of), 1)
}

// Level is "full", "low", or empty while there is room enough.
func (r Room) Level() string {
	switch s := r.Share(); {
	case s < Full:
		return "full"
	case s < Low:
		return "low"
	}
	return ""
}

// String is the room as a person reads it: 3.2 GB, 40 MB.
func (r Room) String() string {
	if r.Free >= 1<<30 {
		return fmt.Sprintf("%.1f GB", float64(r.Free)/(1<<30))
	}
	return fmt.Sprintf("%d MB", r.Free>>20)
}
