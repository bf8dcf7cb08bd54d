package movement

import (
	"regexp"
	"slices"
	"strconv"
	"strings"
	"sync"
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
	{Hip, `hips?|groin`, true},
	{Hip, `hip replacement|labrum|bursitis`, false},
	{Elbow, `elbows?`, true},
	{Elbow, `tennis elbow|golfer'?s elbow`, false},
	{Ankle, `ankles?|feet|foot|toes?|achilles`, true},
	{Ankle, `plantar \w+|bunions?`, false},
	{PelvicFloor, `pelvic floor`, true},
	{PelvicFloor, `prolapse\w*|incontinen\w+|leaks?|leaking`, false},
	{Treated, `surgery|operations?|operated|under treatment|in treatment|chemo\w*|physio\w*`, false},
	{Balance, `balance`, true},
	{Balance, `falls|fallen|fell|unsteady|parkinson\w*`, false},
}

// refusals are what people cannot or will not do: here the "no" is what is meant.
var refusals = []struct {
	topic Topic
	says  *regexp.Regexp
}{
	{NoFloor, regexp.MustCompile(`\b(?:cannot|can't|can not|not|doesn't|don't|no longer|never|hard to|hardly|no) [a-z' ]{0,24}\bfloor\b`)},
	{NoFront, regexp.MustCompile(`\b(?:cannot|can't|can not|not|doesn't|don't|no longer|never|no|nothing) [a-z' ]{0,24}\b(?:front|stomach|belly|tummy)\b`)},
	{NoBack, regexp.MustCompile(`\b(?:cannot|can't|can not|not|doesn't|don't|no longer|never|no) [a-z' ]{0,24}\b(?:flat|on (?:the|her|his|my|their) back)\b`)},
	{Impact, regexp.MustCompile(`\b(?:cannot|can't|can not|not|doesn't|don't|no longer|never|no) [a-z' ]{0,16}\b(?:jump\w*|hop|hopping|impact|running|run)\b`)},
	{NoTouch, regexp.MustCompile(`\b(?:not|don't|doesn't|no|never) [a-z' ]{0,24}\b(?:touch\w*|hands-on|adjust\w*)`)},
}

// How far somebody who expects is, where they say it: in thirds, or in weeks.
var (
	thirds = []struct {
		topic Topic
		says  *regexp.Regexp
	}{
		{Expecting1, regexp.MustCompile(`\b(?:first|1st) (?:third|trimester)\b`)},
		{Expecting2, regexp.MustCompile(`\b(?:second|2nd) (?:third|trimester)\b`)},
		{Expecting3, regexp.MustCompile(`\b(?:last|third|3rd) (?:third|trimester)\b`)},
	}
	between = regexp.MustCompile(`\b(?:first|second|1st|2nd) (?:or|to|and) (?:the )?(?:second|third|last|2nd|3rd)\b`)
	weeks   = regexp.MustCompile(`\b(\d{1,2}) weeks?\b`)
)

// thirdIn is which third a text says; the general topic where it says none, or more than one.
func thirdIn(text string) Topic {
	found := Pregnancy
	if between.MatchString(text) {
		return found
	}
	for _, t := range thirds {
		if t.says.MatchString(text) {
			if found != Pregnancy {
				return Pregnancy
			}
			found = t.topic
		}
	}
	if found != Pregnancy {
		return found
	}
	if m := weeks.FindStringSubmatch(text); m != nil {
		return thirdAt(m[1])
	}
	return Pregnancy
}

// thirdAt is the third in which a week of a pregnancy lies (to the 13th, the 27th and the 45th); the general topic where it
// is none.
func thirdAt(week string) Topic {
	switch n, err := strconv.Atoi(week); {
	case err != nil || n < 1 || n > 45:
		return Pregnancy
	case n <= 13:
		return Expecting1
	case n <= 27:
		return Expecting2
	}
	return Expecting3
}

// notWords are what looks like one of them and is none.
const notWords = `tail ?bones?|collar ?bones?|left-?handed|right-?handed|beforehand|second-?hand|upper backs?|mid(?:dle)?[- ]backs?|back (?:to|from|in|at|after|again|on)|(?:is|came|comes|come|been) back|by hand|on the other hand|work-?life balance|lean(?:s|ing)? back`

// Clauses are parted where one thing ends and another begins.
var clauseEnds = regexp.MustCompile(`[.,;:/()\n]|\bbut\b|\bbecause\b|\bdue to\b|\bsince\b|\bexcept\b|\bonly\b|\balthough\b|\bhas\b`)

var (
	denied    = regexp.MustCompile(`\b(?:no|not|never|without|free of|nothing (?:with|in|wrong with)|none|isn't|doesn't have|hasn't)\b`)
	ailment   = regexp.MustCompile(`\b(?:problems?|troubles?|issues?|pains?|complaints?|history|injur\w+|symptoms?|concerns?|operations?|surgery|known|wrong)\b`)
	notTopics = regexp.MustCompile(`\b(?:` + notWords + `)\b`)
	wordsOf   = sync.OnceValue(func() (out []*regexp.Regexp) { // when the first is asked: a verb on files asks nobody
		for _, w := range watchWords {
			out = append(out, regexp.MustCompile(`\b(?:`+w.says+`)\b`))
		}
		return out
	})
)

