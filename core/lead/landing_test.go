package lead_test

import (
	"bytes"
	"compress/gzip"
	"encoding/json"
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"wavekine/core/lead"
	"wavekine/core/movement"
	"wavekine/core/plan"
	"wavekine/core/review"
	"wavekine/core/timeline"
)

func BenchmarkLandsOf(b *testing.B) {
	lib := movement.Shipped()
	for _, n := range []int{15, 30, 60, 120, 240} {
		b.Run(fmt.Sprint(n), func(b *testing.B) {
			s := sixty(b, n)
			tl, err := timeline.Build(s, lib)
			require.NoError(b, err)
			for b.Loop() {
				_, err := review.LandsOf(b.Context(), s, tl, lib, review.Limits{}, nil)
				require.NoError(b, err)
			}
			t, err := review.LandsOf(b.Context(), s, tl, lib, review.Limits{}, nil)
			require.NoError(b, err)
			j, err := json.Marshal(lead.LandingsOf(t, 20))
			require.NoError(b, err)
			var z bytes.Buffer
			w := gzip.NewWriter(&z)
			_, _ = w.Write(j)
			_ = w.Close()
			b.ReportMetric(float64(z.Len())/1000, "KB")
			b.ReportMetric(tl.Total.Seconds()/60, "min")
			b.ReportMetric(float64(len(t.Knobs)), "knobs")
		})
	}
}

// sixty is a class of n rows, half a minute each.
func sixty(t testing.TB, n int) *plan.Session {
	var rows []string
	all := movement.Shipped().All()
	for i, k := 0, 0; len(rows) < n-1; i++ {
		m := all[(i*7)%len(all)]
		k++
		if m.Stretch || m.Sides == movement.Each && len(rows)%2 == 0 {
			continue
		}
		rows = append(rows, fmt.Sprintf(`{"movement":%q,"dose":%q}`, m.Slug, map[bool]string{true: "2 each side", false: "2 reps"}[m.Sides == movement.Each]))
	}
	rows = append(rows, `{"movement":"constructive-rest","dose":"90 s"}`)
	s, err := plan.ReadSession([]byte(`{"format":"wavekine.session/1","title":"T","pace":{"talk":"flowing","tempo":"brisk"},"sections":[{"title":"A","blocks":[{"rule":"straight","rows":[`+strings.Join(rows, ",")+`]}]}]}`), movement.Shipped())
	require.NoError(t, err)
	return s
}
