package draw

import (
	"bytes"
	"fmt"
	"slices"
	"strconv"
	"strings"
	"time"

	"wavekine/core/clock"
	"wavekine/core/export"
	"wavekine/core/plan"
	"wavekine/core/timeline"
)

// Booklet is the sheets of all days of a series as one PDF, behind an index that says on which page each day is; for the teacher, or what is handed out.
// Days without a class stand in the index.
func Booklet(s *plan.Series, days []export.SeriesDay, sheets map[int]export.Sheet, forMover bool) ([]byte, error) {
	p := newPaper(s.Title)
	index := (len(days) + indexLines - 1) / indexLines
	pages, n := map[int]int{}, index
	type fit struct {
		scale float64
		fine  int
	}
	fits := map[int]fit{}
	for i := range days { // how long each is, before the index is written
		sh, ok := sheets[days[i].N]
		if !ok {
			continue
		}
		pages[days[i].N] = n + 1
		if forMover {
			n += newMoverOn(newPaper(sh.Title), sh).rows()
			continue
		}
		k, fine, took, err := cueFit(sh)
		if err != nil {
			return nil, err
		}
		fits[days[i].N] = fit{k, fine}
		n += took
	}
	p.index(s, days, pages)
	for i := range days {
		sh, ok := sheets[days[i].N]
		switch {
		case !ok:
		case forMover:
			newMoverOn(p, sh).rows()
		default:
			f := fits[days[i].N]
			cueOn(p, sh, f.scale, f.fine)
		}
	}
	var out bytes.Buffer
	err := p.Output(&out)
	return out.Bytes(), err
}

// indexLines is how many days stand on a page of the index.
const indexLines = 40

func (p paperPen) index(s *plan.Series, days []export.SeriesDay, pages map[int]int) {
	for from := 0; from < len(days); from += indexLines {
		p.AddPage()
		p.SetTextColor(23, 37, 61)
		p.SetFont("Times", "", 19)
		p.Text(cueLeft, 19, p.clip(s.Title, 186))
		p.SetFont("Helvetica", "", 9)
		p.SetTextColor(86, 96, 111)
		p.Text(cueLeft, 25, p.clip(spanWords(days), 186))
		y := 33.0
		for i := from; i < min(len(days), from+indexLines); i++ {
			d := &days[i]
			p.SetDrawColor(218, 213, 200)
			p.SetLineWidth(.2)
			p.Line(cueLeft, y+1.7, cueRight, y+1.7)
			p.SetFont("Helvetica", "B", 9)
			p.SetTextColor(23, 37, 61)
			p.Text(cueLeft, y, strconv.Itoa(d.N))
			p.SetFont("Helvetica", "", 9)
			if !d.Date.IsZero() {
				p.Text(cueLeft+9, y, d.Date.Format("Mon 2 Jan"))
			}
			p.Text(cueLeft+32, y, p.clip(dayTitle(d), 100))
			p.SetTextColor(86, 96, 111)
			if d.Minutes > 0 && !d.Rest {
				p.Text(cueLeft+136, y, fmt.Sprintf("%d min", d.Minutes))
			}
			if pg := pages[d.N]; pg > 0 {
				t := "page " + strconv.Itoa(pg)
				p.Text(cueRight-p.GetStringWidth(t), y, t)
			}
			y += 6.1
		}
		p.SetFont("Helvetica", "", 8)
		p.Text(cueLeft, cueBottom, p.clip(stopWords, 186))
	}
}

func dayTitle(d *export.SeriesDay) string {
	t := d.Name()
	switch {
	case d.Rest:
		return "rest"
	case d.Off:
		return "called off"
	case t == "":
		return "no class"
	}
	if d.Peak {
		t += " · the hardest"
	} else if d.Kind == "easy" {
		t += " · easy"
	}
	return t
}

// spanWords says how many classes there are and when.
func spanWords(days []export.SeriesDay) string {
	classes, minutes := 0, 0
	var from, to time.Time
	for i := range days {
		d := &days[i]
		if d.Rest || d.Off || d.Title == "" {
			continue
		}
		classes++
		minutes += d.Minutes
		if !d.Date.IsZero() {
			if from.IsZero() {
				from = d.Date
			}
			to = d.Date
		}
	}
	out := fmt.Sprintf("%d days, %d classes, %d minutes in all", len(days), classes, minutes)
	if !from.IsZero() {
		out += ", " + from.Format("2 January 2006") + " to " + to.Format("2 January 2006")
	}
	return out
}

