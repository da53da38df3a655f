package report

import (
	"bytes"
	"fmt"
	"io"
	"strings"
	"time"

	"github.com/go-pdf/fpdf"
	"golang.org/x/image/font/gofont/gobold"
	"golang.org/x/image/font/gofont/goregular"
)

// Paper is the text of one paper. The interface draws the same sections.
type Paper struct {
	Workshop string    `json:"workshop"`
	Address  string    `json:"address,omitempty" doc:"lines under the workshop's name"`
	Job      string    `json:"job" doc:"short number"`
	Title    string    `json:"title"`
	Sub      string    `json:"sub"`
	Opened   time.Time `json:"opened"`
	Sections []Section `json:"sections"`
	Foot     string    `json:"foot"`
	Logo     string    `json:"logo,omitempty" doc:"id of the picture at the head"`
	LogoJPEG []byte    `json:"-"`
}

// Section is one part of a paper under its heading.
type Section struct {
	ID    string `json:"id"`
	Head  string `json:"head"`
	Lines []Para `json:"lines"`
	Table *Grid  `json:"table,omitempty"`
	After []Para `json:"after,omitempty" doc:"below the table"`
}

// Para is one paragraph.
type Para struct {
	Text  string `json:"text"`
	Style string `json:"style,omitempty" enum:"strong,quiet,caution,point" doc:"how it stands out"`
}

// Styles of a line.
const (
	Strong  = "strong"
	Quiet   = "quiet"
	Caution = "caution"
	Point   = "point" // of a list
)

// Grid is a table with the widths of its columns as shares of the whole.
type Grid struct {
	Head  []string   `json:"head"`
	Share []float64  `json:"share"`
	Rows  [][]string `json:"rows"`
}

// Photo is a picture, JPEG.
type Photo struct {
	Label string
	JPEG  []byte
}

