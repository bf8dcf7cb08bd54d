package movement

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
)

// What people write of themselves, and what is to be watched then. Written from letters and forms of the trade, before the
// table of words (common practice, no source).
func TestWhatPeopleWatch(t *testing.T) {
	for words, want := range map[string]struct {
		topics []Topic
		notes  string
	}{
		"neck, wrists":                                {[]Topic{Neck, Wrists}, ""},
		"old disc trouble, wrists":                    {[]Topic{LowBack, Wrists}, ""},
		"herniated disc L4/L5":                        {[]Topic{LowBack}, "L5"},
		"Sciatica on the left":                        {[]Topic{LowBack}, ""},
		"spinal fusion 2019":                          {[]Topic{LowBack}, ""},
		"carpal tunnel both sides":                    {[]Topic{Wrists}, ""},
		"frozen shoulder":                             {[]Topic{Shoulder}, ""},
		"torn meniscus":                               {[]Topic{Knees}, ""},
		"low bone density":                            {[]Topic{Bones}, ""},
		"osteopenia, takes vitamin D":                 {[]Topic{Bones}, "takes vitamin D"},
		"expecting, 20 weeks":                         {[]Topic{Expecting2}, ""},
		"expecting":                                   {[]Topic{Pregnancy}, ""},
		"pregnant, 8 weeks, nausea":                   {[]Topic{Expecting1}, "nausea"},
		"34 weeks pregnant":                           {[]Topic{Expecting3}, ""},
		"pregnant, last third":                        {[]Topic{Expecting3}, ""},
		"first or second trimester, pregnant":         {[]Topic{Pregnancy}, ""},
		"holiday in 3 weeks":                          {nil, "holiday in 3 weeks"},
		"low back when arching":                       {[]Topic{LowBackArching}, ""},
		"back hurts when rounding":                    {[]Topic{LowBackBending}, ""},
		"hip replacement left":                        {[]Topic{Hip}, ""},
		"tennis elbow":                                {[]Topic{Elbow}, ""},
		"broke her ankle":                             {[]Topic{Ankle}, ""},
		"prolapse":                                    {[]Topic{PelvicFloor}, ""},
		"cannot lie on the front":                     {[]Topic{NoFront}, ""},
		"can't lie flat":                              {[]Topic{NoBack}, ""},
		"does not like lying on her back for long":    {[]Topic{NoBack}, ""},
		"no jumping":                                  {[]Topic{Impact}, ""},
		"please do not touch":                         {[]Topic{NoTouch}, ""},
		"prefers not to be touched":                   {[]Topic{NoTouch}, ""},
		"under treatment":                             {[]Topic{Treated}, ""},
		"no surgery":                                  {nil, ""},
		"cannot get down to the floor, neck":          {[]Topic{NoFloor, Neck}, ""},
		"Pregnant (second third)":                     {[]Topic{Expecting2}, ""},
		"postpartum, caesarean in May":                {[]Topic{AfterBirth}, ""},
		"diastasis recti":                             {[]Topic{AfterBirth}, ""},
		"hypertension and glaucoma":                   {[]Topic{Pressure}, ""},
		"detached retina":                             {[]Topic{Pressure}, ""},
		"BPPV":                                        {[]Topic{Vertigo}, ""},
		"gets dizzy":                                  {[]Topic{Vertigo}, ""},
		"fell twice last winter":                      {[]Topic{Balance}, ""},
		"low back when bending":                       {[]Topic{LowBackBending}, ""},
		"lower back; knees":                           {[]Topic{LowBack, Knees}, ""},
		"no neck problems":                            {nil, ""},
		"no neck or back problems":                    {nil, ""},
		"no neck problems, wrists":                    {[]Topic{Wrists}, ""},
		"no trouble with the neck but bad knees":      {[]Topic{Knees}, ""},
		"not pregnant":                                {nil, ""},
		"never had vertigo":                           {nil, ""},
		"no osteoporosis, a weak shoulder":            {[]Topic{Shoulder}, ""},
		"without high blood pressure":                 {nil, ""},
		"no rolling because of osteoporosis":          {[]Topic{Bones}, "no rolling"},
		"no rolling (osteoporosis)":                   {[]Topic{Bones}, "no rolling"},
		"must not roll with osteoporosis":             {[]Topic{Bones}, ""},
		"does not lift the head with vertigo":         {[]Topic{Vertigo}, ""},
		"no planks, carpal tunnel":                    {[]Topic{Wrists}, "no planks"},
		"not allowed to bend since disc surgery":      {[]Topic{LowBack, Treated}, "not allowed to bend"},
		"no known history of glaucoma":                {nil, ""},
		"no longer pregnant":                          {nil, ""},
		"never any neck pain":                         {nil, ""},
		"no twisting for her fused spine":             {[]Topic{LowBack}, ""},
		"not after a hip replacement":                 {[]Topic{Hip}, ""},    // in doubt it is watched
		"no wrists":                                   {[]Topic{Wrists}, ""}, // spare them
		"no knees please":                             {[]Topic{Knees}, ""},
		"nothing on the hands":                        {[]Topic{Wrists}, ""},
		"tailbone":                                    {nil, "tailbone"},
		"sore tail bone, broken collarbone":           {nil, "sore tail bone|broken collarbone"},
		"left-handed":                                 {nil, "left-handed"},
		"tight upper back":                            {nil, "tight upper back"},
		"came back after a year":                      {nil, "came back after a year"},
		"comes on Thursdays":                          {nil, "comes on Thursdays"},
		"":                                            {nil, ""},
		" , ; ":                                       {nil, ""},
		"NECK":                                        {[]Topic{Neck}, ""},
		"hands and knees hurts her wrists":            {[]Topic{Wrists, Knees}, ""},
		"backache, bottleneck at work":                {[]Topic{LowBack}, "bottleneck at work"},
		"İç kulak, neck":                              {[]Topic{Neck}, ""},
		strings.Repeat("x", 3000) + ", whiplash":      {[]Topic{Neck}, ""},
		"has osteoporosis, doctor says no rolling":    {[]Topic{Bones}, "doctor says no rolling"},
		"knee replacement (right), no pain any more":  {[]Topic{Knees}, "right|no pain any more"},
		"high blood pressure, no medication":          {[]Topic{Pressure}, "no medication"},
		"does not get down to the floor on cold days": {[]Topic{NoFloor}, ""},
	} {
		topics, notes := WatchOf(words)
		assert.Equal(t, want.topics, topics, "%.60s", words)
		if want.notes != "" {
			assert.Equal(t, want.notes, strings.Join(notes, "|"), "%.60s", words)
		}
	}
}

func FuzzWatchOf(f *testing.F) {
	f.Add("no neck or back problems, but İ\xff hands")
	f.Fuzz(func(t *testing.T, words string) {
		topics, notes := WatchOf(words)
		again, _ := WatchOf(words)
		assert.Equal(t, topics, again)
		for _, n := range notes {
			assert.NotEmpty(t, n)
		}
	})
}

// Every topic is read from its own name, alone and beside any other: what was confirmed can be said again.
func TestTopicsByTheirNames(t *testing.T) {
	all := append(Topics(), LowBack, Pregnancy)
	for _, a := range all {
		got, notes := WatchOf(string(a))
		assert.Equal(t, []Topic{a}, got)
		assert.Empty(t, notes, a)
		for _, b := range all {
			if a == b {
				continue
			}
			for _, sep := range []string{"; ", ", ", ","} {
				got, notes := WatchOf(string(a) + sep + string(b))
				assert.Equal(t, []Topic{a, b}, got, "%s%s%s", a, sep, b)
				assert.Empty(t, notes)
			}
		}
	}
}
