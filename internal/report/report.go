// Package report lays a job out on paper: one page for the customer in plain words, a
// file copy with everything, a label for the machine. It computes nothing: what it
// prints was worked out by the core.
package report

import (
	"bytes"
	"fmt"
	"io"
	"math"
	"time"

	"github.com/go-pdf/fpdf"
	"golang.org/x/image/font/gofont/gobold"
	"golang.org/x/image/font/gofont/goregular"

	"corriente/core/diagnose"
)

// Report is what is printed of a job.
type Report struct {
	Workshop  string
	Job       string // short number
	Machine   string
	Place     string
	Circuit   string
	Complaint string
	Opened    time.Time
	Closed    *time.Time
	Counter   string
	Found     string // the verdict, in one sentence
	RestsOn   []string
	Done      string
	Choice    string // who decided, and why
	Estimate  *float64
	Paid      *float64
	Parts     *float64
	Minutes   *float64
	Proof     string // passed, with whom and when
	Remark    string
	Watch     []string // what to watch
	Before    *diagnose.Picture
	After     *diagnose.Picture
	Checks    []Check
	Readings  []Reading
	Suspects  []Suspect
	Strip     []string
	Notes     []string
	Photos    []Photo
	Temporary string // limit of a temporary repair; empty for a lasting one
	Until     *time.Time
	By        string
}

// Check is one check of the proof.
type Check struct{ Label, Before, After, Good, Verdict string }

// Reading is one piece of evidence.
type Reading struct {
	N                       int
	What, State, Value, Sig string // Sig: its uncertainty
	Says                    string
	Struck                  bool
	At                      string
	By                      string
}

// Suspect is one diagnosis and its probability.
type Suspect struct {
	Label string
	P     float64
}

// Photo is a picture, JPEG.
type Photo struct {
	Label string
	JPEG  []byte
}

type rgb [3]int

// The application's own ink, on white paper.
var (
	ink    = rgb{37, 39, 43}
	grey   = rgb{107, 102, 92}
	copper = rgb{154, 79, 30}
	line   = rgb{217, 211, 199}
	wash   = rgb{246, 233, 221}
)

// sheet is a document with the application's type and ink.
type sheet struct {
	*fpdf.Fpdf
}

func newSheet(size fpdf.SizeType) *sheet {
	p := fpdf.NewCustom(&fpdf.InitType{OrientationStr: "P", UnitStr: "mm", Size: size})
	p.AddUTF8FontFromBytes("go", "", goregular.TTF)
	p.AddUTF8FontFromBytes("go", "B", gobold.TTF)
	p.SetMargins(16, 14, 16)
	p.SetAutoPageBreak(true, 16)
	p.SetCreator("Corriente", true)
	return &sheet{p}
}

func (s *sheet) colour(c rgb) { s.SetTextColor(c[0], c[1], c[2]) }

func (s *sheet) font(size float64, bold bool, c rgb) {
	style := ""
	if bold {
		style = "B"
	}
	s.SetFont("go", style, size)
	s.colour(c)
}

func (s *sheet) para(size float64, bold bool, c rgb, text string) {
	s.font(size, bold, c)
	s.MultiCell(0, size*0.47, text, "", "L", false)
}

func (s *sheet) head(text string) {
	s.Ln(2.5)
	s.para(11, true, copper, text)
}

func day(t time.Time) string { return t.Format("2 January 2006") }

func (r *Report) top(s *sheet, title, of string) {
	s.font(9, false, grey)
	s.CellFormat(0, 5, r.Workshop, "", 0, "L", false, 0, "")
	s.CellFormat(0, 5, "Job "+r.Job+" · "+day(r.Opened), "", 1, "R", false, 0, "")
	s.SetDrawColor(copper[0], copper[1], copper[2])
	s.SetLineWidth(0.8)
	s.Line(16, s.GetY()+1, s.width()-16, s.GetY()+1)
	s.Ln(5)
	s.para(19, true, ink, title)
	s.Ln(1)
	at := ""
	if r.Place != "" {
		at = r.Place + " · "
	}
	s.para(10.5, false, grey, of+at+r.Circuit+joined(" · ", r.Counter))
}

func joined(sep, s string) string {
	if s == "" {
		return ""
	}
	return sep + s
}

func (s *sheet) width() float64 { w, _ := s.GetPageSize(); return w }