// Label is what a label says: what was done, one line a repair.
type Label struct {
	Workshop  string
	Job       string
	Machine   string
	Done      []string
	At        time.Time
	Counter   string
	By        string
	Temporary string // limit of a temporary repair; empty where none is
	Until     *time.Time
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

func joined(sep, s string) string {
	if s == "" {
		return ""
	}
	return sep + s
}

func (s *sheet) width() float64 { w, _ := s.GetPageSize(); return w }

// Write lays a paper out as PDF, its photos on pages of their own.
func (p *Paper) Write(w io.Writer, photos []Photo) error {
	s := newSheet(fpdf.SizeType{Wd: 210, Ht: 297})
	s.SetTitle(p.Title+" "+p.Job, true)
	s.AliasNbPages("")
	s.font(8, false, grey)
	foot := s.SplitText(strings.ReplaceAll(p.Foot, "\n", " "), 150)
	foot = foot[:min(len(foot), 4)]
	s.SetAutoPageBreak(true, 16+3.6*float64(max(len(foot)-1, 0)))
	s.SetFooterFunc(func() {
		s.SetY(-13 - 3.6*float64(max(len(foot)-1, 0)))
		s.font(8, false, grey)
		for _, l := range foot {
			s.CellFormat(150, 3.6, l, "", 1, "L", false, 0, "")
		}
		if s.PageCount() > 1 || s.PageNo() > 1 {
			s.SetXY(16, s.GetY()-3.6)
			s.CellFormat(0, 4, fmt.Sprintf("page %d of {nb}", s.PageNo()), "", 0, "R", false, 0, "")
		}
	})
	s.AddPage()
	s.logo(p.LogoJPEG)
	s.font(9, false, grey)
	s.CellFormat(0, 5, p.Workshop, "", 0, "L", false, 0, "")
	s.CellFormat(0, 5, "Job "+p.Job+" · "+day(p.Opened), "", 1, "R", false, 0, "")
	if p.Address != "" {
		s.para(8, false, grey, p.Address)
	}
	s.SetDrawColor(copper[0], copper[1], copper[2])
	s.SetLineWidth(0.8)
	s.Line(16, s.GetY()+1, s.width()-16, s.GetY()+1)
	s.Ln(5)
	s.para(19, true, ink, p.Title)
	s.Ln(1)
	s.para(10.5, false, grey, p.Sub)
	for i := range p.Sections {
		s.section(&p.Sections[i])
	}
	s.photos(photos)
	return s.Output(w)
}

// logo stands above the workshop's name, at most 60 by 16 mm; one that cannot be read is left
// out.
func (s *sheet) logo(jpeg []byte) {
	if len(jpeg) == 0 {
		return
	}
	info := s.RegisterImageOptionsReader("logo", fpdf.ImageOptions{ImageType: "JPG"}, bytes.NewReader(jpeg))
	if s.Err() || info == nil || info.Width() <= 0 || info.Height() <= 0 {
		s.ClearError()
		return
	}
	high := min(16, 60*info.Height()/info.Width())
	s.ImageOptions("logo", 16, s.GetY(), 0, high, false, fpdf.ImageOptions{}, 0, "")
	s.SetY(s.GetY() + high + 2)
}

func (s *sheet) section(x *Section) {
	_, bottom := s.GetPageSize()
	if s.GetY() > bottom-34 { // a heading does not stand by itself at the foot
		s.AddPage()
	}
	if x.Head != "" {
		s.head(x.Head)
	}
	s.lines(x.Lines)
	if x.Table != nil && len(x.Table.Rows) > 0 {
		s.table(x.Table.Head, x.Table.Share, x.Table.Rows)
	}
	s.lines(x.After)
}

func (s *sheet) lines(ls []Para) {
	for _, l := range ls {
		switch l.Style {
		case Strong:
			s.para(11.5, true, ink, l.Text)
		case Quiet:
			s.para(9.5, false, grey, l.Text)
		case Point:
			s.para(10, false, ink, "·  "+l.Text)
		case Caution:
			s.SetFillColor(wash[0], wash[1], wash[2])
			s.Ln(1)
			s.font(10.5, true, copper)
			s.MultiCell(0, 5.4, l.Text, "", "L", true)
			s.Ln(0.5)
		default:
			s.para(10.5, false, ink, l.Text)
		}
	}
}

// photos stand four on a page; one that cannot be read is named where it would stand.
func (s *sheet) photos(ps []Photo) {
	for i, p := range ps {
		if i%4 == 0 {
			s.AddPage()
			s.head("Photos")
		}
		name := fmt.Sprintf("photo%d", i)
		x, y := 16+float64(i%2)*92, 34+float64(i%4/2)*122
		info := s.RegisterImageOptionsReader(name, fpdf.ImageOptions{ImageType: "JPG"}, bytes.NewReader(p.JPEG))
		if s.Err() || info == nil {
			s.ClearError()
			s.SetXY(x, y)
			s.font(9, false, grey)
			s.MultiCell(84, 4.4, "This photo could not be read and is not printed: "+p.Label, "1", "L", false)
			continue
		}
		wide, high := 84.0, 84*info.Height()/info.Width()
		if high > 105 {
			wide, high = wide*105/high, 105
		}
		s.ImageOptions(name, x, y, wide, high, false, fpdf.ImageOptions{}, 0, "")
		s.SetXY(x, y+high+1)
		s.font(8.5, false, grey)
		s.CellFormat(84, 4, p.Label, "", 0, "L", false, 0, "")
	}
}

// Write lays a label out, 100 by 62 mm: what was done, when, by whom; a temporary repair
// says so first.
func (l *Label) Write(w io.Writer) error {
	s := newSheet(fpdf.SizeType{Wd: 100, Ht: 62})
	s.SetMargins(6, 5, 6)
	s.SetAutoPageBreak(false, 2)
	s.AddPage()
	if l.Temporary != "" {
		s.SetFillColor(ink[0], ink[1], ink[2])
		s.Rect(0, 0, 100, 11, "F")
		s.SetXY(6, 2.6)
		s.font(13, true, rgb{255, 255, 255})
		until := ""
		if l.Until != nil {
			until = " until " + day(*l.Until)
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
	fit(15, true, ink, l.Machine, 1)
	s.Ln(1)
	size, each := 11.0, 2
	if len(l.Done) > 1 {
		size, each = 9.5, 1
	}
	for _, d := range l.Done[:min(len(l.Done), 4)] {
		fit(size, true, copper, d, each)
	}
	s.Ln(1)
	fit(10, false, ink, day(l.At)+joined(" · ", l.Counter), 1)
	fit(10, false, ink, joined("by ", l.By), 1)
	if l.Temporary != "" {
		fit(9, false, ink, l.Temporary, 2)
	}
	s.SetY(-8)
	fit(8, false, grey, "job "+l.Job+" · "+l.Workshop, 1)
	return s.Output(w)
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
