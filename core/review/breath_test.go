package review

import (
	"testing"
)

func TestHoldWithoutBreath(t *testing.T) {
	one(t, read(t, rows(`{"movement":{"name":"Clay press","posture":"standing","sides":"both","effort":5},"dose":"hold 40 s"}`), ""), "breath")
}
