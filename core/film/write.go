package film

import (
	"errors"
	"fmt"
	"slices"
	"strings"
	"unicode/utf8"

	"wavekine/core/clock"
)

// Labels are laid over a film for as long as they take to read (common subtitling practice): at most two lines of 42 characters, one to seven seconds, 17 characters a
// second at most.
const (
	LineChars  = 42
	MostLines  = 2
	ShortestOn = clock.Second
	LongestOn  = 7 * clock.Second
	CharsASec  = 17
	usualOn    = 5 * clock.Second
	betweenTwo = 120 * clock.Millisecond // so that one is seen to go before the next comes
	chapterMin = 10 * clock.Second       // chapters are so far apart
	leastChap  = 3                       // a list of fewer is not taken as chapters where films are shown; common practice, no source
)

// Label is a text on the picture, from when to when.
type Label struct {
	From, To clock.Span
	Lines    []string
}

// wrap breaks a text into at most two lines; what does not fit is left out word by word, and said to be.
func wrap(text string) (lines []string) {
	var line string
	words := strings.Fields(text)
	for i, w := range words {
		if utf8.RuneCountInString(w) > LineChars {
			w = string([]rune(w)[:LineChars-1]) + "…"
		}
		next := strings.TrimSpace(line + " " + w)
		if utf8.RuneCountInString(next) <= LineChars {
			line = next
			continue
		}
		if len(lines) == MostLines-1 {
			for line != "" && utf8.RuneCountInString(line) > LineChars-1 {
				if k := strings.LastIndex(line, " "); k > 0 {
					line = line[:k]
				} else {
					line = string([]rune(line)[:LineChars-1])
				}
			}
			return append(lines, strings.TrimRight(line, ",;:")+"…")
		}
		lines = append(lines, line)
		line = w
		_ = i
	}
	if line != "" {
		lines = append(lines, line)
	}
	return lines
}

func chars(lines []string) (n int) {
	for _, l := range lines {
		n += utf8.RuneCountInString(l)
	}
	return n
}

// reads is how long lines take to read.
func reads(lines []string) clock.Span {
	return max(ShortestOn, clock.Span(chars(lines))*clock.Second/CharsASec+1)
}

// Labels are the labels of a film: what, on which side and how much when it begins, the easier option after it. What cannot be read in the time there is, is left out,
// never shown too short.
func (f *Film) Labels() (out []Label) {
	put := func(from, until clock.Span, lines []string) (end clock.Span) {
		need := reads(lines)
		if len(lines) == 0 || until-from < need {
			return from
		}
		end = min(from+max(need, usualOn), from+LongestOn, until)
		out = append(out, Label{from, end, lines})
		return end + betweenTwo
	}
	for i := range f.Shots {
		x := &f.Shots[i]
		if !x.Works {
			continue
		}
		until := x.To - betweenTwo
		head := x.Name
		if x.Side != "" {
			head += ", " + x.Side
		}
		lines := wrap(head)
		if x.Dose != "" {
			if len(lines) < MostLines {
				lines = append(lines, x.Dose)
			} else if l := lines[1] + ", " + x.Dose; utf8.RuneCountInString(l) <= LineChars {
				lines[1] = l
			}
		}
		next := put(x.From, until, lines)
		if next == x.From && x.Side != "" { // the name alone is better than nothing
			next = put(x.From, until, wrap(x.Name))
		}
		if x.Easier != "" && next > x.From {
			put(next, until, wrap("Easier: "+x.Easier))
		}
	}
	return out
}

// Chapter is where something begins.
type Chapter struct {
	At    clock.Span
	Title string
}

// Chapters are where each row begins, the first at 0, each at least ten seconds after the one before: what begins sooner shares its chapter.
func (f *Film) Chapters() (out []Chapter) {
	if len(f.Shots) > 0 && f.Shots[0].From > 0 {
		out = append(out, Chapter{0, "Opening"})
	}
	seen := map[string]bool{}
	for i := range f.Shots {
		x := &f.Shots[i]
		key := x.Row.String()
		if seen[key] || x.Name == "Rest" {
			continue
		}
		seen[key] = true
		at := x.From / clock.Second * clock.Second // lists of chapters count whole seconds
		switch n := len(out); {
		case n == 0:
			out = append(out, Chapter{0, x.Name})
		case at-out[n-1].At < chapterMin && out[n-1].Title == "Opening":
			out[n-1].Title += ", " + x.Name
		case at-out[n-1].At < chapterMin:
			if !strings.HasSuffix(out[n-1].Title, x.Name) {
				out[n-1].Title += ", " + x.Name
			}
		case out[n-1].Title == x.Name: // the same again
		default:
			out = append(out, Chapter{at, x.Name})
		}
	}
	for len(out) > 1 && f.End-out[len(out)-1].At < chapterMin { // the last must last too
		last := out[len(out)-1]
		out = out[:len(out)-1]
		out[len(out)-1].Title += ", " + last.Title
	}
	return out
}

