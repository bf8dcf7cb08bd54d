package group

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func TestWhoLed(t *testing.T) {
	on := func(d int) time.Time { return time.Date(2027, 1, d, 19, 30, 0, 0, time.UTC) }
	dates := make([][]Dated, 2)
	for i, g := range []Group{{Name: "a", Start: time.Date(2027, 1, 4, 0, 0, 0, 0, time.UTC)}, {Name: "b", Start: time.Date(2027, 1, 11, 0, 0, 0, 0, time.UTC), Off: []int{5}}} {
		var err error
		dates[i], err = g.Dates(week(7))
		require.NoError(t, err)
	}
	assert.Equal(t, 0, WhoLed(dates, 2, on(5)))
	assert.Equal(t, 0, WhoLed(dates, 2, on(7)), "two days late")
	assert.Equal(t, 1, WhoLed(dates, 2, on(12)))
	assert.Equal(t, 0, WhoLed(dates, 5, on(15)), "the other has called it off")
	assert.Equal(t, -1, WhoLed(dates, 9, on(5)))
	assert.Equal(t, -1, WhoLed(nil, 1, on(5)))
}