// Customer writes the one page for the customer.
func (r *Report) Customer(w io.Writer) error {
	s := newSheet(fpdf.SizeType{Wd: 210, Ht: 297})
	s.SetAutoPageBreak(false, 10)
	s.SetTitle("Report "+r.Job, true)
	s.AddPage()
	r.top(s, r.Machine, "")
	s.head("What was wrong")
	s.para(10.5, false, ink, quoted(r.Complaint))
	s.head("What we found")
	s.para(12.5, true, ink, r.Found)
	if r.Done != "" {
		s.head(map[bool]string{true: "What we did", false: "What is to be done"}[r.After != nil])
		s.para(10.5, false, ink, r.Done+joined(". ", r.Choice))
	}
	half := (s.width() - 32 - 8) / 2
	y := s.GetY() + 4
	if r.Before != nil {
		s.path(r.Before, 16, y, half, 58, "Before")
	}
	if r.After != nil {
		s.path(r.After, 16+half+8, y, half, 58, "After")
	}
	s.SetY(y + 62)
	if len(r.Checks) > 0 {
		s.head(map[bool]string{true: "How we know it is good", false: "How we shall know that it is good"}[r.Proof != ""])
		s.table([]string{"Checked", "Before", "After", "Good is"}, []float64{0.46, 0.16, 0.16, 0.22}, checks(r.Checks, 6))
	}
	if r.Proof != "" {
		s.Ln(1)
		s.para(10.5, true, ink, r.Proof+joined(" ", r.Remark))
	}
	if r.Paid != nil || r.Estimate != nil {
		s.head("What it came to")
		text := ""
		if r.Paid != nil {
			text = fmt.Sprintf("%.2f", *r.Paid)
			if r.Estimate != nil {
				text += fmt.Sprintf(" (estimated %.2f)", *r.Estimate)
			}
		} else {
			text = fmt.Sprintf("estimated %.2f", *r.Estimate)
		}
		s.para(10.5, false, ink, text)
	}
	if r.Temporary != "" {
		s.SetFillColor(wash[0], wash[1], wash[2])
		s.Ln(2)
		s.font(10.5, true, copper)
		until := ""
		if r.Until != nil {
			until = " Until " + day(*r.Until) + "."
		}
		s.MultiCell(0, 5.4, "This is a temporary repair: "+r.Temporary+"."+until, "", "L", true)
	}
	if len(r.Watch) > 0 {
		s.head("What to watch")
		for _, x := range r.Watch {
			s.para(10, false, ink, "·  "+x)
		}
	}
	s.SetY(-16)
	s.font(8.5, false, grey)
	s.CellFormat(0, 4, "The machine's own manual and local rules come before this page."+joined(" ", r.By), "", 1, "L", false, 0, "")
	return s.Output(w)
}

func quoted(t string) string {
	if t == "" {
		return "No complaint was noted."
	}
	return "“" + t + "”"
}

func checks(cs []Check, most int) [][]string {
	var rows [][]string
	for _, c := range cs[:min(len(cs), most)] {
		rows = append(rows, []string{c.Label, c.Before, c.After + joined(" ", c.Verdict), c.Good})
	}
	return rows
}

// table writes rows whose cells wrap.
func (s *sheet) table(head []string, share []float64, rows [][]string) {
	const h = 4.6
	wide := s.width() - 32
	row := func(cells []string, bold bool, c rgb) {
		s.font(9, bold, c)
		lines := 1
		for i, t := range cells {
			lines = max(lines, len(s.SplitText(t, wide*share[i]-2)))
		}
		_, bottom := s.GetPageSize()
		if auto, margin := s.GetAutoPageBreak(); auto && s.GetY()+float64(lines)*h > bottom-margin {
			s.AddPage()
		}
		x, y := s.GetXY()
		for i, t := range cells {
			s.SetXY(x, y)
			s.MultiCell(wide*share[i]-2, h, t, "", "L", false)
			x += wide * share[i]
		}
		y += float64(lines)*h + 0.6
		s.SetDrawColor(line[0], line[1], line[2])
		s.SetLineWidth(0.2)
		s.Line(16, y, s.width()-16, y)
		s.SetXY(16, y+0.6)
	}
	row(head, true, grey)
	for _, r := range rows {
		row(r, false, ink)
	}
}

