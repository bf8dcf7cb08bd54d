// Landing: a look into the table that came with the class. It knows no page and needs no network; what is best was worked out by the server, for every place in
// the class and every time that could be wanted.
(function () {
  'use strict';
  // table: {limit, knobs: [{at, again, options: [{by, says, steps, words}]}], choices, low, best} in milliseconds and seconds; player: what is on.
  window.wavekineLanding = function (table, player) {
    var WITHIN = 5500; // so near is landed: 5 s, and half of the second that the table is written in
    var knobs = table.knobs;
    // begun counts the rows that have begun and stay as they are.
    function begun(i) { var lo = 0, hi = knobs.length; while (lo < hi) { var m = (lo + hi) >> 1; if (knobs[m].at <= i) lo = m + 1; else hi = m; } return lo; }
    function at(b, by) {
      var runs = table.best[b], k = Math.max(0, Math.round(by / 1000) - table.low[b]), n = 0;
      for (var j = 0; j < runs.length; j += 2) { n += runs[j]; if (k < n) return runs[j + 1]; }
      return runs[runs.length - 1];
    }
    // find is what makes the class so much longer than planned, where so many rows have begun: {of: {knob: option}, by, reached}.
    function find(b, by) {
      var of = {}, sum = 0;
      for (var c = at(b, by); c >= 0; c = table.choices[c][2]) { of[table.choices[c][0]] = table.choices[c][1]; sum += knobs[table.choices[c][0]].options[table.choices[c][1]].by; }
      return { of: of, by: sum, reached: Math.abs(sum - by) <= WITHIN };
    }
    // taken is what of the table is in force: the player has the steps of it.
    function taken() {
      var of = {}, l = player.landed;
      knobs.forEach(function (k, i) {
        k.options.forEach(function (o, j) {
          if (o.steps.length && o.steps.every(function (s) { var x = l[s[0]]; return x && (s.length === 1 ? x.out : !x.out && x.s === s[1] && x.n === s[2] + s[3]); })) of[i] = j;
        });
      });
      return of;
    }
    // steps of a choice, as the run has them.
    function steps(of) {
      var out = [];
      Object.keys(of).forEach(function (i) {
        knobs[i].options[of[i]].steps.forEach(function (s) {
          if (s.length === 1) { out.push({ step: s[0], out: true }); return; }
          var x = { step: s[0], s: s[1] / 1000 };
          if (s[2]) x.reps = s[2];
          if (s[3]) x.breaths = s[3];
          out.push(x);
        });
      });
      return out.sort(function (a, b) { return a.step - b.step; });
    }
    // words of what a choice changes of what is in force, in the order to come.
    function words(of, now) {
      var out = [];
      knobs.forEach(function (k, i) {
        if (of[i] === now[i]) return;
        out.push(of[i] === undefined ? k.again : k.options[of[i]].says);
      });
      return out;
    }
    // says what another step than planned says where landing changes that.
    function says(i) {
      var l = player.landed, w = '';
      if (!l[i]) return '';
      var of = taken();
      Object.keys(of).forEach(function (k) { var o = knobs[k].options[of[k]]; if (o.words && o.words[i]) w = o.words[i]; });
      return w;
    }
    function clock(ms) { var t = Math.round(ms / 1000); return Math.floor(t / 60) + ':' + String(t % 60).padStart(2, '0'); }
    // all steps of an offer, as the run has them.
    function stepsOf(o) {
      var list = steps(o.of);
      if (o.settle) list = list.filter(function (x) { return x.step !== table.settle[0]; }).concat([{ step: table.settle[0], s: o.settle / 1000, clocked: true }]).sort(function (a, b) { return a.step - b.step; });
      return list;
    }
    function cost(of, b) { var by = 0; Object.keys(of).forEach(function (i) { if (i >= b) by += knobs[i].options[of[i]].by; }); return by; }
    // settle is how long the last quiet step is when the class should be so much longer than planned, in whole seconds.
    function settle(by) { var x = table.settle; return Math.min(Math.max(Math.floor((x[1] + by + 500) / 1000) * 1000, x[2]), x[3]); }
    // settling tells whether nothing is to come but the last quiet step, or it is on.
    function settling(b) { return !!table.settle && b >= knobs.length && !player.out(table.settle[0]) && player.nextOf(table.settle[0]) >= player.steps.length; }
    // ends is when the class ends as it goes now.
    function ends() { return player.gone() + player.toCome(); }
    // offer is how to land on a length: {off, words, of, reached, ends}, or nothing where it is near enough or nothing would be better.
    function offer(promised) {
      var b = begun(player.started ? player.i : -1), end = ends(), off = end - promised, now = taken(), k = player.pace();
      if (Math.abs(off) <= table.limit && !(b >= knobs.length - 1 && Math.abs(off) > WITHIN)) return null;
      if (settling(b)) {
        var i = table.settle[0], has = player.seconds(i), is = settle(has - table.settle[1] - off), by = is - has;
        if (player.i === i) by = Math.max(by, Math.min(0, player.inStep() + 3000 - has));
        if (Math.abs(off) - Math.abs(off + by) < 3000) return { off: off, reached: false, of: null, words: [], ends: end, best: end };
        return { off: off, reached: Math.abs(off + by) <= WITHIN, of: now, settle: has + by, words: ['settle ' + clock(has + by)], ends: end, best: promised + off + by };
      }
      var keep = {}, free = {};
      Object.keys(now).forEach(function (i) { if (i < b) keep[i] = now[i]; else free[i] = now[i]; });
      // what is still to come as it was planned, and what is wanted of it, in its own time
      var want = cost(free, b) - off / k, f = find(b, want);
      var left = off + (f.by - cost(free, b)) * k;
      // what makes it hardly better is not worth the changes: where it cannot land, at least a third of what it is over must be won, two thirds of what it is under
      if (Math.abs(off) - Math.abs(left) < (f.reached ? 3000 : Math.max(3000, Math.abs(off) * (off > 0 ? 1 / 3 : 2 / 3)))) return { off: off, reached: false, of: null, words: [], ends: end, best: promised + left };
      Object.keys(keep).forEach(function (i) { f.of[i] = keep[i]; });
      return { off: off, reached: f.reached, of: f.of, words: words(f.of, now), ends: end, best: promised + left };
    }
    return { begun: begun, find: find, settle: settle, taken: taken, steps: stepsOf, words: words, says: says, ends: ends, offer: offer };
  };
})();
