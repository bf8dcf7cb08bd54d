package kit

import (
	"errors"
	"fmt"
	"io"

	"github.com/gin-gonic/gin"

	"wavekine/core/group"
	"wavekine/core/strict"
)

// TooLargeError says how large a file may be.
type TooLargeError string

func (e TooLargeError) Error() string { return string(e) }

// Uploaded reads a file, or the text of the preview's second step.
func Uploaded(c *gin.Context) (text []byte, name string, err error) {
	f, err := c.FormFile("file")
	switch {
	case err != nil:
		if t := c.PostForm("text"); t != "" {
			if len(t) > strict.MaxBytes {
				return nil, "", TooLargeError(fmt.Sprintf("The text is %.1f MB: at most %d MB are read.", float64(len(t))/(1<<20), strict.MaxBytes>>20))
			}
			return []byte(t), "the text", nil
		}
		return nil, "", errors.New("choose a file first: a wavekine.session/1 document, a table as CSV, or lines of text")
	case f.Size > strict.MaxBytes:
		return nil, "", TooLargeError(fmt.Sprintf("The file is %.1f MB: at most %d MB are read.", float64(f.Size)/(1<<20), strict.MaxBytes>>20))
	}
	r, err := f.Open()
	if err != nil {
		return nil, "", err
	}
	defer func() { _ = r.Close() }()
	text, err = io.ReadAll(io.LimitReader(r, strict.MaxBytes+1))
	return text, f.Filename, err
}

// Calendar reads a calendar file (.ics) of a form.
func Calendar(c *gin.Context) ([]byte, error) {
	f, err := c.FormFile("file")
	if err != nil {
		return nil, errors.New("choose a calendar file (.ics) first")
	}
	if f.Size > group.MaxCalendar {
		return nil, group.ErrTooLarge
	}
	r, err := f.Open()
	if err != nil {
		return nil, err
	}
	defer func() { _ = r.Close() }()
	return io.ReadAll(io.LimitReader(r, group.MaxCalendar+1))
}
