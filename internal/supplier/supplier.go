package supplier

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"net/http"
	"net/url"
	"strings"
	"time"

	"corriente/core/parts"
)

// patience is how long a supplier is waited for.
const patience = 2500 * time.Millisecond

// Offer is one article of a supplier.
type Offer struct {
	Kind   string    `json:"kind"`
	Name   string    `json:"name"`
	Number string    `json:"number"`
	Sizes  []float64 `json:"sizes"`
	Price  float64   `json:"price"`
	Days   *float64  `json:"days"`
	Stock  int       `json:"stock"`
}

// client follows a supplier about its own house, and to no other: where it points is not for
// it to say.
func client(host string) *http.Client {
	return &http.Client{CheckRedirect: func(r *http.Request, via []*http.Request) error {
		if r.URL.Host != host || len(via) > 3 {
			return http.ErrUseLastResponse
		}
		return nil
	}}
}

// Ask asks the service at base for articles. The error is one sentence for people; a
// supplier that does not answer never stops a decision.
func Ask(ctx context.Context, base, question string) ([]parts.Part, error) {
	ctx, cancel := context.WithTimeout(ctx, patience)
	defer cancel()
	u, err := url.Parse(base)
	if err != nil || u.Scheme != "http" && u.Scheme != "https" || u.Host == "" {
		return nil, errors.New("the supplier's address is none: give it as http://host:port")
	}
	u = u.JoinPath("offers")
	u.RawQuery = url.Values{"q": {question}}.Encode()
	req, err := http.NewRequestWithContext(ctx, http.MethodGet, u.String(), nil)
	if err != nil {
		return nil, err
	}
	res, err := client(u.Host).Do(req)
	if errors.Is(err, context.DeadlineExceeded) {
		return nil, errors.New("the supplier is slow today and was not waited for: the shelf and the lists stand below")
	}
	if err != nil {
		return nil, errors.New("the supplier cannot be reached: the shelf and the lists stand below")
	}
	defer res.Body.Close()
	if res.StatusCode != http.StatusOK {
		return nil, fmt.Errorf("the supplier refused (%d): the shelf and the lists stand below", res.StatusCode)
	}
	var offers []Offer
	if err := json.NewDecoder(io.LimitReader(res.Body, 1<<20)).Decode(&offers); err != nil {
		if ctx.Err() != nil {
			return nil, errors.New("the supplier is slow today and was not waited for: the shelf and the lists stand below")
		}
		return nil, errors.New("the supplier answers nonsense: the shelf and the lists stand below")
	}
	out := []parts.Part{}
	for _, o := range offers[:min(len(offers), 100)] {
		if o.Name == "" || !(o.Price > 0 && o.Price < 1e6) || o.Days != nil && !(*o.Days >= 0 && *o.Days < 1000) {
			continue // an offer without a price is none
		}
		out = append(out, parts.Part{Kind: o.Kind, Name: o.Name, Number: o.Number, Sizes: o.Sizes, Price: o.Price,
			Days: o.Days, Stock: o.Stock, Supplier: u.Host})
	}
	return out, nil
}

// Simulated is a supplier that is not there: the mood is "", slow, down or nonsense.
type Simulated struct {
	Mood func() string
}

func days(d float64) *float64 { return &d }

var catalogue = []Offer{
	{"brush set", "Brush set for starters, 7x11x16 mm", "LS-1107", []float64{7, 11, 16}, 19.8, days(5), 40},
	{"brush set", "Brush set for pump motors, 5x8x14 mm", "LS-0508", []float64{5, 8, 14}, 9.4, days(5), 12},
	{"bearing", "Ball bearing 6203, sealed, 17x40x12 mm", "LB-6203", []float64{17, 40, 12}, 6.2, days(2), 300},
	{"bearing", "Ball bearing 6204, sealed, 20x47x14 mm", "LB-6204", []float64{20, 47, 14}, 7.1, days(2), 280},
	{"solenoid", "Starter solenoid 12 V", "LS-2012", nil, 58, days(4), 6},
	{"starter", "Starter 12 V, 1.4 kW, exchange", "LS-9914", nil, 189, days(3), 2},
	{"starter", "Starter 12 V, 2.2 kW", "LS-9922", nil, 268, nil, 0},
	{"relay", "Relay 12 V, 40 A", "LR-0040", nil, 5.9, days(2), 150},
	{"blower", "Heater blower 12 V", "LK-3001", nil, 96, days(6), 3},
	{"wiper motor", "Wiper motor, two speeds, 12 V", "LW-1200", nil, 121, days(9), 1},
	{"window motor", "Window motor, left", "LW-7001", nil, 84, days(7), 4},
	{"cable", "Battery cable 35 mm2, a metre", "LC-0035", []float64{35}, 8.6, days(2), 60},
	{"fuse", "Fuse 30 A", "LF-0030", nil, 0.4, days(2), 900},
}

// ServeHTTP answers /offers?q=.
func (s Simulated) ServeHTTP(w http.ResponseWriter, r *http.Request) {
	if r.URL.Path != "/offers" {
		http.NotFound(w, r)
		return
	}
	mood := ""
	if s.Mood != nil {
		mood = s.Mood()
	}
	switch mood {
	case "slow":
		select {
		case <-time.After(2 * patience):
		case <-r.Context().Done():
			return
		}
	case "down":
		http.Error(w, "closed", http.StatusServiceUnavailable)
		return
	case "nonsense":
		_, _ = io.WriteString(w, "<html>welcome</html>")
		return
	}
	q := r.URL.Query().Get("q")
	words, sizes := parts.Words(q), parts.Sizes(q)
	out := []Offer{}
	for _, o := range catalogue {
		p := parts.Part{Kind: o.Kind, Name: o.Name, Number: o.Number, Sizes: o.Sizes}
		if strings.TrimSpace(q) == "" || parts.Fit(&p, words, sizes) > 0 {
			out = append(out, o)
		}
	}
	w.Header().Set("Content-Type", "application/json")
	_ = json.NewEncoder(w).Encode(out)
}
