package wear

import (
	"errors"
	"math"
	"sort"
)

// Bearing is a deep groove ball bearing of a standard size; millimetres.
type Bearing struct {
	Designation string  `json:"designation"`
	Bore        float64 `json:"bore"`
	Outside     float64 `json:"outside"`
	Width       float64 `json:"width"`
	Note        string  `json:"note,omitempty"`
}

// bearings are the boundary dimensions of ISO 15, series 18, 19, 10, 02 and 03, by
// their basic designations. Where a shielded one of the same size is wider, it
// stands beside the open one.
var bearings = []Bearing{
	{"604", 4, 12, 4, ""}, {"605", 5, 14, 5, ""}, {"606", 6, 17, 6, ""}, {"607", 7, 19, 6, ""}, {"608", 8, 22, 7, ""},
	{"609", 9, 24, 7, ""},
	{"623", 3, 10, 4, ""}, {"624", 4, 13, 5, ""}, {"625", 5, 16, 5, ""}, {"626", 6, 19, 6, ""}, {"627", 7, 22, 7, ""},
	{"628", 8, 24, 8, ""}, {"629", 9, 26, 8, ""},
	{"634", 4, 16, 5, ""}, {"635", 5, 19, 6, ""},
	{"685", 5, 11, 3, "open"}, {"685", 5, 11, 5, "shielded"}, {"686", 6, 13, 3.5, "open"}, {"686", 6, 13, 5, "shielded"},
	{"687", 7, 14, 3.5, "open"}, {"687", 7, 14, 5, "shielded"}, {"688", 8, 16, 4, "open"},
	{"688", 8, 16, 5, "shielded"}, {"689", 9, 17, 4, "open"}, {"689", 9, 17, 5, "shielded"},
	{"694", 4, 11, 4, ""}, {"695", 5, 13, 4, ""}, {"696", 6, 15, 5, ""}, {"697", 7, 17, 5, ""}, {"698", 8, 19, 6, ""},
	{"699", 9, 20, 6, ""},
	{"6800", 10, 19, 5, ""}, {"6801", 12, 21, 5, ""}, {"6802", 15, 24, 5, ""}, {"6803", 17, 26, 5, ""},
	{"6804", 20, 32, 7, ""}, {"6805", 25, 37, 7, ""}, {"6806", 30, 42, 7, ""}, {"6807", 35, 47, 7, ""}, {"6808", 40, 52, 7, ""},
	{"6900", 10, 22, 6, ""}, {"6901", 12, 24, 6, ""}, {"6902", 15, 28, 7, ""}, {"6903", 17, 30, 7, ""},
	{"6904", 20, 37, 9, ""}, {"6905", 25, 42, 9, ""}, {"6906", 30, 47, 9, ""}, {"6907", 35, 55, 10, ""}, {"6908", 40, 62, 12, ""},
	{"6000", 10, 26, 8, ""}, {"6001", 12, 28, 8, ""}, {"6002", 15, 32, 9, ""}, {"6003", 17, 35, 10, ""},
	{"6004", 20, 42, 12, ""}, {"6005", 25, 47, 12, ""}, {"6006", 30, 55, 13, ""}, {"6007", 35, 62, 14, ""}, {"6008", 40, 68, 15, ""},
	{"6200", 10, 30, 9, ""}, {"6201", 12, 32, 10, ""}, {"6202", 15, 35, 11, ""}, {"6203", 17, 40, 12, ""},
	{"6204", 20, 47, 14, ""}, {"6205", 25, 52, 15, ""}, {"6206", 30, 62, 16, ""}, {"6207", 35, 72, 17, ""}, {"6208", 40, 80, 18, ""},
	{"6300", 10, 35, 11, ""}, {"6301", 12, 37, 12, ""}, {"6302", 15, 42, 13, ""}, {"6303", 17, 47, 14, ""},
	{"6304", 20, 52, 15, ""}, {"6305", 25, 62, 17, ""}, {"6306", 30, 72, 19, ""}, {"6307", 35, 80, 21, ""}, {"6308", 40, 90, 23, ""},
}

// Match is a standard size and how far the caliper was from it, in its own errors.
type Match struct {
	Bearing
	Off float64 `json:"off"`
}

// Identify finds the standard sizes that bore, outside diameter and width (m) fit,
// best first. u is the standard uncertainty of one reading, m; a worn shaft's ring and
// a bruised edge count with it. A size is named when no measure is off by more
// than three of them.
func Identify(bore, outside, width, u float64) ([]Match, error) {
	if !(bore > 0 && outside > bore && width > 0) || math.IsInf(outside+width, 0) {
		return nil, errors.New("the outside diameter is larger than the bore, and all three are above zero: check which is which")
	}
	u = math.Max(u, 1e-6)
	out := []Match{}
	for _, b := range bearings {
		db, do, dw := (bore-b.Bore/1000)/u, (outside-b.Outside/1000)/u, (width-b.Width/1000)/u
		if worst := math.Max(math.Abs(db), math.Max(math.Abs(do), math.Abs(dw))); worst <= 3 {
			out = append(out, Match{b, math.Sqrt((db*db + do*do + dw*dw) / 3)})
		}
	}
	sort.Slice(out, func(i, j int) bool { return out[i].Off < out[j].Off })
	return out, nil
}
