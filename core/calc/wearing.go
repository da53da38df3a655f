package calc

import (
	"fmt"
	"math"
	"strings"

	"corriente/core/wear"
)

// wearing lists the calculators of what wears.
func wearing() []Calculator {
	return []Calculator{
		{ID: "brush", Group: "Brushes, commutator, bearings", Title: "Brush", Answers: "How much is left of it, and for how many hours?",
			Formula: "share = (now − least)/(new − least); hours = length left / wear per hour",
			Source:  "common practice; the maker's mark comes first", Caution: "Brush dust is not blown or breathed.",
			Inputs: []Input{q("new", "New", "mm", ""), q("now", "Now", "mm", ""),
				opt(hint(q("min", "Least, by the maker's mark", "mm", ""),
					"else 60 % of new for starters, a third for others")), opt(q("hours", "It has run", "h", "")),
				q("caliper", "Caliper reads to", "mm", "0.05"),
				pick("motor", "In a", "other", "starter", "starter", "other", "other motor"),
				pick("state", "It is", "fine", "fine", "free in its holder, face shiny, pigtail whole", "stuck",
					"stuck in its holder", "broken", "pigtail or spring broken", "burnt", "burnt on one edge")},
			example: example{map[string]string{"new": "16", "now": "11", "min": "6", "hours": "600"}, "50 % left", "good"},
			run:     brush},
		{ID: "commutator", Group: "Brushes, commutator, bearings", Title: "Commutator", Answers: "May it run on, be cleaned, or turned?",
			Formula: "each measure against its limit", Source: "common practice and from memory; the manual comes first",
			Inputs: []Input{pick("looks", "It looks", "smooth", looks()...), opt(q("new", "Diameter new", "mm", "")),
				opt(q("now", "Diameter now", "mm", "")), opt(q("least", "Least diameter, manual", "mm", "")),
				opt(q("runout", "Run-out", "mm", "")), opt(q("undercut", "Depth of the slots", "mm", ""))},
			example: example{map[string]string{"looks": "ridged", "runout": "0.12"}, "Run-out of 0.12", "bad"},
			run:     commutator},
		{ID: "bearing", Group: "Brushes, commutator, bearings", Title: "Ball bearing",
			Answers: "Which standard size is it, and how does it go on?",
			Formula: "bore, outside diameter and width against the series", Source: "ISO 15, dimension series 18, 19, 10, 02, 03",
			Inputs: []Input{q("bore", "Bore", "mm", ""), q("outside", "Outside diameter", "mm", ""),
				q("width", "Width", "mm", ""), q("caliper", "Caliper reads to", "mm", "0.05"),
				pick("sides", "Its sides", "sealed", "open", "open", "shields", "metal shields", "sealed",
					"rubber seals"), pick("feel", "Turned by hand", "smooth", "smooth", "smooth", "rough",
					"rough or gritty", "tight", "tight", "loose", "loose, rattles")},
			example: example{map[string]string{"bore": "20", "outside": "47.02", "width": "14"}, "6204", "good"},
			run:     bearing},
	}
}

func looks() []string {
	var out []string
	for _, f := range wear.Commutator() {
		out = append(out, f.ID, f.Label)
	}
	return out
}

func brush(a *ask, r *Result) {
	b := wear.Brush{New: a.num("new"), Now: a.num("now"), Hours: a.num("hours"), U: a.num("caliper") / math.Sqrt(3)}
	starter := a.choice("motor") == "starter"
	state := a.choice("state")
	if a.has("min") {
		b.Min = a.num("min")
	} else {
		b.Min = wear.DefaultMin(starter) * b.New
		r.line("Least, assumed", "%.1f mm", b.Min*1000)
	}
	if a.err != nil {
		return
	}
	l, err := b.Left()
	if a.wrong(err) {
		return
	}
	r.line("Left of what may wear", "%.0f %% ± %.0f", 100*l.Share, 200*l.U)
	if l.Known {
		r.line("Hours left", "%.0f (%.0f to %.0f)", l.Hours, l.LowHours, l.HiHour)
	}
	switch {
	case state == "broken":
		r.Judged, r.Says = "bad", "Pigtail or spring broken: a new set, whatever is left of it."
		a.observe(r, "brushes_seen", "broken")
	case state == "stuck":
		r.Judged, r.Says = "bad", "Stuck in its holder: it lost its copper. Clean holder and brush until it slides "+
			"by its own weight, then judge its length."
		a.observe(r, "brushes_seen", "stuck")
	case l.Worn:
		r.Judged, r.Says = "bad", "Worn out: a new set, all brushes together."
		a.observe(r, "brushes_seen", "worn")
	case l.Known && l.LowHours < 50 || l.Share < 0.15:
		r.Judged, r.Says = "near", "It works, and not for long: replace it while it is apart."
		a.observe(r, "brushes_seen", "fine")
	default:
		r.Judged, r.Says = "good", fmt.Sprintf("%.0f %% left: it goes back in, the same way round.", 100*l.Share)
		a.observe(r, "brushes_seen", "fine")
	}
	if state == "burnt" {
		r.Says += " A burnt edge means sparking: look at the commutator and the spring."
	}
	r.Steps = []string{"Mark each brush for its holder and its side.",
		"Springs have one temper: blue ones are soft, replace them.",
		"The face must be shiny over most of its width; new ones are seated with fine paper round the commutator."}
}