// path draws the current's way down from plus to minus: the healthy one thin, this one
// strong; a wide step where none should be is where the volts are lost.
func (s *sheet) path(p *diagnose.Picture, x, y, w, h float64, title string) {
	s.SetXY(x, y)
	s.font(9.5, true, ink)
	s.CellFormat(w, 5, title, "", 0, "L", false, 0, "")
	if len(p.Paths) == 0 || len(p.Paths[0].Nodes) < 2 {
		return
	}
	path := p.Paths[0]
	lo, hi := 0.0, 0.0
	for _, n := range path.Nodes {
		for _, v := range []float64{n.Mid, n.Ghost} {
			lo, hi = math.Min(lo, v), math.Max(hi, v)
		}
	}
	if hi-lo < 1e-6 {
		return
	}
	top, height := y+7, h-20
	px := func(i int) float64 { return x + 8 + (w-10)*float64(i)/float64(len(path.Nodes)-1) }
	py := func(v float64) float64 { return top + height*(hi-v)/(hi-lo) }
	s.font(7, false, grey)
	s.SetDrawColor(line[0], line[1], line[2])
	s.SetLineWidth(0.15)
	for _, v := range []float64{hi, lo} {
		s.Line(x+7, py(v), x+w, py(v))
		s.SetXY(x-1, py(v)-1.5)
		s.CellFormat(8, 3, fmt.Sprintf("%.1f V", v), "", 0, "R", false, 0, "")
	}
	draw := func(value func(n *diagnose.PictureNode) float64, c rgb, wide float64) {
		s.SetDrawColor(c[0], c[1], c[2])
		s.SetLineWidth(wide)
		for i := 0; i+1 < len(path.Nodes); i++ {
			a, b := value(&path.Nodes[i]), value(&path.Nodes[i+1])
			m := (px(i) + px(i+1)) / 2
			s.Line(px(i), py(a), m, py(a))
			s.Line(m, py(a), m, py(b))
			s.Line(m, py(b), px(i+1), py(b))
		}
	}
	draw(func(n *diagnose.PictureNode) float64 { return n.Ghost }, rgb{170, 165, 155}, 0.25)
	draw(func(n *diagnose.PictureNode) float64 { return n.Mid }, ink, 0.7)
	// Names of the steps that matter: the motor, and what loses more than it may.
	worst, at := 0.0, -1
	for i, st := range path.Stations {
		if over := st.Drop.Mid - st.Allowed; st.Kind != "motor" && st.Allowed > 0 && over > worst {
			worst, at = over, i
		}
	}
	s.font(7.5, false, ink)
	for i, st := range path.Stations {
		if st.Kind != "motor" && i != at {
			continue
		}
		m := (px(i) + px(i+1)) / 2
		text := fmt.Sprintf("%s %.2f V", st.Label, st.Drop.Mid)
		if i == at {
			s.colour(copper)
			s.SetFont("go", "B", 7.5)
		}
		tw := s.GetStringWidth(text) + 2
		tx := math.Max(x, math.Min(m-tw/2, x+w-tw))
		ty := top + height + 2.5
		if i == at {
			ty += 4
		}
		s.SetXY(tx, ty)
		s.CellFormat(tw, 3.6, text, "", 0, "C", false, 0, "")
		s.font(7.5, false, ink)
	}
}

