package workshop

import (
	"context"
	"encoding/json"
	"fmt"
	"strings"
	"time"
	"unicode"

	"github.com/google/uuid"
	"golang.org/x/text/currency"

	"corriente/core/record"
	"corriente/core/unit"
	"corriente/internal/store"
)

// Settings are what a workshop says once about itself. Money is in its currency.
type Settings struct {
	Name       string  `json:"name" maxLength:"120" doc:"as it stands on papers"`
	Address    string  `json:"address,omitempty" maxLength:"400" doc:"lines under the name"`
	Foot       string  `json:"foot,omitempty" maxLength:"400" doc:"what papers say at the foot"`
	Currency   string  `json:"currency,omitempty" maxLength:"3" doc:"ISO 4217: EUR, CHF, USD; empty: money is written without one"`
	Tax        float64 `json:"tax,omitempty" minimum:"0" maximum:"60" doc:"rate in percent that the prices hold; 0: papers say nothing of it"`
	HourRate   float64 `json:"hour_rate" minimum:"0" maximum:"1000"`
	LossPerDay float64 `json:"loss_per_day" minimum:"0" maximum:"100000" doc:"what a day of downtime costs the customer"`
	Comeback   float64 `json:"comeback" minimum:"0" maximum:"100000" doc:"money and goodwill each time it comes back"`
	Guarantee  int     `json:"guarantee,omitempty" minimum:"0" maximum:"120" doc:"months given on work; 0: papers say nothing of it"`
	TimeZone   string  `json:"time_zone,omitempty" maxLength:"64" doc:"IANA name: Europe/Zurich; empty: of the server"`
	Logo       string  `json:"logo,omitempty" maxLength:"36" doc:"id of a picture that stands at the head of papers"`
	Imperial   bool    `json:"imperial,omitempty" doc:"°F, AWG, inches and lb ft are written beside the metric figure"`
	Comma      bool    `json:"decimal_comma,omitempty" doc:"figures are written with a decimal comma, on screens and papers; exports for other programs keep the point"`
	OwnersCode bool    `json:"owners_code,omitempty" doc:"owners sign in with a code from their phone, or do nothing that only owners do"`
	Revision   int     `json:"revision" doc:"of what was read; a change made to another is refused"`
}

// settingsKey is where they are kept; before there were settings, the workshop's name stood by itself.
const settingsKey, nameKey = "settings", "workshop"

// usual are the figures of a workshop that has said nothing yet.
func usual() Settings { return Settings{HourRate: 58, LossPerDay: 25, Comeback: 60} }

// Settings reads them.
func (s *Service) Settings(ctx context.Context) (Settings, error) {
	x := usual()
	v, rev, err := s.Store.SettingAt(ctx, settingsKey)
	if err != nil {
		return x, err
	}
	if v == "" {
		x.Name, err = s.Store.Setting(ctx, nameKey)
		return x, err
	}
	err = json.Unmarshal([]byte(v), &x)
	x.Revision = rev
	return x, err
}

// Check brings settings to the form they are kept in, or says in a sentence what is wrong.
func (x *Settings) Check() error {
	x.Name = strings.Join(strings.Fields(x.Name), " ")
	x.Address, x.Foot = lines(x.Address), lines(x.Foot)
	x.Currency = strings.ToUpper(strings.TrimSpace(x.Currency))
	x.TimeZone = strings.TrimSpace(x.TimeZone)
	if x.Name == "" {
		return record.Refuse("the workshop needs a name: it stands on every paper")
	}
	if x.Currency != "" {
		if _, err := currency.ParseISO(x.Currency); err != nil {
			return record.Refuse("%q is no currency: give three letters such as EUR, CHF or USD, or leave it empty", x.Currency)
		}
	}
	if x.Logo != "" {
		if _, err := uuid.Parse(x.Logo); err != nil {
			return record.Refuse("the logo is no picture of this installation: choose it again")
		}
	}
	if x.TimeZone != "" {
		if _, err := time.LoadLocation(x.TimeZone); err != nil {
			return record.Refuse("%q is no time zone: give one such as Europe/Zurich, or leave it empty", x.TimeZone)
		}
	}
	return nil
}

// Style is how the workshop writes figures.
func (x *Settings) Style() unit.Style { return unit.Style{Imperial: x.Imperial, Comma: x.Comma} }

// lines keeps a text's lines and drops what is not seen.
func lines(s string) string {
	var out []string
	for l := range strings.Lines(s) {
		l = strings.TrimSpace(strings.Map(func(r rune) rune {
			if unicode.IsControl(r) {
				return -1
			}
			return r
		}, l))
		if l != "" {
			out = append(out, l)
		}
	}
	return strings.Join(out, "\n")
}

// PutSettings keeps them; store.ErrStale where somebody changed them since they were read.
func (s *Service) PutSettings(ctx context.Context, x Settings, by string) (Settings, error) {
	if err := x.Check(); err != nil {
		return x, err
	}
	b, err := json.Marshal(x)
	if err != nil {
		return x, err
	}
	if err := s.Store.PutSettingAt(ctx, settingsKey, string(b), x.Revision,
		store.Act{By: by, Kind: "settings", Says: "Changed the workshop's settings."}); err != nil {
		return x, err
	}
	return s.Settings(ctx)
}

// Zone is the time zone of papers and lists.
func (x *Settings) Zone() *time.Location {
	if x.TimeZone == "" {
		return time.Local
	}
	l, err := time.LoadLocation(x.TimeZone)
	if err != nil {
		return time.Local
	}
	return l
}

// Day writes a day as papers do, in the workshop's time zone.
func (x *Settings) Day(t time.Time) string { return t.In(x.Zone()).Format("2 January 2006") }

// Money writes a sum as papers do: with two places and the workshop's currency.
func (x *Settings) Money(v float64) string {
	t := fmt.Sprintf("%.2f", v)
	if x.Currency != "" {
		t += " " + x.Currency
	}
	return t
}