// Poster is a series on one page: its days in weeks with their waves, the hardest and the easy ones marked, what is learned, and when to stop.
func Poster(s *plan.Series, days []export.SeriesDay, learn []string) ([]byte, error) {
	p := newPaper(s.Title)
	p.AddPage()
	p.SetTextColor(23, 37, 61)
	p.SetFont("Times", "", 25)
	p.Text(12, 21, p.clip(s.Title, 186))
	p.SetFont("Helvetica", "", 10)
	p.SetTextColor(86, 96, 111)
	p.Text(12, 28, p.clip(spanWords(days), 186))
	top := 34.0
	if len(learn) > 0 {
		for i, l := range p.wrapped("Learned over the days: "+strings.Join(learn, ", "), 186, 2) {
			p.Text(12, 33+4.5*float64(i), l)
			top = 38 + 4.5*float64(i)
		}
	}
	slots, dated := posterSlots(days)
	weeks := 1
	for _, k := range slots {
		weeks = max(weeks, k/7+1)
	}
	if dated {
		p.SetFont("Helvetica", "", 8.5)
		for i := range 7 {
			p.Text(12+posterCell*float64(i)+1.5, top+3, []string{"Mon", "Tue", "Wed", "Thu", "Fri", "Sat", "Sun"}[i])
		}
		top += 5
	}
	h := min(52, (277-top)/float64(weeks))
	most := clock.Span(0)
	for i := range days {
		if days[i].TL != nil {
			most = max(most, days[i].TL.Total)
		}
	}
	for i := range days {
		if k := slots[i]; k >= 0 {
			p.cell(&days[i], 12+posterCell*float64(k%7), top+h*float64(k/7), posterCell, h, most)
		}
	}
	p.SetFont("Helvetica", "", 8)
	p.SetTextColor(86, 96, 111)
	p.Text(12, 285, p.clip(stopWords, 186))
	var out bytes.Buffer
	err := p.Output(&out)
	return out.Bytes(), err
}

// posterCell is how wide a day is on the poster, in millimetres; posterWeeks are the most that are read on a page.
const (
	posterCell  = 186. / 7
	posterWeeks = 10
)

// posterSlots is where each day stands on the poster, by weeks from monday where the days have dates, -1 for a day without one in between; dated tells so. Where
// that would take too many weeks the days stand one behind the other.
func posterSlots(days []export.SeriesDay) (slots []int, dated bool) {
	var monday time.Time
	slots = make([]int, len(days))
	at, most := 0, 0
	for i := range days {
		d := &days[i]
		switch {
		case d.Date.IsZero() && monday.IsZero():
			slots[i] = -1
		case d.Date.IsZero(): // a day of rest stands between two days that are one apart each
			slots[i] = -1
			if k := slices.IndexFunc(days[i:], func(o export.SeriesDay) bool { return !o.Date.IsZero() }); k < 0 || monday.AddDate(0, 0, at+k+1).Equal(days[i+k].Date) {
				slots[i] = at + 1
				at++
			}
		default:
			if monday.IsZero() {
				monday = d.Date.AddDate(0, 0, -(int(d.Date.Weekday())+6)%7)
				for k := i - 1; k >= 0 && int(d.Date.Sub(monday).Hours()/24)-(i-k) >= 0; k-- {
					slots[k] = int(d.Date.Sub(monday).Hours()/24) - (i - k)
				}
			}
			at = int(d.Date.Sub(monday).Hours() / 24)
			slots[i] = at
		}
		most = max(most, at)
	}
	taken := map[int]int{}
	for i, k := range slots { // a day of rest gives way
		if j, ok := taken[k]; ok && k >= 0 {
			if days[i].Date.IsZero() {
				slots[i] = -1
				continue
			}
			slots[j] = -1
		}
		taken[k] = i
	}
	if !monday.IsZero() && most/7 < posterWeeks {
		return slots, true
	}
	for i := range slots {
		slots[i] = i
	}
	return slots, false
}