// stamp is a time as cues have it: 00:01:02.500, with the mark before the milliseconds.
func stamp(s clock.Span, mark string) string {
	return fmt.Sprintf("%02d:%02d:%02d%s%03d", s/(60*clock.Minute), s/clock.Minute%60, s/clock.Second%60, mark, s%clock.Second)
}

// vttText is a text within a cue of WebVTT (W3C WebVTT, 4.2.2: & and < are written as character references; --> must not stand in it).
func vttText(s string) string {
	return strings.NewReplacer("&", "&amp;", "<", "&lt;", ">", "&gt;").Replace(oneLine(s))
}

func oneLine(s string) string { return strings.Join(strings.Fields(s), " ") }

// VTT writes the labels as WebVTT.
func (f *Film) VTT() []byte {
	var b strings.Builder
	b.WriteString("WEBVTT\n")
	for i, l := range f.Labels() {
		fmt.Fprintf(&b, "\n%d\n%s --> %s\n", i+1, stamp(l.From, "."), stamp(l.To, "."))
		for _, line := range l.Lines {
			b.WriteString(vttText(line) + "\n")
		}
	}
	return []byte(b.String())
}

// SRT writes the labels as SubRip.
func (f *Film) SRT() []byte {
	var b strings.Builder
	for i, l := range f.Labels() {
		if i > 0 {
			b.WriteString("\r\n")
		}
		fmt.Fprintf(&b, "%d\r\n%s --> %s\r\n", i+1, stamp(l.From, ","), stamp(l.To, ","))
		for _, line := range l.Lines {
			b.WriteString(strings.ReplaceAll(oneLine(line), "-->", "->") + "\r\n")
		}
	}
	return []byte(b.String())
}

// ChapterVTT writes the chapters as WebVTT.
func (f *Film) ChapterVTT() []byte {
	var b strings.Builder
	b.WriteString("WEBVTT\n")
	cs := f.Chapters()
	for i, c := range cs {
		fmt.Fprintf(&b, "\n%d\n%s --> %s\n%s\n", i+1, stamp(c.At, "."), stamp(f.until(cs, i), "."), vttText(c.Title))
	}
	return []byte(b.String())
}

// until is where a chapter ends.
func (f *Film) until(cs []Chapter, i int) clock.Span {
	if i+1 < len(cs) {
		return cs[i+1].At
	}
	return max(f.End, cs[i].At+chapterMin)
}

// ErrFew says that a class has too few chapters for a list of them.
var ErrFew = errors.New("a list of chapters wants three at least, ten seconds apart: this class has fewer")

// ChapterList writes the chapters as a plain list for a description: 00:00 first.
func (f *Film) ChapterList() ([]byte, error) {
	cs := f.Chapters()
	if len(cs) < leastChap {
		return nil, ErrFew
	}
	var b strings.Builder
	for _, c := range cs {
		at := fmt.Sprintf("%02d:%02d", c.At/clock.Minute%60, c.At/clock.Second%60)
		if h := c.At / (60 * clock.Minute); h > 0 {
			at = fmt.Sprintf("%d:%s", h, at)
		}
		fmt.Fprintf(&b, "%s %s\n", at, oneLine(c.Title))
	}
	return []byte(b.String()), nil
}

var metaEscape = strings.NewReplacer(`\`, `\\`, "=", `\=`, ";", `\;`, "#", `\#`, "\n", " ")

// Metadata writes the chapters as ffmpeg reads them (FFmpeg Formats Documentation, "Metadata").
func (f *Film) Metadata() []byte {
	var b strings.Builder
	fmt.Fprintf(&b, ";FFMETADATA1\ntitle=%s\n", metaEscape.Replace(oneLine(f.Title)))
	cs := f.Chapters()
	for i, c := range cs {
		fmt.Fprintf(&b, "[CHAPTER]\nTIMEBASE=1/1000\nSTART=%d\nEND=%d\ntitle=%s\n", c.At, f.until(cs, i), metaEscape.Replace(oneLine(c.Title)))
	}
	return []byte(b.String())
}

// As are the forms a film is written in, by their words.
func As() []string { return []string{"vtt", "srt", "chapters", "chapter-list", "ffmetadata"} }

// Write writes a film in one of its forms; ok is false where there is none of that word.
func (f *Film) Write(as string) (b []byte, ok bool, err error) {
	switch as {
	case "vtt":
		return f.VTT(), true, nil
	case "srt":
		return f.SRT(), true, nil
	case "chapters":
		return f.ChapterVTT(), true, nil
	case "chapter-list":
		b, err = f.ChapterList()
		return b, true, err
	case "ffmetadata":
		return f.Metadata(), true, nil
	}
	return nil, slices.Contains(As(), as), nil
}
