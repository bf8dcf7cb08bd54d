// The screen of leading: shows what the player says is on, sounds, keys; keeps every event in the browser's
// storage as it happens, and hands the run over when the class is done. What happened is the player's to say.
(function () {
  'use strict';
  var $ = function (id) { return document.getElementById(id); };
  var data = JSON.parse($('lead-data').textContent), steps = data.steps;
  var KEY = 'wavekine.lead.' + data.run.teacher + '.' + data.id, ALIVE = KEY + '.alive', DATA = KEY + '.data';
  var HOURS = 3 * 3600 * 1000, AWAY = 20000, OTHER = 4000;
  var tab = makeId();
  function makeId() { var b = new Uint8Array(12); crypto.getRandomValues(b); return Array.from(b, function (x) { return x.toString(16).padStart(2, '0'); }).join(''); }
  var last = 0;
  function now() { last = Math.max(last, Date.now()); return last; } // a clock that is set back does not undo what happened

  var run = null;                    // the run document as far as it has come
  var seen = { mirror: data.mirrored, easier: false, sound: true };
  var full = false, lost = false, done = false, sentAt = 0;
  var player = window.wavekinePlayer(steps, now, happened);

  // ---- keeping
  function keep() {
    if (!run || done || lost) return;
    var ok = wavekine.write(KEY, run);
    full = !ok;
    alive();
  }
  var leaving = false; // the page goes: no other tab is leading then
  function alive() { if (run && !done && !lost) wavekine.write(ALIVE, { tab: tab, at: now(), left: leaving, wait: player.wait }); }
  function happened(e) {
    if (!run) { run = Object.assign({}, data.run, { id: makeId(), started: new Date(player.started).toISOString(), events: [] }); wavekine.write(DATA, data); }
    var out = Object.assign({}, e); out.at = e.at / 1000;
    run.events.push(out);
    if (e.does === 'ended') { finish(!e.early); return; }
    keep();
  }
  function forget() { [KEY, ALIVE, DATA].forEach(wavekine.remove); }
  // Where the browser cannot keep it, the server is told now and then what has happened so far.
  function tellServer() {
    if (!full || !run || done || now() - sentAt < AWAY) return;
    sentAt = now();
    wavekine.post(run).catch(function () {});
  }

  // ---- a class that was being led here
  function events() { return run.events.map(function (e) { var x = Object.assign({}, e); x.at = Math.round(e.at * 1000); return x; }); }
  function broken(kept, at) { // is kept as it stood
    run = kept;
    var lastAt = run.events[run.events.length - 1].at;
    run.events.push({ at: Math.max(lastAt, Math.round(at - Date.parse(run.started)) / 1000), does: 'ended', early: true });
    wavekine.keep(run); forget(); run = null;
  }
  function resume(kept, al) {
    run = kept;
    player.wait = !!al.wait;
    player.replay(events(), Date.parse(run.started));
    if (player.running && now() - al.at > AWAY) player.pauseAt(al.at); // it stopped when the page went
    keep();
    $('l-status').textContent = 'Gone on where it was.';
    said = 'Gone on where it was.'; saidUntil = now() + 4000;
  }
  function ask(says, yes, no) {
    $('l-ask-words').textContent = says;
    $('l-ask-yes').textContent = yes[0]; $('l-ask-no').textContent = no[0];
    $('l-ask').hidden = false; $('lead').inert = true;
    $('l-ask-yes').onclick = function () { $('l-ask').hidden = true; $('lead').inert = false; yes[1](); draw(); $('l-pause').focus(); };
    $('l-ask-no').onclick = function () { if (no[1]) { $('l-ask').hidden = true; $('lead').inert = false; no[1](); draw(); $('l-pause').focus(); } else location.href = '/sessions/' + data.id; };
    $('l-ask-yes').focus();
  }
  function open() {
    var kept = wavekine.read(KEY), al = wavekine.read(ALIVE);
    if (!kept.events || !kept.events.length) return;
    al.at = al.at || Date.parse(kept.started);
    var age = now() - al.at;
    if (age > HOURS) { broken(kept, al.at); return; }
    var go = function () {
      if (kept.rev === data.run.rev && JSON.stringify(kept.steps) === JSON.stringify(data.run.steps)) { resume(kept, al); return; }
      var old = wavekine.read(DATA);
      ask('This session was changed while you were leading it.', ['Go on with it as it was', function () {
        if (old.steps && old.run && old.run.rev === kept.rev) { data = old; steps = old.steps; player = window.wavekinePlayer(steps, now, happened); setUp(); }
        resume(kept, al);
      }], ['Begin with the new version', function () { broken(kept, al.at); }]);
    };
    if (!al.left && age < OTHER && al.tab !== tab) {
      lost = true;
      ask('This class is being led in another tab of this browser.', ['Take it over here', function () { lost = false; kept = wavekine.read(KEY); al = wavekine.read(ALIVE); if (kept.events) go(); }], ['Leave it there', null]);
    } else go();
  }
  // Another tab has taken over: this one stops, and writes nothing more.
  addEventListener('storage', function (e) {
    if (e.key !== ALIVE || !run || done || lost || !e.newValue) return;
    var al = wavekine.read(ALIVE); // as it stands: what a page wrote just before it went may arrive late, and is written over by then
    if (!al.tab || al.tab === tab || al.left) return; // the last word of a page that goes
    lost = true;
    ask('This class is led in another tab now.', ['Take it back', function () { location.reload(); }], ['Leave it there', null]);
  });

  var clock = function (ms) { var n = ms < 0, t = Math.round(Math.abs(ms) / 1000); return (n ? '-' : '') + Math.floor(t / 60) + ':' + String(t % 60).padStart(2, '0'); };
  var working = function (st) { return st.kind === 'work' || st.kind === 'pulse' || st.kind === 'hold'; };

  // ---- sounds
  var audio = null;
  function tone(f, at, len, vol) {
    if (!seen.sound || !audio) return;
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
  var said = '', saidUntil = 0;
  function cues(from, to) {
    (steps[player.i].cues || []).forEach(function (c) {
      var at = player.cueAt(player.i, c);
      if (at >= from && at < to) { if (sounds[c.cue]) sounds[c.cue](); if (c.cue !== 'start' && c.cue !== 'say') { said = c.cue; saidUntil = now() + 2600; } }
    });
  }

  // ---- figures, fetched once so that they are there without the network
  var figures = {}, wanted = new Set(), rowsSeen = {}, shown = '';
  function figure(u) { return u ? u.split('#')[0] : ''; }
  function setUp() {
    var rowNo = 0;
    rowsSeen = {};
    steps.forEach(function (st) {
      if (!rowsSeen[st.row]) rowsSeen[st.row] = ++rowNo;
      [st.fig, st.figEasy].concat((data.tracks || []).map(function (t) { return t.rows[st.row] && t.rows[st.row].fig; })).forEach(function (u) {
        u = figure(u);
        if (!u || wanted.has(u)) return;
        wanted.add(u);
        fetch(u).then(function (r) { return r.ok ? r.text() : ''; }).then(function (t) {
          if (!t) return;
          figures[u] = document.importNode(new DOMParser().parseFromString(t, 'image/svg+xml').documentElement, true);
          shown = ''; draw();
        }).catch(function () {});
      });
    });
  }
  setUp();
  if ('serviceWorker' in navigator) {
    navigator.serviceWorker.ready.then(function (reg) {
      var files = Array.from(document.querySelectorAll('link[rel=stylesheet], link[rel=preload]'), function (l) { return l.href; }).concat(Array.from(document.querySelectorAll('script[src]'), function (x) { return x.src; }), Array.from(wanted));
      reg.active.postMessage({ keep: { page: location.pathname + location.search, files: files } });
    });
    navigator.serviceWorker.addEventListener('message', function (e) { if (e.data.kept) document.documentElement.dataset.offline = 'ready'; });
  }

  // ---- what is seen
  var put = function (id, text) { var el = $(id); if (el.textContent !== text) el.textContent = text; };
  function nextOther(i) { for (var k = i + 1; k < steps.length; k++) if (steps[k].row !== steps[i].row || (working(steps[k]) && steps[k].side !== steps[i].side)) return k; return -1; }
  function side(st) {
    var p = $('l-side'); p.replaceChildren();
    if (st.side === 'both' || !working(st) && st.kind !== 'switch') { p.textContent = st.kind === 'setup' ? 'set up' : st.kind === 'position' ? 'change position' : st.kind === 'rest' ? 'rest' : ''; return; }
    var b = document.createElement('b'), told = seen.mirror ? st.mirrored : st.plain;
    b.className = st.side; b.textContent = 'say ' + told.say;
    p.append(b);
    if (told.rest) p.append(', ' + told.rest);
    if (st.kind === 'switch') p.append(' · change side');
  }
  function count(st) {
    var left = player.length(player.i) - player.inStep(), num, of = '';
    if (player.counted(player.i)) {
      var n = Math.max(1, player.target());
      num = Math.min(n, player.counting ? player.done() + 1 : Math.floor(player.inStep() / player.perRep(player.i)) + 1);
      of = ' of ' + n + (st.kind === 'pulse' ? ' pulses' : st.reps ? '' : ' breaths');
      if (st.reps && data.down && n > data.down && n - num < data.down) { num = n - num + 1; of = ' to go'; }
    } else if (left <= 0) { num = clock(-left); of = ' over'; }
    else { var t = Math.ceil(left / 1000); num = t >= 60 ? clock(t * 1000) : String(t); of = t >= 60 ? ' left' : ' s'; }
    put('l-num', String(num)); put('l-of', of);
  }
  var PATH = $('l-swell-done'), LEN = PATH.getTotalLength();
  PATH.setAttribute('stroke-dasharray', LEN + ' ' + LEN);
  function breath(st) {
    // two breaths across the picture; in rises, out falls
    var one = st.in + st.out, k = (player.inStep() % (2 * one)) / one, n = Math.floor(k), x = (k - n) * one;
    var part = x < st.in ? .5 * x / st.in : .5 + .5 * (x - st.in) / st.out;
    var at = (n + part) / 2 * LEN, p = PATH.getPointAtLength(at);
    $('l-dot').setAttribute('cx', p.x.toFixed(1)); $('l-dot').setAttribute('cy', p.y.toFixed(1));
    PATH.setAttribute('stroke-dashoffset', (LEN - at).toFixed(1));
  }
  // What is said at its time stays until the next is said.
  function line(st) {
    var says = st.says || '', t = player.inStep();
    (st.cues || []).forEach(function (c) { if (c.cue === 'say' && player.cueAt(player.i, c) <= t) says = c.say; });
    return says;
  }
  // The parts of what is built up, with the one that is on in the repetition.
  function parts(st) {
    var ol = $('l-parts'), list = st.parts || [];
    ol.hidden = !list.length;
    if (!list.length) return;
    if (ol.childElementCount !== list.length || ol.dataset.of !== String(player.i)) {
      ol.dataset.of = String(player.i);
      ol.replaceChildren.apply(ol, list.map(function (p) { var li = document.createElement('li'), b = document.createElement('b'); b.textContent = p.name; li.append(b); if (p.breath) li.append(' in and out'); return li; }));
    }
    var all = list.reduce(function (n, p) { return n + p.s; }, 0), x = player.inStep() % Math.max(1, player.perRep(player.i)) / Math.max(1, player.perRep(player.i)) * all, on = 0;
    for (var sum = list[0].s; on < list.length - 1 && x >= sum; sum += list[++on].s);
    Array.from(ol.children).forEach(function (li, k) { li.className = k === on ? 'on' : ''; });
  }
  // The ways beside the plan, on the row that is on: what differs of them, else that it is the same.
  function tracks(st) {
    if (!data.tracks) return;
    Array.from($('l-tracks').children).forEach(function (li, i) {
      var r = data.tracks[i].rows[st.row], same = !r;
      li.classList.toggle('same', same);
      li.querySelector('.t-name').textContent = same ? 'as planned' : r.name + (r.dose ? ', ' + r.dose : '');
      li.querySelector('.t-says').textContent = same ? '' : r.says || '';
      var u = r && figure(r.fig), box = li.querySelector('.t-fig');
      if (!u) { box.replaceChildren(); return; }
      if (figures[u]) box.replaceChildren(figures[u].cloneNode(true)); else box.replaceChildren();
    });
  }
  function status() {
    if (now() < saidUntil) return said;
    if (full) return 'This browser cannot keep the class: its storage is full or not allowed. Leave this page open to the end.';
    if (!player.started) return (matchMedia('(pointer: coarse), (max-width: 40rem)').matches ? '' : 'Space starts. ') + (wavekine.waiting() ? (wavekine.waiting() === 1 ? 'An earlier class waits' : wavekine.waiting() + ' earlier classes wait') + ' for the server.' : '');
    if (player.paused) return 'paused';
    if (player.held && player.inStep() > player.length(player.i)) return 'goes on when you do: →';
    return player.canNotYet() ? 'not yet? T' : '';
  }
  function draw() {
    if (done) return;
    var i = player.i, st = steps[i], face = i + '|' + seen.mirror + '|' + seen.easier + '|' + seen.sound + '|' + player.wait;
    count(st); breath(st); parts(st);
    put('l-words', line(st));
    var g = player.gone(), behind = g - (st.at + Math.min(player.inStep(), st.s)), promised = data.promised || data.total;
    var c = $('l-clock'); c.textContent = clock(g) + ' gone · ' + clock(promised - g) + ' left';
    if (Math.abs(behind) >= 5000) { var b = document.createElement('span'); b.className = behind > 0 ? 'behind' : 'ahead'; b.textContent = ' · ' + clock(Math.abs(behind)) + (behind > 0 ? ' behind' : ' ahead'); c.append(b); }
    put('l-status', status());
    $('l-pause').firstChild.textContent = player.running ? 'Pause ' : player.started ? 'Go on ' : 'Start ';
    var k = nextOther(i), wait = Math.max(0, player.length(i) - player.inStep());
    for (var j = i + 1; j < (k < 0 ? steps.length : k); j++) wait += player.length(j);
    put('l-next', k < 0 ? 'Next the end in ' + clock(wait) : 'Next ' + (steps[k].row === st.row ? steps[k].side + ' side' : steps[k].name) + ' in ' + clock(wait));
    if (face === shown) return;
    shown = face;
    tracks(st);
    put('l-name', st.name); side(st);
    put('l-place', (st.part ? st.part + ' · ' : '') + rowsSeen[st.row] + ' of ' + data.rows + (st.round ? ' · round ' + st.round : '') + (st.aim ? ' · aim for ' + st.aim : ''));
    $('l-easier').hidden = !st.easier; $('l-easier').querySelector('span').textContent = st.easier || '';
    $('l-harder').hidden = !st.harder; $('l-harder').querySelector('span').textContent = st.harder || '';
    var u = figure(seen.easier && st.figEasy ? st.figEasy : st.fig), f = figures[u];
    if (f) { f.setAttribute('role', 'img'); f.removeAttribute('aria-hidden'); f.setAttribute('aria-label', 'Figure doing ' + st.name + (seen.easier && st.figEasy ? ', easier' : '')); $('l-fig').replaceChildren(f); }
    else $('l-fig').replaceChildren();
    $('l-mirror').setAttribute('aria-pressed', String(seen.mirror)); $('l-easy').setAttribute('aria-pressed', String(seen.easier)); $('l-sound').setAttribute('aria-pressed', String(seen.sound));
    $('l-wait').setAttribute('aria-pressed', String(player.wait));
  }

  // ---- going on
  var was = 0, wasStep = 0;
  function tick() {
    if (done || lost) return;
    if (player.running) {
      if (player.i === wasStep) cues(was, player.inStep());
      if (player.tick() && !done) { if (!working(steps[player.i])) sounds.change(); landed(); }
      if (done) return;
      was = player.inStep(); wasStep = player.i;
    }
    if (now() - beat > 1000) { beat = now(); alive(); tellServer(); }
    draw();
  }
  var beat = 0;
  function landed() { seen.easier = seen.easier && !!steps[player.i].figEasy; was = 0; wasStep = player.i; cues(0, 1); }
  function wake() { if (navigator.wakeLock && player.running) navigator.wakeLock.request('screen').catch(function () {}); }
  document.addEventListener('visibilitychange', function () { if (!document.hidden) wake(); });
  function pause() {
    var first = !player.started;
    player.toggle();
    if (!audio && window.AudioContext) audio = new AudioContext();
    if (audio && audio.state === 'suspended') audio.resume();
    if (player.running) { wake(); if (first) landed(); }
  }

  // finish hands the run over, and says truly where it is.
  function finish(all) {
    done = true;
    forget();
    if (!run) return;
    $('lead').hidden = true; $('l-done').hidden = false;
    $('l-done-words').textContent = 'Taken ' + clock(player.gone()) + ', asked for ' + clock(data.promised || data.total) + '.' + (all ? '' : ' Stopped before the end.');
    $('l-done-log').href = '/log/' + run.id;
    where('waiting');
    wavekine.keep(run).then(function (r) { where(r.state, r.says); });
  }
  function where(state, says) {
    $('l-done-h').textContent = { saved: 'Saved', waiting: 'Not saved yet', refused: 'The server refused this class', memory: 'Not saved yet' }[state];
    $('l-done-where').textContent = {
      saved: 'The server has it.', waiting: 'The server does not answer; this is kept here and sent when it does.',
      refused: 'It says: ' + says + '. Nothing is lost: it waits under Log, where it can be put right and sent again.',
      memory: 'The server does not answer, and this browser cannot keep it: leave this page open until it is saved.',
    }[state];
    $('l-done-log').hidden = state !== 'saved'; $('l-done-mend').hidden = state !== 'refused';
  }
  document.addEventListener('wavekine:sent', function (e) { if (done && run && e.detail.id === run.id) where(e.detail.ok ? 'saved' : 'refused', e.detail.says); });

  function note() { var f = $('l-noteform'), kept = ''; if (!run) return; run.events.forEach(function (e) { if (e.does === 'note' && e.row === steps[player.i].row) kept = e.text; }); f.hidden = false; $('l-notetext').value = kept; f.dataset.row = steps[player.i].row; setTimeout(function () { $('l-notetext').focus(); }, 0); }
  $('l-noteform').addEventListener('submit', function (e) { e.preventDefault(); player.note(e.target.dataset.row, $('l-notetext').value.slice(0, 500)); e.target.hidden = true; $('l-pause').focus(); });
  function easier() {
    var st = steps[player.i];
    if (!st.figEasy) return;
    seen.easier = !seen.easier;
    player.level(seen.easier && st.easyLevel ? st.easyLevel : st.level);
    draw();
  }

  var acts = {
    pause: pause, next: function () { if (!player.started) return; player.next(); if (!done) { sounds.change(); landed(); draw(); } },
    back: function () { if (!player.started) return; player.back(); landed(); draw(); }, count: function () { player.rep(); draw(); }, stay: function () { player.stay(); draw(); },
    wait: function () { player.wait = !player.wait; alive(); draw(); },
    more: function () { player.change(1); draw(); }, fewer: function () { player.change(-1); draw(); },
    mirror: function () { seen.mirror = !seen.mirror; draw(); }, easier: easier,
    sound: function () { seen.sound = !seen.sound; draw(); }, note: note, mark: function () { player.mark(); said = 'marked'; saidUntil = now() + 1500; },
    stop: function () { if (!player.started) { location.href = '/sessions/' + data.id; return; } player.end(); },
  };
  document.addEventListener('click', function (e) { var b = e.target.closest('[data-lead]'); if (b && !done && !lost) acts[b.dataset.lead](); });
  document.addEventListener('keydown', function (e) {
    if (done || lost || $('keys').open || !$('l-ask').hidden || e.target.tagName === 'INPUT' || e.ctrlKey || e.metaKey || e.altKey) { if (e.key === 'Escape') $('l-noteform').hidden = true; return; }
    var a = { ' ': 'pause', ArrowRight: 'next', PageDown: 'next', ArrowLeft: 'back', PageUp: 'back', ArrowUp: 'more', ArrowDown: 'fewer', c: 'count', t: 'stay', w: 'wait', m: 'mirror', e: 'easier', v: 'sound', n: 'note', k: 'mark', q: 'stop' }[e.key.length === 1 ? e.key.toLowerCase() : e.key];
    if (a) { e.preventDefault(); acts[a](); }
  });
  addEventListener('pagehide', function () { leaving = true; alive(); });
  addEventListener('pageshow', function () { leaving = false; });
  // For rehearsing, and for tests that lead a class faster than it takes.
  window.wavekineLead = { get player() { return player; }, tick: tick };
  open();
  setInterval(tick, 60);
  draw();
})();
