package movement

import (
	"regexp"
	"slices"
	"strings"
)

// watchWord is a way in which people say that they have to watch a topic.
type watchWord struct {
	topic Topic
	says  string // whole words, as a regular expression
	part  bool   // a part of the body: "no wrists" asks to spare them, only "no wrist trouble" says that there is none
}

// watchWords are how people say it, in the words of everyday and of the letters they bring (common practice, no source).
// What a word does not tell for certain is watched: the doubt goes to the mover.
var watchWords = []watchWord{
	{Neck, `necks?|cervical`, true},
	{Neck, `whiplash|stiff neck`, false},
	{LowBack, `(?:low(?:er)? )?backs?|lumbar|spine|si joint|sacroiliac`, true},
	{LowBack, `backache|disc|disk|discs|disks|hernia(?:ted)? dis[ck]s?|sciatica|sciatic nerve|fusion|fused|stenosis|spondylo\w+|lumbago|scoliosis`, false},
	{Wrists, `wrists?|hands?|thumbs?`, true},
	{Wrists, `carpal tunnel|tenosynovitis|de quervain\w*`, false},
	{Shoulder, `shoulders?`, true},
	{Shoulder, `rotator cuffs?|frozen shoulder|impingement`, false},
	{Knees, `knees?|kneecaps?`, true},
	{Knees, `meniscus|acl|cruciate|knee replacement|patella\w*`, false},
	{Bones, `bones?|bone density|hips? and spine density`, true},
	{Bones, `osteopor\w+|osteopen\w+|low bone density|brittle bones|thin bones|dexa`, false},
	{Pregnancy, `pregnan\w+|expecting|prenatal|antenatal|trimester|due in \w+`, false},
	{AfterBirth, `after birth|post-?partum|post-?natal|c-?sections?|caesareans?|cesareans?|diastasis|gave birth|new baby`, false},
	{Pressure, `blood pressure|eye pressure|hypertension|hypertensive|glaucoma|retinas?|retinal \w+|eye surgery|eye operation`, false},
	{Vertigo, `vertigo|dizz\w+|bppv|m[eé]ni[eè]re\w*|light-?headed`, false},
	{Balance, `balance`, true},
	{Balance, `falls|fallen|fell|unsteady|parkinson\w*`, false},
}

// notWords are what looks like one of them and is none.
const notWords = `tail ?bones?|collar ?bones?|left-?handed|right-?handed|beforehand|second-?hand|upper backs?|mid(?:dle)?[- ]backs?|back (?:to|from|in|at|after|again|on)|(?:is|came|comes|come|been) back|by hand|on the other hand|work-?life balance|lean(?:s|ing)? back`

// Clauses are parted where one thing ends and another begins; inside one, a "no" reaches to its end.
var clauseEnds = regexp.MustCompile(`[.,;:/\n]|\bbut\b|\bexcept\b|\bonly\b|\balthough\b|\bhas\b`)

var (
	denied    = regexp.MustCompile(`\b(?:no|not|never|without|free of|nothing (?:with|in|wrong with)|none|isn't|doesn't have|hasn't)\b`)
	ailment   = regexp.MustCompile(`\b(?:problems?|troubles?|issues?|pains?|complaints?|history|injur\w+|symptoms?|concerns?|operations?|surgery|known|wrong)\b`)
	notTopics = regexp.MustCompile(`\b(?:` + notWords + `)\b`)
	wordsOf   = func() (out []*regexp.Regexp) {
		for _, w := range watchWords {
			out = append(out, regexp.MustCompile(`\b(?:`+w.says+`)\b`))
		}
		return out
	}()
)

// WatchOf reads what somebody has to watch out of their own words. notes are the parts of it in which no topic is known: they
// are kept as notes, and nothing follows from them. "no neck trouble" and "not pregnant" deny their topic; "no wrists"
// asks to spare them.
func WatchOf(words string) (topics []Topic, notes []string) {
	text := strings.ToLower(strings.NewReplacer("’", "'", "\u00a0", " ").Replace(words))
	from := 0
	add := func(end int) {
		clause, said := text[from:end], strings.TrimSpace(words[min(from, len(words)):min(end, len(words))])
		if len(text) != len(words) { // letters whose small form has another length
			said = strings.TrimSpace(clause)
		}
		from = end
		if strings.Trim(said, " .,;:/\n") == "" {
			return
		}
		if !watchIn(clause, &topics) {
			notes = append(notes, strings.Trim(said, " .,;:/\n"))
		}
	}
	for _, at := range clauseEnds.FindAllStringIndex(text, -1) {
		add(at[0])
		from = at[1]
	}
	add(len(text))
	return topics, notes
}

// watchIn adds the topics of one clause, and tells whether it speaks of any, denied or not.
func watchIn(clause string, topics *[]Topic) (known bool) {
	clause = notTopics.ReplaceAllString(clause, " ")
	no := denied.FindStringIndex(clause)
	ails := ailment.MatchString(clause)
	for i, w := range watchWords {
		at := wordsOf[i].FindStringIndex(clause)
		if at == nil {
			continue
		}
		known = true
		if no != nil && no[0] < at[0] && (!w.part || ails) {
			continue
		}
		if !slices.Contains(*topics, w.topic) {
			*topics = append(*topics, w.topic)
		}
	}
	return known
}

// TopicsIn reads the topics of WatchOf: "wrists, low bone density".
func TopicsIn(words string) []Topic {
	topics, _ := WatchOf(words)
	return topics
}
