package mover

// words are all words of the mover's page, in one place: templates and script take them from here, so that another language is another list. Plain English; sentence case; no praise.
var words = map[string]string{
	"today": "Today", "tomorrow": "Tomorrow", "day": "day", "min": "min", "rest": "Rest today.", "none": "There is nothing for you today.", "next": "Next is day %d, on %s.", "over": "It is over. Your days are below.",
	"begins": "It begins on %s.", "nogroup": "You are in no series at the moment. Ask your teacher.", "noclass": "There is no class on this day.",
	"version": "Your version.", "asplanned": "As planned for everybody.", "why": "What was changed for you, and why",
	"start": "Start", "goon": "Go on", "pause": "Pause", "back": "Back", "skip": "Next", "close": "Close", "easier": "Show me the easier one", "asbefore": "Show mine again",
	"sound": "Tones", "voice": "Voice", "novoice": "This phone has no voice of its own: tones instead.", "speed": "Speed", "loud": "Loudness", "left": "left", "of": "of", "done": "That was it.",
	"paused": "Paused", "getready": "Get into it", "howto": "Lay the phone where you hear it. It says what comes.",
	"kit": "Have ready: %s.", "have": "Have ready",
	"how": "How it went", "howday": "How day %d went", "tell": "Tell %s", "all": "All of it", "part": "Part of it", "not": "Not today", "hard": "How hard was it", "rest0": "0 rest", "most": "10 as hard as I can", "felt": "Where you felt it",
	"touch": "touch, front or back", "inwords": "or say it in words", "front": "From the front", "behind": "From behind", "right": "right", "leftside": "left", "hurt": "Something hurt", "hurtwhere": "Touch where it hurt", "hurtnot": "Nothing hurt",
	"stop": "Stop there for today. Ask whoever treats you before you go on. %s sees this first.", "which": "which one", "inwhich": "In which?", "anyof": "I do not know", "line": "Anything else, in a line", "later": "You said this before. What you say now is kept beside it.",
	"saved": "%s has it.", "waiting": "Kept on this phone. It is sent when the network is back.", "refused": "It was not taken: %s", "memory": "This phone cannot keep it: leave this page open until it is sent.",
	"test": "Measured today", "measure": "Time it", "stopit": "Stop", "seconds": "seconds", "repetitions": "repetitions", "reach": "how far", "level": "level",
	"days": "Your days", "state-coming": "to come", "state-today": "today", "state-done": "done", "state-part": "in part", "state-missed": "missed", "state-let go": "let go", "state-off": "called off", "state-undated": "",
	"prior1": "Day %s was before you came.", "prior": "Days %s were before you came.", "state-prior": "before you came",
	"missed1": "You missed day %s.", "missed": "You missed days %s.", "whattodo": "What to do about it", "missedhint": "Look first; nothing changes until you choose.",
	"go on": "Go on with the group", "along": "Move everything along", "catch up": "Catch up", "choose": "Do this", "undo": "Take that back", "ends": "You end on %s.", "endsas": "You end on %s, as now.", "letgo": "Not done: day %s.", "puts": "Day %d on %s.", "ondate": "From %s on, one after the other.",
	"again":     "Nothing was done yet: what it means is not what you saw any more. Look again.",
	"insteadin": "Something else in %s.", "easierin": "Easier in %s.", "wordin": "A word more in %s.", "leftoutof": "Left out: %s.", "nowis": "now %s", "leftout": "left out", "atlevel": "level %d", "foryour": ", for your %s", "notes": "notes (%s)",
	"nothingmissed": "There is nothing to choose any more.", "chosen": "Chosen on %s: %s.",
	"sheet": "Sheet to print", "calendar": "Calendar to subscribe", "remind": "Remind me by letter", "remindon": "You are reminded by letter.", "remindoff": "Stop reminding me", "noaddress": "Your teacher has no address to write to.",
	"kept":     "What is kept of you, and why",
	"keptwhat": "Your name, what you watch, the level you usually take, what you say of your days and what was decided about them, so that your teacher can give you your own version. Only the teachers of %s see it. It is in no calendar, list or file that goes to others.",
	"takeout":  "Take it out (a file)", "erase": "Ask for it to be erased", "erasesure": "Your teacher erases it: your page ends, and everything you said is gone.", "erasing": "You have asked for it to be erased. Your teacher will do it.",
	"care":    "Stop if it hurts; ask whoever treats you.",
	"aid":     "This page is a teaching aid. It does not know your body: whoever treats you does, and they decide.",
	"gone":    "This page is not here, or not any more. Ask your teacher for a new link.",
	"odd":     "This cannot be shown at the moment. Ask your teacher to open the series.",
	"toolong": "That is more than is read. Shorten the line.",
	"slow":    "Too many tries. Wait a moment, then open your link again.",
	"open":    "%d days, %d classes, at your own pace.", "thestudio": "the studio", "stopalone": "Stop there for today. Ask whoever treats you before you go on.",
	"alone": "Begin today, take the days you like, one after the other. What you did is kept on this phone only; a word on how it went is counted without your name.", "weekdays": "The days you like", "donehere": "Done on this phone",
	"theday": "Day", "other": "Another series", "hello": "Hello", "noscript": "Starting, and saying how it went, need scripts to be allowed on this page. The class, the sheet and the days are here without.",
}

// weekdays, Monday first.
var weekdays = []string{"Mon", "Tue", "Wed", "Thu", "Fri", "Sat", "Sun"}
