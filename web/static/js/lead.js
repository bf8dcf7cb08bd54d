// The player of the timeline. It runs in the browser alone: the clock, the count, the breath, the
// sounds; and keeps what was taken of every row and side until the server has it.
(function () {
  'use strict';
  var $ = function (id) { return document.getElementById(id); };
  var data = JSON.parse($('lead-data').textContent), steps = data.steps;
  var KEY = 'wavekine.lead.' + data.id;
  var fresh = function () {
    return { id: data.id, rev: data.rev, runId: makeId(), i: 0, in: 0, started: 0, taken: steps.map(function () { return 0; }), more: steps.map(function () { return 0; }), notes: {}, running: false, mirror: data.mirrored, easier: false, sound: true, saved: 0 };
  };
  function makeId() { var b = new Uint8Array(12); crypto.getRandomValues(b); return Array.from(b, function (x) { return x.toString(16).padStart(2, '0'); }).join(''); }
  var s = fresh(), kept = wavekine.read(KEY);
  // A reload in mid-class goes on where it was, as long as the plan is the same and the day is.
  if (kept.id === data.id && kept.rev === data.rev && kept.taken && kept.taken.length === steps.length && Date.now() - kept.saved < 3 * 3600 * 1000) {
    s = kept;
    if (s.running) s.in += Math.min(Date.now() - s.saved, 20000); // the class did not stop for a reload
    $('l-status').textContent = 'Gone on where it was.';
  } else if (kept.run) { wavekine.keep(kept.run); localStorage.removeItem(KEY); }

  var perRep = function (st) { return st.reps ? st.s / st.reps : st.breaths ? st.s / st.breaths : 10000; };
  var dur = function (i) { return Math.max(1000, steps[i].s + s.more[i] * perRep(steps[i])); };
  var clock = function (ms) { var n = ms < 0, t = Math.round(Math.abs(ms) / 1000); return (n ? '-' : '') + Math.floor(t / 60) + ':' + String(t % 60).padStart(2, '0'); };
  var working = function (st) { return st.kind === 'work' || st.kind === 'pulse' || st.kind === 'hold'; };
  var gone = function () { var sum = s.in; for (var k = 0; k < steps.length; k++) sum += s.taken[k]; return sum; };

  function run(finished) {
    var rows = [], at = {};
    steps.forEach(function (st, k) {
      var taken = s.taken[k] + (k === s.i ? s.in : 0);
      var key = st.row + '|' + st.side + '|' + st.kind, r = at[key];
      if (!r) { r = at[key] = { place: st.row, name: st.name, side: st.side, kind: st.kind, planned_ms: 0, taken_ms: 0, planned_reps: 0, reps: 0, note: s.notes[st.row] || '' }; rows.push(r); }
      r.planned_ms += st.s; r.taken_ms += Math.round(taken);
      r.planned_reps += st.reps || 0;
      if (st.reps && taken > 0) r.reps += Math.max(0, Math.min(st.reps + s.more[k], Math.round(taken / perRep(st))));
    });
    return { id: s.runId, plan: data.id, rev: data.rev, title: data.title, started: new Date(s.started || Date.now()).toISOString(), promised_ms: data.promised, planned_ms: data.total, taken_ms: Math.round(gone()), finished: finished, note: s.notes.all || '', rows: rows };
  }
  function save() { if (!s.started) return; s.saved = Date.now(); s.run = run(false); wavekine.write(KEY, s); }

  // ---- sounds
  var audio = null;
  function tone(f, at, len, vol) {
    if (!s.sound || !audio) return;
    var o = audio.createOscillator(), g = audio.createGain(), t = audio.currentTime + at;
    o.frequency.value = f; o.type = 'sine';
    g.gain.setValueAtTime(0, t); g.gain.linearRampToValueAtTime(vol || .25, t + .02); g.gain.exponentialRampToValueAtTime(.001, t + len);
    o.connect(g).connect(audio.destination); o.start(t); o.stop(t + len + .05);
    window.wavekineTones = (window.wavekineTones || 0) + 1;
  }
  var sounds = {
    start: function () { tone(660, 0, .25); }, halfway: function () { tone(520, 0, .18); tone(520, .24, .18); },
    'last two': function () { tone(780, 0, .14); tone(780, .2, .14); }, 'ten seconds': function () { tone(440, 0, .3, .15); },
    'five to go': function () { for (var k = 0; k < 5; k++) tone(880, k, .09, .12); }, change: function () { tone(330, 0, .4, .2); },
  };
  var cueAt = function (st, i, name) {
    var d = dur(i);
    return { start: 0, halfway: d / 2, 'last two': d - 2 * perRep(st), 'ten seconds': d - 10000, 'five to go': d - 5000, next: d - 5000 }[name];
  };
  var lastCue = '', cueUntil = 0;
  function cues(from, to) {
    (steps[s.i].cues || []).forEach(function (c) {
      var at = cueAt(steps[s.i], s.i, c.cue);
      if (at >= from && at < to) { if (sounds[c.cue]) sounds[c.cue](); if (c.cue !== 'start') { lastCue = c.cue; cueUntil = Date.now() + 2600; } }
    });
  }

  // ---- figures, fetched once so that they are there without the network
  var figures = {};
  function figure(u) { return u ? u.split('#')[0] : ''; }
  var wanted = new Set();
  steps.forEach(function (st) { [st.fig, st.figEasy].forEach(function (u) { if (u) wanted.add(figure(u)); }); });
  wanted.forEach(function (u) {
    fetch(u).then(function (r) { return r.ok ? r.text() : ''; }).then(function (t) {
      if (!t) return;
      figures[u] = document.importNode(new DOMParser().parseFromString(t, 'image/svg+xml').documentElement, true);
      shown = ''; draw();
    }).catch(function () {});
  });
  if ('serviceWorker' in navigator) {
    navigator.serviceWorker.ready.then(function (reg) {
      var files = Array.from(document.querySelectorAll('link[rel=stylesheet], link[rel=preload]'), function (l) { return l.href; }).concat(Array.from(document.querySelectorAll('script[src]'), function (x) { return x.src; }), Array.from(wanted));
      reg.active.postMessage({ keep: { page: location.pathname, files: files } });
    });
    navigator.serviceWorker.addEventListener('message', function (e) { if (e.data.kept) document.documentElement.dataset.offline = 'ready'; });
  }

  // ---- what is seen
  var put = function (id, text) { var el = $(id); if (el.textContent !== text) el.textContent = text; };
  var rowsSeen = {}, rowNo = 0;
  steps.forEach(function (st) { if (!rowsSeen[st.row]) rowsSeen[st.row] = ++rowNo; });
  var shown = '';
  function nextOther(i) { for (var k = i + 1; k < steps.length; k++) if (steps[k].row !== steps[i].row || (working(steps[k]) && steps[k].side !== steps[i].side)) return k; return -1; }
  function side(st) {
    var p = $('l-side'); p.replaceChildren();
    if (st.side === 'both' || !working(st) && st.kind !== 'switch') { p.textContent = st.kind === 'setup' ? 'set up' : st.kind === 'position' ? 'change position' : st.kind === 'rest' ? 'rest' : ''; return; }
    var b = document.createElement('b'), limb = st.limb || 'side';
    b.className = st.side; b.textContent = st.side === 'alternating' ? 'alternating sides' : st.side + ' ' + limb;
    p.append(b);
    if (s.mirror && st.side !== 'alternating') p.append(' · they see it on the ' + (st.side === 'right' ? 'left' : 'right'));
    if (st.kind === 'switch') p.append(' · change side');
  }
  function count(st) {
    var d = dur(s.i), left = d - s.in, num, of = '';
    if (st.reps && !st.clocked) { var n = Math.max(1, st.reps + s.more[s.i]); num = Math.min(n, Math.floor(s.in / perRep(st)) + 1); of = ' of ' + n + (st.kind === 'pulse' ? ' pulses' : ''); if (data.down && n > data.down && n - num < data.down) { num = n - num + 1; of = ' to go'; } }
    else if (st.breaths) { var m = Math.max(1, st.breaths + s.more[s.i]); num = Math.min(m, Math.floor(s.in / perRep(st)) + 1); of = ' of ' + m + ' breaths'; }
    else { var t = Math.ceil(left / 1000); num = t >= 60 ? clock(t * 1000) : String(t); of = t >= 60 ? ' left' : ' s'; }
    put('l-num', String(num)); put('l-of', of);
  }
  var PATH = $('l-swell-done'), LEN = PATH.getTotalLength();
  PATH.setAttribute('stroke-dasharray', LEN + ' ' + LEN);
  function breath(st) {
    // two breaths across the picture; in rises, out falls
    var one = st.in + st.out, k = (s.in % (2 * one)) / one, n = Math.floor(k), x = (k - n) * one;
    var part = x < st.in ? .5 * x / st.in : .5 + .5 * (x - st.in) / st.out;
    var at = (n + part) / 2 * LEN, p = PATH.getPointAtLength(at);
    $('l-dot').setAttribute('cx', p.x.toFixed(1)); $('l-dot').setAttribute('cy', p.y.toFixed(1));
    PATH.setAttribute('stroke-dashoffset', (LEN - at).toFixed(1));
  }
  function draw() {
    var st = steps[s.i], face = s.i + '|' + s.mirror + '|' + s.easier;
    count(st); breath(st);
    var g = gone(), behind = g - (st.at + Math.min(s.in, st.s)), promised = data.promised || data.total;
    var c = $('l-clock'); c.textContent = clock(g) + ' gone · ' + clock(promised - g) + ' left';
    if (Math.abs(behind) >= 5000) { var b = document.createElement('span'); b.className = behind > 0 ? 'behind' : 'ahead'; b.textContent = ' · ' + clock(Math.abs(behind)) + (behind > 0 ? ' behind' : ' ahead'); c.append(b); }
    put('l-status', Date.now() < cueUntil ? lastCue : s.running ? '' : s.started ? 'paused' : 'Space starts. ' + (wavekine.waiting() ? wavekine.waiting() + ' earlier run waits for the server.' : ''));
    $('l-pause').firstChild.textContent = s.running ? 'Pause ' : s.started ? 'Go on ' : 'Start ';
    var k = nextOther(s.i), wait = dur(s.i) - s.in;
    for (var j = s.i + 1; j < k; j++) wait += dur(j);
    put('l-next', k < 0 ? 'Next the end in ' + clock(wait) : 'Next ' + (steps[k].row === st.row ? steps[k].side + ' side' : steps[k].name) + ' in ' + clock(wait));
    if (face === shown) return;
    shown = face;
    put('l-name', st.name); side(st);
    put('l-place', rowsSeen[st.row] + ' of ' + data.rows + (st.round ? ' · round ' + st.round : ''));
    put('l-words', st.says || '');
    $('l-easier').hidden = !st.easier; $('l-easier').querySelector('span').textContent = st.easier || '';
    $('l-harder').hidden = !st.harder; $('l-harder').querySelector('span').textContent = st.harder || '';
    var u = figure(s.easier && st.figEasy ? st.figEasy : st.fig), f = figures[u];
    if (f) { f.setAttribute('role', 'img'); f.removeAttribute('aria-hidden'); f.setAttribute('aria-label', 'Figure doing ' + st.name + (s.easier && st.figEasy ? ', easier' : '')); $('l-fig').replaceChildren(f); }
    else $('l-fig').replaceChildren();
    $('l-mirror').setAttribute('aria-pressed', String(s.mirror)); $('l-easy').setAttribute('aria-pressed', String(s.easier)); $('l-sound').setAttribute('aria-pressed', String(s.sound));
  }

  // ---- going on
  function leave() { s.taken[s.i] += s.in; s.in = 0; }
  function next(auto) {
    leave();
    if (s.i === steps.length - 1) return finish(true);
    s.i++; s.easier = s.easier && !!steps[s.i].figEasy;
    if (!working(steps[s.i]) || !auto) sounds.change();
    cues(0, 1); save(); draw();
  }
  function back() {
    if (s.in > 3000 || s.i === 0) { s.taken[s.i] += s.in; s.in = 0; } else { leave(); s.i--; }
    save(); draw();
  }
  var last = 0, done = false;
  function tick() {
    var now = Date.now();
    if (s.running && !done) {
      var was = s.in; s.in += now - last; last = now;
      cues(was, s.in);
      var guard = 0;
      while (s.in >= dur(s.i) && !done && guard++ < steps.length) { var over = s.in - dur(s.i); s.in = dur(s.i); next(true); if (!done) s.in = over; }
      if (now - s.saved > 1000) save();
    }
    last = now;
    if (!done) draw();
  }
  function wake() { if (navigator.wakeLock && s.running) navigator.wakeLock.request('screen').catch(function () {}); }
  document.addEventListener('visibilitychange', function () { if (!document.hidden) wake(); });
  function pause() {
    if (!s.started) s.started = Date.now();
    if (!audio && window.AudioContext) audio = new AudioContext();
    if (audio && audio.state === 'suspended') audio.resume();
    s.running = !s.running; last = Date.now();
    if (s.running) { wake(); if (s.in === 0) cues(0, 1); }
    save(); draw();
  }
  function finish(all) {
    if (!s.started) { location.href = '/sessions/' + data.id; return; }
    done = true; s.running = false;
    var r = run(all);
    localStorage.removeItem(KEY);
    $('lead').hidden = true; $('l-done').hidden = false;
    $('l-done-words').textContent = 'Taken ' + clock(r.taken_ms) + ', promised ' + clock(data.promised || data.total) + '. ' + (all ? '' : 'Stopped before the end. ');
    $('l-done-log').href = '/log/' + r.id;
    wavekine.keep(r).then(function () { if (wavekine.waiting()) $('l-done-words').textContent += 'The server does not answer; this is kept here and sent when it does.'; });
  }
  document.addEventListener('wavekine:sent', function (e) { if (done && e.detail.id === s.runId) $('l-done-words').textContent = $('l-done-words').textContent.replace(/The server.*/, '') + ' The server has it.'; });
  function more(by) { var st = steps[s.i]; if (!working(st) && by > 0 || dur(s.i) + by * perRep(st) > Math.max(s.in, 999)) { s.more[s.i] += by; } save(); draw(); }
  function note() { var f = $('l-noteform'); f.hidden = false; $('l-notetext').value = s.notes[steps[s.i].row] || ''; f.dataset.row = steps[s.i].row; $('l-notetext').focus(); }
  $('l-noteform').addEventListener('submit', function (e) { e.preventDefault(); s.notes[e.target.dataset.row] = $('l-notetext').value.slice(0, 500); e.target.hidden = true; save(); $('l-pause').focus(); });

  var acts = {
    pause: pause, next: function () { next(false); }, back: back, more: function () { more(1); }, fewer: function () { more(-1); },
    mirror: function () { s.mirror = !s.mirror; draw(); }, easier: function () { if (steps[s.i].figEasy) s.easier = !s.easier; draw(); },
    sound: function () { s.sound = !s.sound; shown = ''; draw(); }, note: note, stop: function () { leave(); finish(false); },
  };
  document.addEventListener('click', function (e) { var b = e.target.closest('[data-lead]'); if (b && !done) acts[b.dataset.lead](); });
  document.addEventListener('keydown', function (e) {
    if (done || $('keys').open || e.target.tagName === 'INPUT' || e.ctrlKey || e.metaKey || e.altKey) { if (e.key === 'Escape') $('l-noteform').hidden = true; return; }
    var a = { ' ': 'pause', ArrowRight: 'next', PageDown: 'next', ArrowLeft: 'back', PageUp: 'back', ArrowUp: 'more', ArrowDown: 'fewer', m: 'mirror', e: 'easier', v: 'sound', n: 'note', q: 'stop' }[e.key.length === 1 ? e.key.toLowerCase() : e.key];
    if (a) { e.preventDefault(); acts[a](); }
  });
  last = Date.now();
  addEventListener('pagehide', save);
  setInterval(tick, 60);
  draw();
})();
