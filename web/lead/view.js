// What of a class is seen: shared by the screen that leads and the screen in the room. p is the player, or what the room was told of it: {i, inStep(), length(i),
// perRep(i), target(), done(), counting, counted(i), nextOf(i)}.
(function () {
  'use strict';
  var clock = function (ms) { var n = ms < 0, t = Math.round(Math.abs(ms) / 1000); return (n ? '-' : '') + Math.floor(t / 60) + ':' + String(t % 60).padStart(2, '0'); };
  var working = function (st) { return st.kind === 'work' || st.kind === 'pulse' || st.kind === 'hold'; };

  // count is the number to be seen, what stands beside it, and whether it counts repetitions.
  function count(st, p, down) {
    if (p.counted(p.i)) {
      var n = Math.max(1, p.target());
      var num = Math.min(n, p.counting ? p.done() + 1 : Math.floor(p.inStep() / p.perRep(p.i)) + 1), of = ' of ' + n + (st.kind === 'pulse' ? ' pulses' : st.reps ? '' : ' breaths');
      // so many one way, then so many the other
      if (st.eachWay && n % 2 === 0) { var half = n / 2, there = num <= half; return { num: String(there ? num : num - half), of: ' of ' + half + (there ? ' one way' : ' the other way'), counts: there ? num : num - half, left: n - num }; }
      if (st.reps && down && n > down && n - num < down) return { num: String(n - num + 1), of: ' to go', counts: n - num + 1, left: n - num };
      return { num: String(num), of: of, counts: num, left: n - num };
    }
    var left = p.length(p.i) - p.inStep();
    if (left <= 0) return { num: clock(-left), of: ' over', counts: 0, left: -1 };
    var t = Math.ceil(left / 1000);
    return { num: t >= 60 ? clock(t * 1000) : String(t), of: t >= 60 ? ' left' : ' s', counts: 0, left: -1 };
  }
  // parts are the movements that are done as one, and which of them is on.
  function part(st, p) {
    var list = st.parts || [], all = list.reduce(function (n, x) { return n + x.s; }, 0), per = Math.max(1, p.perRep(p.i)), x = p.inStep() % per / per * all, on = 0;
    if (!list.length) return -1;
    for (var sum = list[0].s; on < list.length - 1 && x >= sum; sum += list[++on].s);
    return on;
  }
  // next is the step that is next to be told: another row, or the other side of this one; -1: the end.
  function next(steps, p) { for (var k = p.nextOf(p.i); k < steps.length; k = p.nextOf(k)) if (steps[k].row !== steps[p.i].row || working(steps[k]) && steps[k].side !== steps[p.i].side) return k; return -1; }
  // until is how long it is until a step begins, or to the end.
  function until(steps, p, k) { var wait = Math.max(0, p.length(p.i) - p.inStep()); for (var j = p.nextOf(p.i); j < (k < 0 ? steps.length : k); j = p.nextOf(j)) wait += p.length(j); return wait; }
  // work is the first step of a row from k on in which it is worked.
  function work(steps, k) { for (var j = k; j >= 0 && j < steps.length && steps[j].row === steps[k].row; j++) if (working(steps[j])) return steps[j]; return steps[k]; }

  // ---- the breath: phases over the width, in rises, out falls, held stays; where none are said the dot goes on a level line.
  var W = 1040, TOP = 12, LOW = 66, CYCLES = 2;
  var turned = { 'in': 'out', out: 'in', hold: 'hold', any: 'any' };
  function phases(st, turn) {
    if (!working(st)) return [];
    var ps = st.phases || [];
    return turn ? ps.map(function (x) { return { b: turned[x.b], share: x.share, does: x.does }; }) : ps;
  }
  function curve(ps) { // points of one cycle: [share, height 0..1, word]
    var up = null, pts = [], at = 0;
    ps.forEach(function (x) { if (up === null && (x.b === 'in' || x.b === 'out')) up = x.b === 'out' ? 1 : 0; });
    var h = up === null ? .5 : up;
    // where a cycle ends must be where it begins: what ends elsewhere comes back unseen
    ps.forEach(function (x) { var to = x.b === 'in' ? 1 : x.b === 'out' ? 0 : h; pts.push({ from: at, to: at + x.share, a: h, b: to, w: x.b, does: x.does || '' }); at += x.share; h = to; });
    return pts;
  }
  var ease = function (t) { return .5 - .5 * Math.cos(Math.PI * t); };
  function height(pts, t) { for (var k = 0; k < pts.length; k++) if (t < pts[k].to || k === pts.length - 1) { var x = pts[k], u = Math.min(1, Math.max(0, (t - x.from) / (x.to - x.from))); return { h: x.a + (x.b - x.a) * ease(u), on: x }; } return { h: .5, on: null }; }
  // breathing draws on an svg with the paths .swell and .swell.done, the circle and a group for words.
  function breathing(svg) {
    var path = svg.querySelector('.swell'), done = svg.querySelector('.done'), dot = svg.querySelector('circle'), words = svg.querySelector('g'), was = '', pts = [];
    var y = function (h) { return LOW - (LOW - TOP) * h; };
    function line(upto) {
      var d = '', n = 160;
      for (var k = 0; k <= n * upto; k++) { var t = k / n * CYCLES, f = t - Math.floor(t); if (k === n) f = 1; d += (d ? 'L' : 'M') + (k / n * W).toFixed(1) + ' ' + y(height(pts, f).h).toFixed(1); }
      return d || 'M0 ' + y(.5);
    }
    return function (st, p, turn) {
      var ps = phases(st, turn), key = JSON.stringify(ps), free = ps.length < 2;
      svg.classList.toggle('free', free);
      if (key !== was) {
        was = key; pts = free ? [{ from: 0, to: 1, a: .5, b: .5, w: 'any', does: '' }] : curve(ps);
        path.setAttribute('d', line(1));
        words.replaceChildren();
        if (!free) pts.concat().forEach(function (x) {
          if (x.w === 'any') return;
          var t = document.createElementNS('http://www.w3.org/2000/svg', 'text'), mid = (x.from + x.to) / 2 * W / CYCLES, wide = (x.to - x.from) * W / CYCLES;
          t.setAttribute('x', mid.toFixed(0)); t.setAttribute('y', 94); t.setAttribute('text-anchor', 'middle');
          var b = document.createElementNS('http://www.w3.org/2000/svg', 'tspan'); b.setAttribute('class', 'b'); b.textContent = x.w; t.append(b);
          if (x.does && x.does.length * 11.5 < wide - 56) t.append(' ' + x.does);
          words.append(t);
        });
      }
      if (free) { dot.setAttribute('cx', 0); dot.setAttribute('visibility', 'hidden'); done.setAttribute('d', 'M0 0'); return null; }
      dot.setAttribute('visibility', 'visible');
      var cycle = st.reps ? Math.max(1, p.perRep(p.i)) * (st.over || 1) : Math.max(1, st.in + st.out), n = p.inStep() / cycle, at = (n % CYCLES) / CYCLES, now = height(pts, n % 1);
      dot.setAttribute('cx', (at * W).toFixed(1)); dot.setAttribute('cy', y(now.h).toFixed(1));
      done.setAttribute('d', line(at));
      return now.on;
    };
  }
  window.wavekineView = { clock: clock, working: working, count: count, part: part, next: next, until: until, work: work, phases: phases, breathing: breathing };
})();
