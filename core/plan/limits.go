package plan

import "wavekine/core/clock"

// Limits of a document. They are judgement: far above what a class holds, low enough to answer at once.
// The reader, the commands and the imports all take them from here.
const (
	MaxTitle     = 200 // characters of a title
	MaxNote      = 2000
	MaxRounds    = 20
	MaxDays      = 60 // of a series; those in use have 5 to 30
	maxSections  = 60
	maxBlocks    = 200 // of one section
	maxRows      = 1000
	maxLevel     = 20
	maxFocus     = 20 // words of focus
	maxWord      = 60 // characters of one of them
	maxAudience  = 200
	maxCountdown = 20
	maxSlug      = 100 // characters of a movement's or a session's name in a document
	maxLadders   = 100
	maxRungs     = 60
	maxPinned    = 60
	maxMinutes   = 180 // a day of a series
)

// Times and beats a document may hold; judgement.
const (
	MaxTarget = 4 * 60 * clock.Minute // length asked for
	MaxPause  = 10 * clock.Minute     // a rest, a time on, a time off
	MinBPM    = 30
	MaxBPM    = 240
)

// Years a series may begin in.
const (
	firstYear = 1990
	lastYear  = 2199
)

// What may be set aside, see readAside and PutAside.
const (
	maxAside, maxRule, maxAbout, maxReason = 200, 40, 100, MaxNote
	maxAmount                              = 1e9
)