// File writes the copy for the file: everything.
func (r *Report) File(w io.Writer) error {
	s := newSheet(fpdf.SizeType{Wd: 210, Ht: 297})
	s.SetTitle("File "+r.Job, true)
	s.AliasNbPages("")
	s.SetFooterFunc(func() {
		s.SetY(-12)
		s.font(8, false, grey)
		s.CellFormat(0, 4, fmt.Sprintf("Job %s · page %d of {nb}", r.Job, s.PageNo()), "", 0, "R", false, 0, "")
	})
	s.AddPage()
	r.top(s, "File copy", r.Machine+" · ")
	s.head("Complaint")
	s.para(10, false, ink, quoted(r.Complaint))
	s.head("Verdict")
	s.para(11.5, true, ink, r.Found)
	for _, x := range r.RestsOn {
		s.para(9.5, false, ink, "·  "+x)
	}
	if len(r.Suspects) > 0 {
		s.head("Diagnoses")
		var rows [][]string
		for _, x := range r.Suspects {
			rows = append(rows, []string{x.Label, fmt.Sprintf("%.1f %%", 100*x.P)})
		}
		s.table([]string{"Diagnosis", "Probability"}, []float64{0.8, 0.2}, rows)
	}
	if len(r.Readings) > 0 {
		s.head("Readings and looks, as they were taken")
		var rows [][]string
		for _, x := range r.Readings {
			v := x.Value + joined(" ", x.Sig)
			if x.Struck {
				v = "struck out: " + v
			}
			rows = append(rows, []string{fmt.Sprint(x.N), x.What + ", " + x.State, v, x.Says, x.At + joined(" ", x.By)})
		}
		s.table([]string{"", "What", "Value", "What it told", "When, who"}, []float64{0.05, 0.31, 0.17, 0.32, 0.15}, rows)
	}
	if r.Done != "" {
		s.head("Decision")
		s.para(10, false, ink, r.Done+joined(". ", r.Choice))
	}
	if r.Estimate != nil || r.Paid != nil {
		s.head("Costs")
		text := ""
		for _, x := range []struct {
			label string
			v     *float64
			unit  string
		}{{"estimated", r.Estimate, ""}, {"charged", r.Paid, ""}, {"parts", r.Parts, ""}, {"labour", r.Minutes, " min"}} {
			if x.v != nil {
				text += fmt.Sprintf("%s %.2f%s   ", x.label, *x.v, x.unit)
			}
		}
		s.para(10, false, ink, text)
	}
	if len(r.Strip) > 0 {
		s.head("Strip-down, in order")
		for i, x := range r.Strip {
			s.para(9.5, false, ink, fmt.Sprintf("%d  %s", i+1, x))
		}
	}
	if len(r.Notes) > 0 {
		s.head("Notes and calculations")
		for _, x := range r.Notes {
			s.para(9.5, false, ink, "·  "+x)
		}
	}
	if r.Before != nil || r.After != nil {
		half := (s.width() - 32 - 8) / 2
		_, bottom := s.GetPageSize()
		if s.GetY() > bottom-90 {
			s.AddPage()
		}
		y := s.GetY() + 4
		if r.Before != nil {
			s.path(r.Before, 16, y, half, 60, "Before")
		}
		if r.After != nil {
			s.path(r.After, 16+half+8, y, half, 60, "After")
		}
		s.SetY(y + 64)
	}
	if len(r.Checks) > 0 {
		s.head("Proof")
		s.table([]string{"Checked", "Before", "After", "Good is"}, []float64{0.46, 0.16, 0.16, 0.22}, checks(r.Checks, len(r.Checks)))
		s.para(10, true, ink, r.Proof+joined(" ", r.Remark))
	}
	for i, p := range r.Photos {
		if i%4 == 0 {
			s.AddPage()
			s.head("Photos")
		}
		name := fmt.Sprintf("photo%d", i)
		info := s.RegisterImageOptionsReader(name, fpdf.ImageOptions{ImageType: "JPG"}, bytes.NewReader(p.JPEG))
		if s.Err() || info == nil { // said where the picture would stand
			s.ClearError()
			s.SetXY(16+float64(i%2)*92, 34+float64(i%4/2)*122)
			s.font(9, false, grey)
			s.MultiCell(84, 4.4, "This photo could not be read and is not printed: "+p.Label, "1", "L", false)
			continue
		}
		wide, high := 84.0, 84*info.Height()/info.Width()
		if high > 105 {
			wide, high = wide*105/high, 105
		}
		x, y := 16+float64(i%2)*92, 34+float64(i%4/2)*122
		s.ImageOptions(name, x, y, wide, high, false, fpdf.ImageOptions{}, 0, "")
		s.SetXY(x, y+high+1)
		s.font(8.5, false, grey)
		s.CellFormat(84, 4, p.Label, "", 0, "L", false, 0, "")
	}
	return s.Output(w)
}

// Label writes a label for the machine, 100 by 62 mm: date, what, by whom.
func (r *Report) Label(w io.Writer) error {
	s := newSheet(fpdf.SizeType{Wd: 100, Ht: 62})
	s.SetMargins(6, 5, 6)
	s.SetAutoPageBreak(false, 2)
	s.AddPage()
	if r.Temporary != "" {
		s.SetFillColor(ink[0], ink[1], ink[2])
		s.Rect(0, 0, 100, 11, "F")
		s.SetXY(6, 2.6)
		s.font(13, true, rgb{255, 255, 255})
		until := ""
		if r.Until != nil {
			until = " until " + day(*r.Until)
		}
		s.CellFormat(88, 6, "TEMPORARY"+until, "", 1, "L", false, 0, "")
		s.SetY(13)
	}
	fit := func(size float64, bold bool, c rgb, text string, lines int) {
		s.font(size, bold, c)
		parts := s.SplitText(text, 88)
		if len(parts) > lines {
			parts = parts[:lines]
			parts[lines-1] += " …"
		}
		for _, t := range parts {
			s.CellFormat(88, size*0.45, t, "", 1, "L", false, 0, "")
		}
	}
	fit(15, true, ink, r.Machine, 1)
	s.Ln(1)
	fit(11, true, copper, r.Done, 2)
	s.Ln(1)
	at := r.Opened
	if r.Closed != nil {
		at = *r.Closed
	}
	fit(10, false, ink, day(at)+joined(" · ", r.Counter), 1)
	fit(10, false, ink, joined("by ", r.By), 1)
	if r.Temporary != "" {
		fit(9, false, ink, r.Temporary, 2)
	}
	s.SetY(-8)
	s.font(8, false, grey)
	fit(8, false, grey, "job "+r.Job+" · "+r.Workshop, 1)
	return s.Output(w)
}