// cell is a day on the poster.
func (p paperPen) cell(d *export.SeriesDay, x, y, w, h float64, most clock.Span) {
	p.SetDrawColor(218, 213, 200)
	p.SetLineWidth(.25)
	switch {
	case d.Peak:
		p.SetFillColor(245, 227, 218)
		p.Rect(x+.5, y+.5, w-1, h-1, "FD")
	case d.Rest || d.Off || d.Title == "":
		p.SetFillColor(239, 236, 227)
		p.Rect(x+.5, y+.5, w-1, h-1, "F")
	default:
		p.Rect(x+.5, y+.5, w-1, h-1, "D")
	}
	p.SetFont("Helvetica", "B", 10)
	p.SetTextColor(23, 37, 61)
	p.Text(x+2, y+5, strconv.Itoa(d.N))
	p.SetFont("Helvetica", "", 7)
	p.SetTextColor(86, 96, 111)
	if !d.Date.IsZero() {
		t := d.Date.Format("2 Jan")
		p.Text(x+w-2-p.GetStringWidth(t), y+4.8, t)
	}
	if d.Rest || d.Off || d.Title == "" {
		p.SetFont("Times", "I", 9)
		p.Text(x+2, y+h/2+1, dayTitle(d))
		return
	}
	p.wave(d.TL, x+2, y+6.2, w-4, max(4, h-17), most)
	p.SetFont("Helvetica", "", 7.4)
	p.SetTextColor(23, 37, 61)
	for i, l := range p.wrapped(d.Name(), w-4, 2) { // the number stands above
		p.Text(x+2, y+h-7.2+3*float64(i), l)
	}
	if d.Minutes > 0 {
		p.SetFont("Helvetica", "", 6.6)
		p.SetTextColor(86, 96, 111)
		t := fmt.Sprintf("%d min", d.Minutes)
		if d.Kind == "easy" {
			t += ", easy"
		}
		p.Text(x+2, y+h-1.6, t)
	}
}

// wave draws a class as it is on the screens: right above the line, left below, both on it, as wide as it is long.
func (p paperPen) wave(tl *timeline.Timeline, x, y, w, h float64, most clock.Span) {
	if tl == nil || tl.Total == 0 {
		return
	}
	mid, scale, unit := y+h/2, w/float64(max(most, tl.Total)), (h/2-.2)/9
	for i := range tl.Steps {
		st := &tl.Steps[i]
		if !st.Kind.Working() {
			continue
		}
		bx, bw, bh := x+float64(st.At)*scale, max(float64(st.S)*scale-.1, .15), max(min(st.Effort, 9)*unit, .15)
		switch st.Side {
		case timeline.Right:
			p.SetFillColor(197, 92, 52)
			p.Rect(bx, mid-bh, bw, bh, "F")
		case timeline.Left:
			p.SetFillColor(31, 128, 126)
			p.Rect(bx, mid, bw, bh, "F")
		default:
			p.SetFillColor(72, 89, 122)
			p.Rect(bx, mid-bh/2, bw, bh, "F")
		}
	}
	p.SetDrawColor(23, 37, 61)
	p.SetLineWidth(.15)
	p.Line(x, mid, x+float64(tl.Total)*scale, mid)
}

// TakeHome is a page of a few movements with how often and when to do them: "every day, mornings".
func TakeHome(sh export.Sheet, often string) ([]byte, error) {
	p := newPaper(sh.Title)
	m := newMoverOn(p, sh)
	m.often = often
	m.rows()
	var out bytes.Buffer
	err := p.Output(&out)
	return out.Bytes(), err
}

// SheetsOf are the sheets of the days of a series that have a class, by their number.
func SheetsOf(days []export.SeriesDay, sheet func(d *export.SeriesDay) export.Sheet) map[int]export.Sheet {
	out := map[int]export.Sheet{}
	for i := range days {
		if d := &days[i]; d.Class != nil && d.TL != nil && !d.Off {
			sh := sheet(d)
			if number := "Day " + strconv.Itoa(d.N); !strings.HasPrefix(sh.Title, number) {
				sh.Title = number + ": " + sh.Title
			}
			out[d.N] = sh
		}
	}
	return out
}
