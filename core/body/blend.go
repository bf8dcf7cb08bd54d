package body

import "slices"

// Blend is the figure t of the way from one pose to another. Both ends are solved first and their
// joint angles read back, so that planted and laid limbs move smoothly; what both ends hold in
// place (a planted hand, a foot on the mat) stays where it is.
func Blend(p, q Pose, t float64) *Figure { return Solve(p).To(Solve(q), t) }

// To is the figure t of the way from a solved figure to another, see Blend.
func (a *Figure) To(b *Figure, t float64) *Figure {
	A, B := a.Pose, b.Pose
	A.Joint, B.Joint = a.relative(), b.relative()
	out := A
	if t >= .5 {
		out = B
	}
	for s := range out.Joint {
		for j := range out.Joint[s] {
			out.Joint[s][j] = Lerp(A.Joint[s][j], B.Joint[s][j], t)
		}
	}
	for i := range out.Spine {
		out.Spine[i] = Lerp(A.Spine[i], B.Spine[i], t)
	}
	out.Pelvis, out.Turn, out.Look = Lerp(A.Pelvis, B.Pelvis, t), Lerp(A.Turn, B.Turn, t), Lerp(A.Look, B.Look, t)
	out.Tilt = map[string]float64{}
	for _, m := range []map[string]float64{A.Tilt, B.Tilt} {
		for k := range m {
			out.Tilt[k] = Lerp(A.Tilt[k], B.Tilt[k], t)
		}
	}
	out.Aim = map[string]float64{}
	for k, v := range A.Aim {
		if w, ok := B.Aim[k]; ok {
			out.Aim[k] = Lerp(v, w, t)
		}
	}
	out.Plant = map[string]Plant{}
	for k, v := range A.Plant {
		w, ok := B.Plant[k]
		if !ok || v.Part != w.Part || len(v.Nums) != len(w.Nums) {
			continue
		}
		mixed := Plant{Part: v.Part, Nums: slices.Clone(v.Nums)}
		for i := range mixed.Nums {
			mixed.Nums[i] = Lerp(v.Nums[i], w.Nums[i], t)
		}
		out.Plant[k] = mixed
	}
	out.Lay = slices.DeleteFunc(slices.Clone(A.Lay), func(l string) bool { return !slices.Contains(B.Lay, l) })
	out.Tuck = ""
	for _, s := range sides {
		if A.tucked(s) && B.tucked(s) {
			out.Tuck += s.String()
		}
	}
	out.Settle = nil
	if slices.Equal(A.On, B.On) && A.At == B.At && (A.Y == nil) == (B.Y == nil) {
		out.AtX = Lerp(A.AtX, B.AtX, t)
		if A.Y != nil {
			y := Lerp(*A.Y, *B.Y, t)
			out.Y = &y
		}
		return Solve(out)
	}
	root := Mix(a.J["hip"], b.J["hip"], t)
	f := solveAt(out, &root)
	low := 0.0
	for _, part := range []string{"trunk", "head", "legR", "legL"} {
		low = min(low, lowest(f.Points(part))+sink)
	}
	if low < 0 {
		root.Y -= low
		f = solveAt(out, &root)
	}
	return f
}

// At is the figure at a time from 0 to 1 of the strip.
func (s Strip) At(t float64) *Figure { return s.Frames(t)[0] }

// Frames are the figures at several times from 0 to 1; the key poses are solved once.
func (s Strip) Frames(times ...float64) []*Figure {
	solved := make([]*Figure, len(s))
	at := func(i int) *Figure {
		if solved[i] == nil {
			solved[i] = Solve(s[i].Pose)
		}
		return solved[i]
	}
	out := make([]*Figure, 0, len(times))
	for _, t := range times {
		i := 1
		for i < len(s)-1 && t > s[i].At {
			i++
		}
		if len(s) < 2 {
			out = append(out, at(0))
			continue
		}
		part := max(0, min(1, (t-s[i-1].At)/(s[i].At-s[i-1].At)))
		switch part { // the keys themselves need no blending
		case 0:
			out = append(out, at(i-1))
		case 1:
			out = append(out, at(i))
		default:
			out = append(out, at(i-1).To(at(i), part))
		}
	}
	return out
}

// Mirrored is the pose done on the other side: right and left change places. Seen from the side the
// picture keeps its direction and turns go the other way; seen from the front the picture is reflected.
func (p Pose) Mirrored() Pose {
	swap := func(name string) string {
		switch {
		case name == "" || alias[name] != "":
			return name
		case name[len(name)-1] == 'R':
			return name[:len(name)-1] + "L"
		case name[len(name)-1] == 'L':
			return name[:len(name)-1] + "R"
		}
		return name
	}
	list := func(in []string) []string {
		out := slices.Clone(in)
		for i := range out {
			out[i] = swap(out[i])
		}
		return out
	}
	nums := func(in map[string]float64) map[string]float64 {
		out := make(map[string]float64, len(in))
		for k, v := range in {
			out[swap(k)] = v
		}
		return out
	}
	q := p
	q.Joint[R], q.Joint[L] = p.Joint[L], p.Joint[R]
	q.Turn, q.Look = -p.Turn, -p.Look
	q.Tilt, q.Aim, q.Bend = nums(p.Tilt), nums(p.Aim), nums(p.Bend)
	q.Plant = map[string]Plant{}
	for k, v := range p.Plant {
		q.Plant[swap(k)] = Plant{swap(v.Part), slices.Clone(v.Nums)}
	}
	q.Lay, q.On, q.Settle = list(p.Lay), list(p.On), list(p.Settle)
	q.At = swap(p.At)
	q.Tuck = ""
	for _, s := range sides {
		if p.tucked(s) {
			q.Tuck += sides[1-s].String()
		}
	}
	things := func(in []Thing) []Thing {
		out := slices.Clone(in)
		for i := range out {
			out[i].Of, out[i].Nums = list(out[i].Of), slices.Clone(out[i].Nums)
		}
		return out
	}
	q.Kit, q.Mark = things(p.Kit), things(p.Mark)
	if p.Front {
		q.reflect()
		q.Far, q.Order = list(p.Far), list(p.Order)
	}
	return q
}

// reflect turns the picture of a pose over, whose limbs have changed places already.
func (p *Pose) reflect() {
	p.Pelvis, p.AtX = 180-p.Pelvis, -p.AtX
	for i := range p.Spine {
		p.Spine[i] = -p.Spine[i]
	}
	for k, v := range p.Aim {
		p.Aim[k] = 180 - v
	}
	for k, v := range p.Plant {
		if v.Part != "" || len(v.Nums) == 0 {
			continue
		}
		v.Nums[0] = -v.Nums[0]
		if k[:4] == "hand" {
			if len(v.Nums) < 2 {
				v.Nums = append(v.Nums, 0)
			}
			v.Nums[1] = 180 - v.Nums[1]
		}
		p.Plant[k] = v
	}
	for i := range p.Kit {
		switch k := &p.Kit[i]; {
		case k.Name == "roller" && len(k.Nums) > 1: // from, to
			k.Nums[0], k.Nums[1] = -k.Nums[1], -k.Nums[0]
		case len(k.Nums) > 0:
			k.Nums[0] = -k.Nums[0]
		}
	}
	for i := range p.Mark {
		for j := range p.Mark[i].Nums {
			p.Mark[i].Nums[j] = 180 - p.Mark[i].Nums[j]
		}
	}
}
