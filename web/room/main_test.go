package room_test

import (
	"testing"

	"wavekine/web/browsertest"
)

func TestMain(m *testing.M) { browsertest.Main(m) }
