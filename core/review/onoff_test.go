package review

import (
	"testing"

	"github.com/stretchr/testify/assert"
)

func TestOnOffRatio(t *testing.T) {
	circuit := `{"rule":"rounds","on":"60 s","off":"15 s","rows":[{"movement":"squat"},{"movement":"lunge"}]}`
	f := one(t, read(t, circuit, ""), "on-off")
	assert.Equal(t, "Make it 60 s on and 20 s off", f.Mends[0].Says)
	// 35 on 25 off and 45 on 15 off are in use (common practice)
	for _, c := range []string{`"on":"35 s","off":"25 s"`, `"on":"45 s","off":"15 s"`} {
		assert.Empty(t, of(check(t, read(t, `{"rule":"rounds",`+c+`,"rows":[{"movement":"squat"}]}`, "")), "on-off"), c)
	}
}