// WatchOf reads what somebody has to watch out of their own words. notes are the parts of it in which no topic is known: they
// are kept as notes, and nothing follows from them. "no neck trouble" and "not pregnant" deny their topic; "no wrists"
// asks to spare them.
func WatchOf(words string) (topics []Topic, notes []string) {
	if topics = named(words); topics != nil {
		return topics, nil
	}
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
	notes = slices.DeleteFunc(notes, func(n string) bool { // a name of a topic beside other words
		for _, t := range Topics() {
			if strings.EqualFold(n, string(t)) && !slices.Contains(topics, t) {
				topics = append(topics, t)
				return true
			}
		}
		return false
	})
	if i := slices.Index(topics, Pregnancy); i >= 0 {
		topics[i] = thirdIn(text)
		if topics[i] != Pregnancy { // the clause that says it is no mere note
			notes = slices.DeleteFunc(notes, func(n string) bool { return thirdIn(strings.ToLower(n)) != Pregnancy })
		}
	}
	return topics, notes
}

// topicNames finds topics that are called by their own name, between commas or semicolons: what is written with those names is read as them.
var topicNames = sync.OnceValue(func() (out []topicName) {
	all := append(Topics(), LowBack, Pregnancy)
	slices.SortStableFunc(all, func(a, b Topic) int { return len(b) - len(a) })
	for _, t := range all {
		out = append(out, topicName{t, regexp.MustCompile(`(?i)(^|[;,])\s*` + regexp.QuoteMeta(string(t)) + `\s*([;,]|$)`)})
	}
	return out
})

type topicName struct {
	topic Topic
	says  *regexp.Regexp
}

// named reads a text that holds nothing but topics called by their own names; nil where it holds anything else.
func named(words string) (topics []Topic) {
	type found struct {
		topic Topic
		at    int
	}
	var all []found
	for _, t := range topicNames() {
		at := t.says.FindStringIndex(words)
		if at == nil {
			continue
		}
		all = append(all, found{t.topic, at[0]})
		words = words[:at[0]] + ";" + strings.Repeat(" ", max(0, at[1]-at[0]-2)) + ";" + words[at[1]:]
	}
	if strings.Trim(words, " ;,") != "" {
		return nil
	}
	slices.SortStableFunc(all, func(a, b found) int { return a.at - b.at })
	for _, f := range all {
		topics = append(topics, f.topic)
	}
	return topics
}

// reaches are the words over which a "no" reaches to what it denies: "no known history of", "no neck or". Over any other it
// does not: "no rolling with osteoporosis" denies nothing.
var reaches = func() map[string]bool {
	m := map[string]bool{}
	for _, w := range strings.Fields("any known more longer real current history of had have has having been sign signs a an the her his my their or and nor with in on to high low lower serious severe old diagnosed problem problems trouble troubles issue issues pain pains complaint complaints neck back backs wrist wrists hand hands shoulder shoulders knee knees hip hips elbow elbows ankle ankles eye blood pressure disc bone bones currently now yet") {
		m[w] = true
	}
	return m
}()

// deniedBefore tells whether what follows a text is denied by it.
func deniedBefore(text string) bool {
	all := denied.FindAllStringIndex(text, -1)
	if all == nil {
		return false
	}
	for _, w := range strings.Fields(text[all[len(all)-1][1]:]) {
		if !reaches[strings.Trim(w, "'-")] {
			return false
		}
	}
	return true
}

// watchIn adds the topics of one clause, and tells whether it speaks of any, denied or not.
func watchIn(clause string, topics *[]Topic) (known bool) {
	learn := func(t Topic) {
		known = true
		if !slices.Contains(*topics, t) {
			*topics = append(*topics, t)
		}
	}
	for _, r := range refusals {
		if r.says.MatchString(clause) {
			learn(r.topic)
			clause = r.says.ReplaceAllString(clause, " ")
		}
	}
	clause = notTopics.ReplaceAllString(clause, " ")
	ails := ailment.MatchString(clause)
	for i, w := range watchWords {
		at := wordsOf()[i].FindStringIndex(clause)
		if at == nil {
			continue
		}
		known = true
		if deniedBefore(clause[:at[0]]) && (!w.part || ails) {
			continue
		}
		topic := w.topic
		if topic == LowBack { // which way hurts, where it is said
			bends, archs := strings.Contains(clause, "bend") || strings.Contains(clause, "round"), strings.Contains(clause, "arch")
			switch {
			case bends && !archs:
				topic = LowBackBending
			case archs && !bends:
				topic = LowBackArching
			}
		}
		learn(topic)
	}
	return known
}

// TopicsIn reads the topics of WatchOf: "wrists, low bone density".
func TopicsIn(words string) []Topic {
	topics, _ := WatchOf(words)
	return topics
}
