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
  var nextId = makeId(); // of the run that begins here
  var leader = function () { return run ? run.id : nextId; }; // a reload goes on as the same leader, also another tab of this browser that takes over
  var last = 0;
  function now() { last = Math.max(last, Date.now()); return last; } // a clock that is set back does not undo what happened

  var V = window.wavekineView, clock = V.clock, working = V.working, rehearse = !!data.rehearse;
  var run = null;                    // the run document as far as it has come
  // What this browser keeps of how somebody likes to lead.
  var PREFS = 'wavekine.lead-as.' + data.run.teacher, likes = Object.assign({ sound: true, voice: false, beat: false, large: false, hand: false, pedal: false }, wavekine.read(PREFS));
  var seen = { mirror: data.mirrored, easier: false, turned: {} };
  var full = false, lost = false, done = false, sentAt = 0;
  // A rehearsal has a clock of its own, faster than the day's.
  var speed = 1, base = { real: 0, own: 0 };
  function rehearsed() { var t = Date.now(); if (!base.real) base = { real: t, own: t }; return base.own + (t - base.real) * speed; }
  var time = rehearse ? rehearsed : now;
  var player, land;
  function begin() { player = window.wavekinePlayer(steps, time, happened); land = window.wavekineLanding(data.landings, player); }
  begin();

  // ---- keeping
  function keep() {
    if (!run || done || lost || rehearse) return;
    var ok = wavekine.write(KEY, run);
    full = !ok;
    alive();
  }
  var leaving = false; // the page goes: no other tab is leading then
  function alive() { if (rehearse) return; if (run && !done && !lost) wavekine.write(ALIVE, { tab: tab, at: now(), left: leaving, wait: player.wait }); }
  function happened(e) {
    if (!run) { run = Object.assign({}, data.run, { id: nextId, started: new Date(player.started).toISOString(), events: [] }); if (!rehearse) wavekine.write(DATA, data); }
    var out = Object.assign({}, e); out.at = e.at / 1000;
    run.events.push(out);
    soon();
    if (e.does === 'ended') { finish(!e.early); return; }
    keep();
  }
  function forget() { [KEY, ALIVE, DATA].forEach(wavekine.remove); }
  // Where the browser cannot keep it, the server is told now and then what has happened so far.
  function tellServer() {
    if (rehearse || !full || !run || done || now() - sentAt < AWAY) return;
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
    openRoom(false);
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
    if (rehearse) { opening(); return; }
    var kept = wavekine.read(KEY), al = wavekine.read(ALIVE);
    if (!kept.events || !kept.events.length) { opening(); return; }
    al.at = al.at || Date.parse(kept.started);
    var age = now() - al.at;
    if (age > HOURS) { broken(kept, al.at); return; }
    var go = function () {
      if (kept.rev === data.run.rev && JSON.stringify(kept.steps) === JSON.stringify(data.run.steps)) { resume(kept, al); return; }
      var old = wavekine.read(DATA);
      ask('This session was changed while you were leading it.', ['Go on with it as it was', function () {
        if (old.steps && old.run && old.run.rev === kept.rev) { data = old; steps = old.steps; if (!data.landings) data.landings = { limit: 1e9, knobs: [], choices: [], low: [0], best: [[1, -1]] }; data.praise = data.praise || []; begin(); setUp(); }
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

  // ---- opening: what is said before the first movement
  function opening() {
    if (!$('l-open').querySelector('.aloud p')) return;
    $('l-open').hidden = false; $('lead').classList.add('opening');
  }
  function opened() { if ($('l-open').hidden) return false; $('l-open').hidden = true; $('lead').classList.remove('opening'); draw(); $('l-pause').focus(); return true; }

  // ---- sounds
  var sound = window.wavekineSound();
  function tone(f, at, len, vol) { if (likes.sound) sound.tone(f, at, len, vol); }
  var sounds = {
    start: function () { tone(660, 0, .25); }, halfway: function () { tone(520, 0, .18); tone(520, .24, .18); },
    'last two': function () { tone(780, 0, .14); tone(780, .2, .14); }, 'ten seconds': function () { tone(440, 0, .3, .15); },
    'five to go': function () { for (var k = 0; k < 5; k++) tone(880, k, .09, .12); }, change: function () { tone(330, 0, .4, .2); },
  };
  var said = '', saidUntil = 0;
  function say(words, ms) { said = words; saidUntil = now() + (ms || 2600); }
  function cues(from, to) {
    (steps[player.i].cues || []).forEach(function (c) {
      var at = player.cueAt(player.i, c);
      if (at >= from && at < to) { if (sounds[c.cue]) sounds[c.cue](); if (c.cue !== 'start' && c.cue !== 'say') say(c.cue); }
    });
    warn(from, to);
  }
  // A change of position or of kit is told before it comes.
  var WARN = 12000;
  function warn(from, to) {
    var i = player.i, at = player.length(i) - WARN, n = player.nextOf(i);
    if (!working(steps[i]) || n >= steps.length || steps[n].row === steps[i].row || at < from || at >= to || at < 2000) return;
    var way = wayTo(n), kit = kitOf(n, i);
    if (way || kit) { say([way, kit].filter(Boolean).join(' · '), 8000); tone(392, 0, .2, .12); tone(330, .22, .25, .12); }
  }
  function wayTo(n) { for (var k = n; k < steps.length && steps[k].row === steps[n].row && !working(steps[k]); k++) if (steps[k].kind === 'position') return 'next, ' + (land.says(k) || steps[k].says || 'change position'); return ''; }
  function kitOf(n, i) { var w = V.work(steps, n), kit = w.kit || ''; return kit && kit !== (steps[i].kit || '') ? 'fetch ' + kit : ''; }
  var counted = '';
  function aloud(c) { // the count, spoken or as tones
    var key = player.i + '|' + c.counts;
    if (!c.counts || key === counted) return;
    counted = key;
    if (!likes.voice || !player.running) return;
    if (likes.voice !== 'tones' && window.speechSynthesis) sound.speak(String(c.counts)); else sound.tone(600, 0, .06, .1);
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
  function side(st) {
    var p = $('l-side'); p.replaceChildren();
    if (st.side === 'both' || !working(st) && st.kind !== 'switch') { p.textContent = (st.kind === 'setup' ? 'set up' : st.kind === 'position' ? 'change position' : st.kind === 'rest' ? 'rest' : working(st) ? 'both sides' : '') + stands(st); return; }
    var b = document.createElement('b'), told = seen.mirror ? st.mirrored : st.plain;
    b.className = st.side; b.textContent = 'say ' + told.say;
    p.append(b);
    if (told.rest) p.append(', ' + told.rest);
    if (told.lie) p.append(' · ' + told.lie);
    if (st.kind === 'switch') p.append(' · change side');
    p.append(stands(st));
  }
  // How whoever leads stands, where the row says it.
  function stands(st) { return (st.faces ? ' · ' + { front: 'face them', side: 'seen from the side', back: 'back to them' }[st.faces] : '') + (st.onMat ? ' · ' + st.onMat + ' of the mat' : ''); }
  var breathe = V.breathing($('l-breath'));
  function turnedHere(st) { return !!st.turns && !!seen.turned[st.turns]; }
  // What is said: first how, on the second side or in the next round a check, with the last three encouragement. What is said at its time stays until the next is said.
  var LAST = 3, FROM = 5; // encouragement comes with the last three of five and more; judgement
  function line(st, c) {
    var says = land.says(player.i) || st.says || '', t = player.inStep(), at = false;
    (st.cues || []).forEach(function (q) { if (q.cue === 'say' && player.cueAt(player.i, q) <= t) { says = q.say; at = true; } });
    if (at || !working(st)) return says;
    if (st.reps && player.target() >= FROM && c.left >= 0 && c.left < LAST) return data.praise.length ? data.praise[(player.i * 7 + rowsSeen[st.row]) % data.praise.length] : says;
    if (st.second && st.check) return st.check.felt ? 'Felt in ' + the(st.check.felt) + (st.check.not ? ', not in ' + the(st.check.not) : '') + '?' : st.check.feel || st.check.look || says;
    return says;
  }
  function the(w) { return /^(the|a|an|your|both|one)\b/.test(w) ? w : 'the ' + w; }
  var big = function (w) { return w ? w[0].toUpperCase() + w.slice(1) : ''; };
  // A check is shown at the start, halfway and when another level is shown: what to look for, the sign that it is lost and what to do then.
  var CHECK = 9000, levelAt = -1e9;
  function check(st) {
    var k = st.check, t = player.inStep(), half = player.length(player.i) / 2, p = $('l-check');
    var on = k && working(st) && (t < CHECK || t >= half && t < half + CHECK || now() - levelAt < CHECK), words = '', who = (data.corrected || {})[st.row];
    if (on) {
      words = 'Check: ' + (k.feel || k.look || '');
      if (k.lost) words += (words.slice(-1) === '?' ? ' ' : '. ') + 'Lost: ' + k.lost.replace(/\.$/, '') + (k.then ? '; then ' + k.then : '') + '.';
    } else if (offer(st)) words = offer(st);
    if (who && !words) words = 'Last time ' + who.join('; ');
    else if (st.assist && working(st) && !words) words = 'With hands: ' + st.assist + (data.noTouch ? '; not ' + data.noTouch.join(', ') : '') + '. Alone: ' + st.alone + '.';
    p.hidden = !words;
    if (p.textContent !== words) p.textContent = words;
  }
  // When the easier and the harder option are said: before it begins, on the climb, or when it gets too much.
  function offer(st) {
    if (!working(st) || st.second) return '';
    var part = player.inStep() / Math.max(1, player.length(player.i));
    if (data.offered === 'on the climb') return part > .3 && part < .55 && st.easier ? 'Say now: easier, ' + st.easier : part >= .55 && part < .8 && st.harder ? 'Say now: harder, ' + st.harder : '';
    if (data.offered === 'when it is too much') return part > .5 && part < .85 && st.easier ? 'Say now: easier, ' + st.easier : '';
    return '';
  }
  function parts(st) {
    var ol = $('l-parts'), list = st.parts || [], on = V.part(st, player);
    ol.hidden = !list.length;
    if (!list.length) return;
    if (ol.childElementCount !== list.length || ol.dataset.of !== String(player.i)) {
      ol.dataset.of = String(player.i);
      ol.replaceChildren.apply(ol, list.map(function (p) { var li = document.createElement('li'), b = document.createElement('b'); b.textContent = p.name; li.append(b); if (p.breath) li.append(' in and out'); return li; }));
    }
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
    if (player.held && player.inStep() > player.length(player.i)) return likes.pedal ? 'goes on when you do' : 'goes on when you do: →';
    return player.canNotYet() ? 'not yet? T' : '';
  }
  // ---- landing
  var offered = null, left = null, lookedAt = 0, undos = [];
  var promised = function () { return data.promised || data.total; };
  function landing() {
    if (!player.started || player.ended) { offered = null; return; }
    if (player.paused && offered) return;
    var o = land.offer(promised());
    // Time in hand is no news early in a class, as long as it is little: judgement.
    if (o && o.off < 0 && -o.off < 60000 && player.gone() < promised() / 2) o = null;
    // What was left stays left until the end moves by as much again, or something else begins.
    if (o && left && (left.begun === land.begun(player.i) || !o.of) && Math.abs(o.off - left.off) < Math.max(data.landings.limit, 5000)) o = null;
    if (o && offered && o.of && offered.of && Math.abs(o.off - offered.off) < 4000 && JSON.stringify(o.of) === JSON.stringify(offered.of) && o.settle === offered.settle) return;
    offered = o;
  }
  function landLine() {
    var box = $('l-land'), o = offered;
    box.hidden = !o;
    if (!o) return;
    if (o.of && o.words.length) {
      put('l-land-to', o.reached ? 'To land on ' + clock(promised()) : 'To end at ' + clock(o.best) + ', the nearest to ' + clock(promised()));
      put('l-land-says', o.words.join(' · '));
    } else { put('l-land-to', 'Ends at ' + clock(o.ends) + ', not on ' + clock(promised())); put('l-land-says', o.best === o.ends ? 'nothing is left that may be changed' : 'at best ' + clock(o.best) + ', with everything changed that may be'); }
    $('l-land-take').hidden = !(o.of && o.words.length);
  }
  function takeLanding() {
    if (!offered || !offered.of || !offered.words.length) return;
    undos.push(landedNow());
    var words = offered.words.join('; ').slice(0, 1900);
    player.land(land.steps(offered), words);
    say('Landing: ' + words, 5000);
    offered = null; left = null; shown = ''; landing(); draw();
  }
  function landedNow() { var l = player.landed; return Object.keys(l).map(Number).sort(function (a, b) { return a - b; }).map(function (i) { return l[i].out ? { step: i, out: true } : Object.assign({ step: i, s: l[i].s / 1000 }, steps[i].breaths && !steps[i].reps ? { breaths: l[i].n } : l[i].n ? { reps: l[i].n } : {}, l[i].clocked ? { clocked: true } : {}); }); }
  function leaveLanding() { if (!offered) return false; left = { off: offered.off, begun: land.begun(player.i), of: offered }; offered = null; say('Left as it is. U offers it again.', 4000); draw(); return true; }
  function undoLanding() {
    if (left) { left = null; landing(); draw(); return; }
    if (!undos.length) return;
    player.land(undos.pop(), 'taken back');
    left = { off: land.ends() - promised(), begun: land.begun(player.i) };
    offered = null; shown = ''; say('The landing is taken back.', 4000); draw();
  }

  // ---- the wave of the class, with the place in it
  var waveBox = $('l-wave'), hereMark = $('l-here');
  function place() { var st = steps[player.i]; return Math.min(1, (st.at + Math.min(1, player.inStep() / Math.max(1, player.length(player.i))) * st.s) / Math.max(1, data.total)); }
  function wave() { hereMark.style.left = (100 * place()).toFixed(2) + '%'; if (rehearse) { var t = Math.round(place() * data.total / 1000); waveBox.setAttribute('aria-valuenow', t); waveBox.setAttribute('aria-valuetext', clock(1000 * t) + ', ' + steps[player.i].name); } }
  if (rehearse) {
    var drag = false, scrub = function (e) { var b = waveBox.getBoundingClientRect(); seekTo(Math.min(1, Math.max(0, (e.clientX - b.left) / b.width)) * data.total); };
    waveBox.addEventListener('pointerdown', function (e) { drag = true; waveBox.setPointerCapture(e.pointerId); scrub(e); });
    waveBox.addEventListener('pointermove', function (e) { if (drag) scrub(e); });
    ['pointerup', 'pointercancel'].forEach(function (t) { waveBox.addEventListener(t, function () { drag = false; }); });
    waveBox.addEventListener('keydown', function (e) {
      var by = { ArrowRight: 5000, ArrowLeft: -5000, PageDown: 60000, PageUp: -60000, Home: -1e12, End: 1e12 }[e.key];
      if (by === undefined) return;
      e.preventDefault(); e.stopPropagation(); seekTo(Math.min(data.total - 1, Math.max(0, place() * data.total + by)));
    });
    $('l-speed').addEventListener('change', function (e) { var t = rehearsed(); base = { real: Date.now(), own: t }; speed = Number(e.target.value); });
    var from = /^#t=(\d+(\.\d+)?)$/.exec(location.hash);
    if (from) setTimeout(function () { seekTo(Math.min(data.total - 1, from[1] * 1000)); }, 0);
  }
  function seekTo(ms) {
    opened();
    var i = 0;
    while (i < steps.length - 1 && steps[i].at + steps[i].s <= ms) i++;
    player.seek(i, ms - steps[i].at); was = player.inStep(); wasStep = player.i; shown = ''; offered = null; draw();
  }

  function draw() {
    if (done) return;
    var i = player.i, st = steps[i], face = [i, seen.mirror, seen.easier, JSON.stringify(likes), player.wait, turnedHere(st), Object.keys(player.landed).length, Object.keys(figures).length].join('|');
    var c = V.count(st, player, data.down);
    put('l-num', c.num); put('l-of', c.of); aloud(c);
    breathe(st, player, turnedHere(st)); parts(st);
    put('l-words', line(st, c)); check(st); wave();
    var g = player.gone(), end = player.started ? land.ends() : promised(), off = end - promised(), box = $('l-clock');
    var text = clock(g) + ' gone · ';
    if (!player.started) { text = '0:00 gone · ' + clock(promised()) + ' left'; if (box.textContent !== text) box.textContent = text; }
    else {
      var ends = document.createElement('b');
      ends.className = Math.abs(off) <= data.landings.limit ? '' : off > 0 ? 'behind' : 'ahead';
      ends.textContent = 'ends ' + clock(end);
      box.replaceChildren(text, ends, ' of ' + clock(promised()) + (Math.abs(off) >= 5000 ? ', ' + clock(Math.abs(off)) + (off > 0 ? ' over' : ' under') : ''));
    }
    put('l-status', status()); landLine();
    $('l-undo').hidden = !undos.length && !left;
    $('l-pause').firstChild.textContent = player.running ? 'Pause ' : player.started ? 'Go on ' : 'Start ';
    var k = V.next(steps, player), wait = V.until(steps, player, k);
    if (k < 0) { put('l-way', 'next'); put('l-next', 'the end in ' + clock(wait)); }
    else {
      var w = V.work(steps, k);
      put('l-way', steps[k].row === st.row ? 'next' : [wayTo(k) || 'next', kitOf(k, i)].filter(Boolean).join(', '));
      put('l-next', (steps[k].row === st.row ? 'the ' + steps[k].side + ' side' : steps[k].name + (w.second && /right|left/.test(w.side) ? ', ' + w.side + ' side' : '') + (w.dose ? ' ' + w.dose : '')) + ', in ' + clock(wait));
    }
    if (face === shown) return;
    shown = face;
    tracks(st);
    put('l-name', st.name); side(st);
    put('l-place', (st.part ? st.part + ' · ' : '') + rowsSeen[st.row] + ' of ' + data.rows + (st.round ? ' · round ' + st.round : '') + (st.aim ? ' · aim for ' + st.aim : ''));
    $('l-easier').hidden = !st.easier; $('l-easier').querySelector('span').textContent = st.easier || '';
    $('l-harder').hidden = !st.harder; $('l-harder').querySelector('span').textContent = st.harder || '';
    var f = figures[figure(seen.easier && st.figEasy ? st.figEasy : st.fig)];
    if (f) { f = f.cloneNode(true); f.setAttribute('role', 'img'); f.removeAttribute('aria-hidden'); f.setAttribute('aria-label', 'Figure doing ' + st.name + (seen.easier && st.figEasy ? ', easier' : '')); $('l-fig').replaceChildren(f); }
    else $('l-fig').replaceChildren();
    var nf = k < 0 ? null : figures[figure(steps[k].row === st.row ? st.fig : V.work(steps, k).fig || steps[k].fig)];
    if (nf) { nf = nf.cloneNode(true); nf.setAttribute('aria-hidden', 'true'); $('l-nextfig').replaceChildren(nf); } else $('l-nextfig').replaceChildren();
    [['l-mirror', seen.mirror], ['l-easy', seen.easier], ['l-sound', likes.sound], ['l-voice', likes.voice], ['l-beat', likes.beat], ['l-large', likes.large], ['l-hand', likes.hand], ['l-pedal', likes.pedal], ['l-wait', player.wait], ['l-turn', turnedHere(st)]].forEach(function (x) { $(x[0]).setAttribute('aria-pressed', String(!!x[1])); });
    $('l-voice').firstElementChild.textContent = likes.voice === 'tones' ? 'Count in tones' : 'Count aloud';
    $('l-turn').disabled = !st.turns; $('l-forgood').hidden = !turnedHere(st) || rehearse;
    $('lead').classList.toggle('large', likes.large); $('lead').classList.toggle('left-hand', likes.hand); $('lead').classList.toggle('one-key', likes.pedal);
  }

  // ---- going on
  var was = 0, wasStep = 0;
  function tick() {
    if (done || lost) return;
    if (player.running) {
      if (player.i === wasStep) cues(was, player.inStep());
      if (likes.beat && data.bpm && working(steps[player.i])) sound.beat(data.bpm); else sound.quiet();
      if (player.tick() && !done) { if (!working(steps[player.i])) sounds.change(); landed(); }
      if (done) return;
      was = player.inStep(); wasStep = player.i;
    }
    else sound.quiet();
    if (now() - beat > 1000) { beat = now(); alive(); tellServer(); landing(); if (now() - toldAt > 5000) soon(); }
    draw();
  }
  var beat = 0;
  // The easier level stays for the other side and for all of the row; another row begins as planned.
  var easyRow = '';
  function landed() { if (seen.easier && steps[player.i].row !== easyRow) seen.easier = false; else if (seen.easier && working(steps[player.i])) player.level(steps[player.i].easyLevel || steps[player.i].level); landing(); was = 0; wasStep = player.i; cues(0, 1); }
  function wake() { if (navigator.wakeLock && player.running) navigator.wakeLock.request('screen').catch(function () {}); }
  document.addEventListener('visibilitychange', function () { if (!document.hidden) wake(); });
  function pause() {
    sound.wake();
    opened();
    var first = !player.started;
    player.toggle();
    if (player.running) { wake(); if (first) { landed(); if (!room.code) openRoom(false); } }
  }

  // finish hands the run over, and says truly where it is.
  function finish(all) {
    done = true;
    sound.quiet();
    if (!rehearse) forget();
    if (!run) return;
    $('l-open').hidden = true; soon(); endRoom();
    $('lead').hidden = true; $('l-done').hidden = false;
    $('l-done-words').textContent = 'Taken ' + clock(player.gone()) + ', asked for ' + clock(data.promised || data.total) + '.' + (all ? '' : ' Stopped before the end.');
    $('l-done-log').href = '/log/' + run.id;
    $('l-closing').hidden = !all;
    if (rehearse) { $('l-done-h').textContent = 'Rehearsed'; $('l-done-where').textContent = 'Nothing was recorded.'; return; }
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

  function note() { if (rehearse) return; $('l-correctform').hidden = true; var f = $('l-noteform'), kept = ''; if (!run) return; run.events.forEach(function (e) { if (e.does === 'note' && e.row === steps[player.i].row) kept = e.text; }); f.hidden = false; $('l-notetext').value = kept; f.dataset.row = steps[player.i].row; setTimeout(function () { $('l-notetext').focus(); }, 0); }
  $('l-noteform').addEventListener('submit', function (e) { e.preventDefault(); player.note(e.target.dataset.row, $('l-notetext').value.slice(0, 500)); e.target.hidden = true; $('l-pause').focus(); });
  function easier() {
    var st = steps[player.i];
    if (!st.figEasy) return;
    seen.easier = !seen.easier; easyRow = st.row; levelAt = now();
    player.level(seen.easier && st.easyLevel ? st.easyLevel : st.level);
    draw();
  }

  // ---- corrections
  function correct() {
    if (rehearse || !run) return;
    var f = $('l-correctform'), st = steps[player.i]; $('l-noteform').hidden = true; f.hidden = false; f.dataset.row = st.row;
    $('l-fault').value = st.check && st.check.lost ? st.check.lost.replace(/\.$/, '') : '';
    setTimeout(function () { $('l-who').focus(); }, 0);
  }
  $('l-correctform').addEventListener('submit', function (e) { e.preventDefault(); player.correct(e.target.dataset.row, $('l-who').value, $('l-fault').value.slice(0, 500)); e.target.hidden = true; say('Noted for the next time.', 2500); $('l-pause').focus(); });

  // ---- the breath turned round, here or for good
  function turnBreath() { var st = steps[player.i]; if (!st.turns) return; seen.turned[st.turns] = !seen.turned[st.turns]; draw(); soon(); }
  function forGood() {
    var st = steps[player.i];
    if (!st.turns || rehearse) return;
    fetch('/lead/breath', { method: 'POST', headers: { 'Content-Type': 'application/x-www-form-urlencoded' }, body: 'movement=' + encodeURIComponent(st.turns) }).then(function (r) {
      if (!r.ok) throw r;
      return r.json();
    }).then(function (x) { say(x.turned ? 'From now on you breathe ' + st.name + ' this way.' : st.name + ' is breathed as before from now on.', 5000); }).catch(function () { say('That could not be kept now: there is no answer. It holds for this class.', 5000); });
  }

  // ---- a mark that the film shows and that can be heard in it
  function mark() {
    if (!player.started) return;
    player.mark();
    var f = $('l-flash'); f.hidden = false; setTimeout(function () { f.hidden = true; }, 220);
    sound.wake(); sound.tone(1000, 0, .22, .4);
    say('marked', 1500);
  }

  // ---- the room's screen, and whether the class is led elsewhere
  var room = { code: '', n: 0, busy: false, again: false, near: null, asked: false, away: 0 }, toldAt = 0, soonSet = false;
  // n grows with every word, over a reload too: a screen leaves an earlier word that was slower.
  function snapshot() {
    var i = player.i, st = steps[i], out = [], lengths = {};
    Object.keys(player.landed).forEach(function (k) { if (player.landed[k].out) out.push(Number(k)); else if (k > i && k < i + 12) lengths[k] = Math.round(player.length(Number(k))); });
    return { run: run ? run.id : '', n: room.n = Math.max(room.n + 1, Date.now()), i: i, into: Math.round(player.inStep()), running: player.running, started: !!player.started, held: player.held, length: Math.round(player.length(i)), perRep: Math.round(player.perRep(i)), target: player.target(), done: player.done(), counting: player.counting, counted: player.counted(i), gone: Math.round(player.gone()), mirror: seen.mirror, easier: seen.easier, turned: turnedHere(st), out: out, lengths: lengths, ended: done };
  }
  function soon() { if (rehearse || soonSet) return; soonSet = true; setTimeout(function () { soonSet = false; tellRoom(); }, 15); }
  function classOf() { return { title: data.title, promised: promised(), down: data.down, steps: steps.map(function (st) { var x = Object.assign({}, st); ['says', 'care', 'check', 'mirrored', 'plain', 'cues', 'breath', 'harder', 'part', 'easyLevel'].forEach(function (k) { delete x[k]; }); return x; }) }; }
  var nearby = window.BroadcastChannel && !rehearse ? new BroadcastChannel('wavekine.class.' + data.id) : null; // the running script of this class, on this machine
  function tellRoom() {
    if (rehearse || lost) return;
    toldAt = now();
    if (nearby && player.started) nearby.postMessage({ planned: (steps[player.i].at + Math.min(steps[player.i].s, player.inStep())) / 1000, running: player.running && !done });
    if (!room.code) return;
    var s = snapshot();
    if (room.near) room.near.postMessage({ state: s });
    if (room.busy) { room.again = true; return; }
    if (now() < room.away && !done) return; // nobody answered just now: the next word in a while says all of it
    room.busy = true;
    fetch('/rooms/' + room.code, { method: 'POST', headers: { 'Content-Type': 'application/json' }, body: JSON.stringify({ tab: leader(), state: s, ended: done }), keepalive: done }).then(function (r) {
      // only the word itself counts: a sign-in that has ended answers with its page
      return r.status === 200 && !r.redirected ? r.json().then(function (x) { if (x.gone && !done) elsewhere(); }) : null;
    }).catch(function () { room.away = now() + 5000; room.again = false; }).then(function () { room.busy = false; if (room.again) { room.again = false; tellRoom(); } });
  }
  function endRoom() { tellRoom(); }
  // openRoom tells the server that this class is led here. take: also where it is led elsewhere.
  function openRoom(take) {
    if (rehearse) return Promise.resolve('');
    return fetch('/sessions/' + data.id + '/room', { method: 'POST', headers: { 'Content-Type': 'application/json' }, body: JSON.stringify({ tab: leader(), take: !!take, class: classOf() }) }).then(function (r) { return r.json().then(function (x) {
      if (x.led) { room.asked = true; led(x); return ''; }
      if (!r.ok) return '';
      room.code = x.code;
      if (window.BroadcastChannel && !room.near) {
        room.near = new BroadcastChannel('wavekine.room.' + room.code);
        room.near.onmessage = function (e) { if (e.data && e.data.hello) room.near.postMessage({ class: classOf(), state: snapshot() }); };
      }
      if (room.near) room.near.postMessage({ class: classOf() });
      tellRoom();
      return room.code;
    }); }).catch(function () { return ''; });
  }
  // The class is led elsewhere: follow it, or take it over where it is.
  function led(x) {
    if (player.started && player.running) player.toggle();
    lost = true;
    ask('This class is being led by ' + (x.who || 'somebody') + ' on another device or in another browser.', ['Take it over here', function () {
      lost = false;
      openRoom(true).then(function () {
        var s = x.state || {};
        opened();
        if (!player.started) player.toggle(); else if (player.paused) player.toggle();
        if (s.started && s.i < steps.length && s.i > player.i) player.jump(s.i); // where the class is
        landed(); draw();
      });
    }], ['Follow it', function () { location.href = '/room/' + x.code; }]);
  }
  function elsewhere() {
    if (lost || done) return;
    lost = true;
    ask('This class is led elsewhere now.', ['Take it back', function () { lost = false; openRoom(true).then(function () { draw(); }); }], ['Leave it there', function () { lost = false; if (player.started) player.end(); else location.href = '/sessions/' + data.id; }]);
  }
  function showRoom() {
    var box = $('l-room'), show = function (code) {
      $('l-room-says').replaceChildren();
      if (!code) { $('l-room-says').textContent = 'The server does not answer: a room can be opened when it is back.'; $('l-room-open').hidden = true; return; }
      var b = document.createElement('b'); b.className = 'num'; b.textContent = code;
      $('l-room-says').append('On the other screen open ' + location.host + '/room and type ', b, '. It follows this class, and ends with it.');
      $('l-room-open').href = '/room/' + code; $('l-room-open').hidden = false;
    };
    box.hidden = false; $('lead').inert = true; $('l-room-back').focus();
    if (room.code) show(room.code); else { $('l-room-says').textContent = 'Asking for a code.'; openRoom(false).then(function (c) { if (!lost) show(c); }); }
  }
  $('l-room-back').addEventListener('click', function () { $('l-room').hidden = true; $('lead').inert = false; $('l-pause').focus(); });

  function like(k) { return function () { likes[k] = !likes[k]; wavekine.write(PREFS, likes); if (k === 'pedal') player.wait = likes.pedal || player.wait; alive(); shown = ''; draw(); }; }
  // One key leads: it starts, counts where there is something to count, and goes on; held down it goes back.
  function oneKey() {
    if (!player.started || player.paused) { pause(); return; }
    var st = steps[player.i];
    if (working(st) && player.counted(player.i) && st.reps && player.done() < player.target()) { acts.count(); if (player.done() >= player.target()) acts.next(); } else acts.next();
  }
  var acts = {
    pause: pause, next: function () { sound.wake(); if (opened()) return; if (!player.started) return; player.next(); if (!done) { sounds.change(); landed(); draw(); } },
    back: function () { if (!player.started) return; player.back(); landed(); draw(); }, count: function () { player.rep(); draw(); }, stay: function () { player.stay(); draw(); },
    wait: function () { player.wait = !player.wait; alive(); shown = ''; draw(); },
    more: function () { player.change(1); landing(); draw(); }, fewer: function () { player.change(-1); landing(); draw(); },
    mirror: function () { seen.mirror = !seen.mirror; draw(); soon(); }, easier: easier, opened: function () { sound.wake(); opened(); },
    sound: like('sound'), voice: function () { likes.voice = !likes.voice ? 'voice' : likes.voice === 'tones' ? false : 'tones'; wavekine.write(PREFS, likes); shown = ''; draw(); }, beat: like('beat'), large: like('large'), hand: like('hand'), pedal: like('pedal'), note: note, mark: mark, correct: correct,
    breath: turnBreath, forgood: forGood, land: takeLanding, later: leaveLanding, undo: undoLanding, room: showRoom,
    full: function () { if (document.fullscreenElement) document.exitFullscreen(); else if (document.documentElement.requestFullscreen) document.documentElement.requestFullscreen().catch(function () {}); },
    stop: function () { if (!player.started) { location.href = '/sessions/' + data.id; return; } player.end(); },
  };
  document.addEventListener('click', function (e) {
    if (done || lost) return;
    var b = e.target.closest('[data-lead]');
    if (b) { acts[b.dataset.lead](); return; }
    if (likes.pedal && e.target.closest('.l-main')) oneKey(); // a touch anywhere on what is shown
  });
  var downAt = 0;
  function inside(e, css) { return e.target.closest ? e.target.closest(css) : null; }
  function typing(e) { return done || lost || $('keys').open || !$('l-ask').hidden || !$('l-room').hidden || /^(INPUT|SELECT|TEXTAREA)$/.test(e.target.tagName || '') || e.ctrlKey || e.metaKey || e.altKey; }
  document.addEventListener('keydown', function (e) {
    if (typing(e)) {
      if (e.key === 'Escape') { $('l-noteform').hidden = true; $('l-correctform').hidden = true; if (!$('l-room').hidden) $('l-room-back').click(); }
      return;
    }
    if (e.key === 'Escape') { if (leaveLanding()) e.preventDefault(); return; }
    if (likes.pedal && /^( |Enter|PageDown|PageUp|ArrowRight|ArrowLeft|ArrowDown|ArrowUp|MediaTrackNext|b)$/i.test(e.key) && !(e.key === 'Enter' && inside(e, 'button, a, summary'))) {
      e.preventDefault();
      if (e.repeat) { if (downAt && now() - downAt > 700) { downAt = 0; acts.back(); } return; }
      downAt = now(); oneKey();
      return;
    }
    if (e.repeat) return;
    var key = e.key.length === 1 ? e.key.toLowerCase() : e.key;
    if (key === 'b' && e.shiftKey) { e.preventDefault(); forGood(); return; }
    var a = { ' ': 'pause', ArrowRight: 'next', PageDown: 'next', ArrowLeft: 'back', PageUp: 'back', ArrowUp: 'more', ArrowDown: 'fewer', c: 'count', t: 'stay', w: 'wait', p: 'pedal', m: 'mirror', e: 'easier', b: 'breath', v: 'sound', o: 'voice', d: 'beat', z: 'large', h: 'hand', f: 'full', r: 'room', x: 'correct', n: 'note', k: 'mark', l: 'land', u: 'undo', q: 'stop' }[key];
    if (key === ' ' && inside(e, 'button, summary, a') && !inside(e, '#l-pause')) { if (!$('lead').contains(e.target)) return; }
    if (a) { e.preventDefault(); acts[a](); }
  });
  addEventListener('pagehide', function () { leaving = true; alive(); });
  addEventListener('pageshow', function () { leaving = false; });
  // For rehearsing, and for tests that lead a class faster than it takes.
  window.wavekineLead = { get player() { return player; }, get land() { return land; }, get offered() { return offered; }, get room() { return room; }, landing: landing, tick: tick };
  if (likes.pedal) player.wait = true;
  open();
  setInterval(tick, 60);
  draw();
})();
