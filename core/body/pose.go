package body

import (
	"bytes"
	"encoding/json"
	"fmt"
	"maps"
	"slices"
	"strings"
)

// Plant puts a hand or foot where it belongs.
// A foot: Nums are ankle x; or ball x, heel lift in degrees, height of what it stands on.
// A hand: Nums are wrist x and optionally the direction of the hand; or, with Part, the
// fraction along a body part on which the palm lies. x and heights in hundredths of stature.
type Plant struct {
	Part string
	Nums []float64
}

// Thing is a prop or a mark in the picture: a name with numbers or names.
type Thing struct {
	Name string
	Nums []float64
	Of   []string
}

// Pose is a posture of the whole body: joint angles and how it meets the mat.
// The zero value of every angle with Pelvis 90 is standing, arms hanging.
type Pose struct {
	Front      bool // the figure faces the viewer
	Plan       bool // seen from above; the mat is a rectangle
	Pelvis     float64
	Spine      [5]float64
	Joint      [2][7]float64
	Turn, Look float64
	Tilt       map[string]float64
	Aim        map[string]float64
	Bend       map[string]float64
	Lay        []string
	Plant      map[string]Plant
	On         []string
	Settle     []string
	At         string
	AtX        float64
	Y          *float64 // hip height in hundredths of stature, nil where contact decides it
	Base       float64
	Tuck       string
	Far, Order []string
	FeetInside bool // feet in profile in front view
	Kit, Mark  []Thing
}

// alias opens plural words into their right and left.
var alias = map[string]string{
	"hands": "hand", "feet": "foot", "arms": "arm", "legs": "leg", "thighs": "thigh", "shanks": "shank",
	"uparms": "uparm", "forearms": "forearm", "knees": "knee", "shins": "shin", "elbows": "elbow",
}

func opened(name string) []string {
	if one, ok := alias[name]; ok {
		return []string{one + "R", one + "L"}
	}
	return []string{name}
}

// Book is a set of named poses and strips of poses, with the templates they share.
type Book struct {
	poses  map[string]Pose
	strips map[string]Strip
	names  []string
}

// Key is a pose at a time from 0 to 1 in a strip.
type Key struct {
	At   float64
	Pose Pose
}

// Strip is a movement: key poses in order of time.
type Strip []Key

// Names lists the poses in alphabetical order.
func (b *Book) Names() []string { return b.names }

// Pose finds a pose by name.
func (b *Book) Pose(name string) (Pose, bool) { p, ok := b.poses[name]; return p, ok }

// Strip finds a strip by name.
func (b *Book) Strip(name string) (Strip, bool) { s, ok := b.strips[name]; return s, ok }

type raw = map[string]json.RawMessage

// ReadBook reads poses in the notation of the documentation (docs/figures.md), from one or more
// files whose templates and poses all belong together. The error names the pose and the key.
func ReadBook(texts ...[]byte) (*Book, error) {
	templates, poses, strips := map[string]raw{}, map[string]raw{}, map[string][]json.RawMessage{}
	for _, text := range texts {
		var file struct {
			Templates map[string]raw               `json:"templates"`
			Poses     map[string]raw               `json:"poses"`
			Strips    map[string][]json.RawMessage `json:"strips"`
		}
		dec := json.NewDecoder(bytes.NewReader(text))
		dec.DisallowUnknownFields()
		if err := dec.Decode(&file); err != nil {
			return nil, fmt.Errorf("poses: %w", err)
		}
		for name := range file.Poses {
			if _, twice := poses[name]; twice {
				return nil, fmt.Errorf("pose %q: is there twice", name)
			}
		}
		maps.Copy(templates, file.Templates)
		maps.Copy(poses, file.Poses)
		maps.Copy(strips, file.Strips)
	}
	b := &Book{poses: map[string]Pose{}, strips: map[string]Strip{}}
	for name, r := range poses {
		p, err := readPose(r, templates)
		if err != nil {
			return nil, fmt.Errorf("pose %q: %w", name, err)
		}
		b.poses[name] = p
	}
	for name, keys := range strips {
		for _, k := range keys {
			key, err := b.readKey(k, templates)
			if err != nil {
				return nil, fmt.Errorf("strip %q: %w", name, err)
			}
			b.strips[name] = append(b.strips[name], key)
		}
	}
	b.names = slices.Sorted(maps.Keys(b.poses))
	return b, nil
}