func commutator(a *ask, r *Result) {
	looks := a.choice("looks")
	var says []string
	bad := false
	for _, f := range wear.Commutator() {
		if f.ID == looks {
			says = append(says, f.Means, f.Do)
			bad = f.Bad
			for _, s := range f.Schools {
				r.Ways = append(r.Ways, Way{s.Way, s.Why})
			}
			a.observe(r, "commutator_seen", f.Word)
		}
	}
	if a.has("now") && (a.has("new") || a.has("least")) {
		now, least := a.num("now"), a.num("least")
		if !a.has("least") {
			least = a.num("new") * (1 - wear.MaxTurned)
			r.line("Least diameter, assumed", "%.2f mm", least*1000)
		}
		r.line("May still be turned", "%.2f mm", math.Max(0, now-least)*1000)
		if now < least {
			bad = true
			says = append(says, "It is under its least diameter: no more turning, the armature is replaced.")
		}
	}
	if a.has("runout") {
		if x := a.num("runout"); x > wear.MaxRunOut {
			bad = true
			says = append(says, fmt.Sprintf("Run-out of %.2f mm is over %.2f: the brushes jump. Turn it between its own bearings.",
				x*1000, wear.MaxRunOut*1000))
		} else {
			r.line("Run-out", "%.2f mm, within %.2f", x*1000, wear.MaxRunOut*1000)
		}
	}
	if a.has("undercut") {
		if x := a.num("undercut"); x < wear.MinUndercut {
			says = append(says, fmt.Sprintf("The slots are down to %.2f mm: cut them to %.1f and chamfer the edges.",
				x*1000, wear.Undercut*1000))
			r.Ways = append(r.Ways, Way{"Undercut the mica", "it wears slower than copper and lifts the brush"},
				Way{"Leave it flush", "some starters are made so: the manual says which"})
			if !bad {
				r.Judged = "near"
			}
		}
	}
	if a.err != nil {
		return
	}
	if bad {
		r.Judged = "bad"
	} else if r.Judged == "none" {
		r.Judged = "good"
		if looks != "smooth" {
			r.Judged = "near"
		}
	}
	r.Says = strings.Join(says, " ")
	r.Steps = []string{"Never emery cloth on a commutator that will run: its grit conducts and stays in the slots.",
		"After any cleaning, scrape the slots and wipe with a dry cloth."}
}

func bearing(a *ask, r *Result) {
	bore, od, w := a.num("bore"), a.num("outside"), a.num("width")
	u := a.num("caliper")
	sides, feel := a.choice("sides"), a.choice("feel")
	if a.err != nil {
		return
	}
	m, err := wear.Identify(bore, od, w, u)
	if a.wrong(err) {
		return
	}
	suffix := map[string]string{"open": "open", "shields": "with two metal shields", "sealed": "with two rubber seals"}[sides]
	switch {
	case len(m) == 0:
		r.Judged, r.Says = "cannot_tell", "No standard ball bearing has these sizes: measure the rings where they "+
			"are not worn, or it is an inch or special one."
	case len(m) > 1 && m[1].Off < m[0].Off+1 && m[1].Designation != m[0].Designation:
		r.Judged, r.Says = "cannot_tell", fmt.Sprintf("%s or %s: measure again with a finer caliper, or read the ring.",
			m[0].Designation, m[1].Designation)
	default:
		r.Judged, r.Says = "good", fmt.Sprintf("%s, %g × %g × %g mm, %s.", m[0].Designation, m[0].Bore, m[0].Outside, m[0].Width, suffix)
		if m[0].Note != "" {
			r.Says = fmt.Sprintf("%s, %g × %g × %g mm (this width is the %s one).", m[0].Designation, m[0].Bore,
				m[0].Outside, m[0].Width, m[0].Note)
		}
	}
	for _, x := range m {
		r.line(x.Designation, "%g × %g × %g mm %s", x.Bore, x.Outside, x.Width, x.Note)
	}
	a.observe(r, "bearing_feel", feel)
	r.Steps = []string{"On a shaft: press on the inner ring only. Into a housing: on the outer ring only. Never through the balls.",
		"Warm it to 80 to 100 °C for a shaft it is tight on; sealed ones not above 80 °C, never with a flame.",
		"On most motors tight on the shaft and free to slide in the end shield: if the ring turned in its seat, the seat is the fault.",
		"Sealed bearings keep their own grease: do not wash them."}
	r.Ways = []Way{{"Seals (rubber)", "keep water and brush dust out; a little more drag"},
		{"Shields (metal)", "run freer and hotter; let fine dust in"}}
}