// readKey reads [time, pose], where the pose is a name or written out.
func (b *Book) readKey(k json.RawMessage, templates map[string]raw) (key Key, err error) {
	var pair []json.RawMessage
	if err := json.Unmarshal(k, &pair); err != nil || len(pair) != 2 {
		return key, fmt.Errorf("expected [time, pose]")
	}
	if err := json.Unmarshal(pair[0], &key.At); err != nil {
		return key, err
	}
	var of string
	if json.Unmarshal(pair[1], &of) == nil {
		p, ok := b.poses[of]
		if !ok {
			return key, fmt.Errorf("no pose %q", of)
		}
		key.Pose = p
		return key, nil
	}
	var r raw
	if err := json.Unmarshal(pair[1], &r); err != nil {
		return key, err
	}
	key.Pose, err = readPose(r, templates)
	return key, err
}

// ReadPose reads one pose written out in full, as Pose.MarshalJSON writes it.
func ReadPose(text []byte) (Pose, error) {
	var r raw
	if err := json.Unmarshal(text, &r); err != nil {
		return Pose{}, fmt.Errorf("expected an object of pose keys")
	}
	return readPose(r, nil)
}

// readPose opens the notation: template, right and left, plural words.
func readPose(own raw, templates map[string]raw) (Pose, error) {
	p := Pose{
		Pelvis: 90, At: "hip", Tilt: map[string]float64{}, Aim: map[string]float64{},
		Bend: map[string]float64{}, Plant: map[string]Plant{},
	}
	all := raw{}
	if l, ok := own["like"]; ok {
		var name string
		if err := json.Unmarshal(l, &name); err != nil {
			return p, fmt.Errorf("like: %w", err)
		}
		t, ok := templates[name]
		if !ok {
			return p, fmt.Errorf("like: no template %q", name)
		}
		maps.Copy(all, t)
	}
	maps.Copy(all, own)
	delete(all, "like")
	for _, k := range slices.Sorted(maps.Keys(all)) {
		if err := p.set(k, all[k]); err != nil {
			return p, fmt.Errorf("%s: %w", k, err)
		}
	}
	return p, p.sensible()
}

func (p *Pose) set(key string, v json.RawMessage) error {
	if i := slices.Index(jointKeys[:], key); i >= 0 {
		return p.joint(i, v)
	}
	plain := map[string]any{"pelvis": &p.Pelvis, "turn": &p.Turn, "look": &p.Look, "base": &p.Base, "y": &p.Y, "tuck": &p.Tuck}
	if into, ok := plain[key]; ok {
		return json.Unmarshal(v, into)
	}
	switch key {
	case "spine":
		var s []float64
		if err := json.Unmarshal(v, &s); err != nil || len(s) > 5 {
			return fmt.Errorf("expected up to five numbers [lum, lt, ut, neck, head]")
		}
		copy(p.Spine[:], s)
		return nil
	case "view", "mat", "feet":
		return p.word(key, v)
	case "tilt", "aim", "bend":
		return p.angles(map[string]map[string]float64{"tilt": p.Tilt, "aim": p.Aim, "bend": p.Bend}[key], v)
	case "lay", "on", "settle", "far", "order":
		return p.names(key, v)
	case "at":
		return p.anchor(v)
	case "plant":
		return p.plants(v)
	case "kit":
		return things(v, &p.Kit)
	case "mark":
		return things(v, &p.Mark)
	}
	return fmt.Errorf("unknown key")
}

// joint sets a joint of both sides, or of each side its own.
func (p *Pose) joint(i int, v json.RawMessage) error {
	var one float64
	if json.Unmarshal(v, &one) == nil {
		p.Joint[R][i], p.Joint[L][i] = one, one
		return nil
	}
	var two [2]float64
	if err := json.Unmarshal(v, &two); err != nil {
		return fmt.Errorf("expected a number or [right, left]")
	}
	p.Joint[R][i], p.Joint[L][i] = two[0], two[1]
	return nil
}

// angles sets angles by part; "legs" opens to both.
func (p *Pose) angles(into map[string]float64, v json.RawMessage) error {
	var got map[string]float64
	if err := json.Unmarshal(v, &got); err != nil {
		return err
	}
	for name, n := range got {
		for _, o := range opened(name) {
			into[o] = n
		}
	}
	return nil
}

// names sets a list of parts.
func (p *Pose) names(key string, v json.RawMessage) error {
	names, err := stringList(v)
	if err != nil {
		return err
	}
	switch key {
	case "lay":
		for _, n := range names {
			p.Lay = append(p.Lay, opened(n)...)
		}
	case "on":
		p.On = names
	case "settle":
		if len(names) != 2 {
			return fmt.Errorf("expected two parts")
		}
		p.Settle = names
	case "far":
		p.Far = names
	case "order":
		p.Order = names
	}
	return nil
}

// anchor sets which joint stands where along the mat.
func (p *Pose) anchor(v json.RawMessage) error {
	var pair [2]any
	if err := json.Unmarshal(v, &pair); err != nil {
		return err
	}
	name, ok1 := pair[0].(string)
	x, ok2 := pair[1].(float64)
	if !ok1 || !ok2 {
		return fmt.Errorf("expected [joint, x]")
	}
	p.At, p.AtX = name, x
	return nil
}

// plants sets what is planted where.
func (p *Pose) plants(v json.RawMessage) error {
	var got map[string]json.RawMessage
	if err := json.Unmarshal(v, &got); err != nil {
		return err
	}
	for name, r := range got {
		pl, err := readPlant(r)
		if err != nil {
			return fmt.Errorf("%s: %w", name, err)
		}
		for _, o := range opened(name) {
			p.Plant[o] = pl
		}
	}
	return nil
}

// things reads kit or marks: a name, what it is of, and numbers.
func things(v json.RawMessage, into *[]Thing) error {
	var list [][]any
	if err := json.Unmarshal(v, &list); err != nil {
		return err
	}
	for _, l := range list {
		var th Thing
		for i, x := range l {
			switch x := x.(type) {
			case string:
				if i == 0 {
					th.Name = x
				} else {
					th.Of = append(th.Of, x)
				}
			case float64:
				th.Nums = append(th.Nums, x)
			}
		}
		*into = append(*into, th)
	}
	return nil
}

func (p *Pose) word(key string, v json.RawMessage) error {
	var w string
	if err := json.Unmarshal(v, &w); err != nil {
		return err
	}
	switch key + " " + w {
	case "view side", "mat edge":
	case "view front":
		p.Front = true
	case "mat plan":
		p.Plan = true
	case "feet side":
		p.FeetInside = true
	default:
		return fmt.Errorf("unknown word %q", w)
	}
	return nil
}

func stringList(v json.RawMessage) ([]string, error) {
	var one string
	if json.Unmarshal(v, &one) == nil {
		return []string{one}, nil
	}
	var many []string
	err := json.Unmarshal(v, &many)
	return many, err
}

func readPlant(v json.RawMessage) (Plant, error) {
	var x any
	if err := json.Unmarshal(v, &x); err != nil {
		return Plant{}, err
	}
	list, ok := x.([]any)
	if !ok {
		list = []any{x}
	}
	var out Plant
	for i, e := range list {
		switch e := e.(type) {
		case string:
			if i > 0 {
				return out, fmt.Errorf("a name only comes first")
			}
			out.Part = e
		case float64:
			out.Nums = append(out.Nums, e)
		default:
			return out, fmt.Errorf("expected numbers or [part, fraction]")
		}
	}
	if out.Part == "" && len(out.Nums) == 0 {
		return out, fmt.Errorf("expected a place")
	}
	return out, nil
}

func (p Pose) num(name string, i int, or float64) float64 {
	if pl, ok := p.Plant[name]; ok && i < len(pl.Nums) {
		return pl.Nums[i]
	}
	return or
}

// yaw is how far the whole body is turned towards the viewer.
func (p Pose) yaw() float64 {
	if p.Front {
		return 90
	}
	return 0
}

func (p Pose) tucked(s Side) bool { return strings.Contains(p.Tuck, s.String()) }

func (p Pose) bendOf(limb string) float64 {
	if b, ok := p.Bend[limb]; ok {
		return b
	}
	return 1
}
