// The mover's page on a phone: plays the class with figure, count and voice, takes a word on how it went, and keeps both for the time without a network. What is said, counted and asked is worked
// out by the server; nothing that somebody tells is lost: it stays in the browser until the server has stored it.
(function () {
  'use strict';
  var $ = function (id) { return document.getElementById(id); };
  document.querySelectorAll('[data-fresh]').forEach(function (el) { el.value = makeId(); });
  function makeId() { var b = new Uint8Array(16); crypto.getRandomValues(b); return Array.from(b, function (x) { return x.toString(16).padStart(2, '0'); }).join(''); }
  // Figures further down come when they are near.
  var later = document.querySelectorAll('use[data-href]');
  function fetched(u) { u.setAttribute('href', u.dataset.href); u.removeAttribute('data-href'); }
  if (window.IntersectionObserver) {
    var near = new IntersectionObserver(function (es) { es.forEach(function (e) { if (e.isIntersecting) { near.unobserve(e.target); e.target.querySelectorAll('use[data-href]').forEach(fetched); } }); }, { rootMargin: '300px' });
    later.forEach(function (u) { near.observe(u.closest('svg')); });
  } else later.forEach(fetched);
  if (!$('m-data')) { if ('serviceWorker' in navigator) navigator.serviceWorker.register('/sw.js').catch(function () {}); return; }
  var data = JSON.parse($('m-data').textContent), steps = data.steps, w = data.words;
  var BASE = 'wavekine.mover.' + data.path, BOX = BASE + '.outbox', PLAY = BASE + '.' + data.group + '.' + data.day + '.play', DRAFT = BASE + '.' + data.group + '.' + data.day + '.word', DONE = BASE + '.done', DAYS = BASE + '.days', SET = 'wavekine.mover.settings';
  var memory = {};
  function read(key) { if (memory[key]) return memory[key]; try { return JSON.parse(localStorage.getItem(key)) || {}; } catch (err) { return {}; } }
  function write(key, v) { try { localStorage.setItem(key, JSON.stringify(v)); delete memory[key]; return true; } catch (err) { memory[key] = v; return false; } }
  function drop(key) { delete memory[key]; try { localStorage.removeItem(key); } catch (err) { /* it was not there */ } }
  var last = 0;
  function now() { last = Math.max(last, Date.now()); return last; }
  var clock = function (ms) { var t = Math.max(0, Math.round(ms / 1000)); return Math.floor(t / 60) + ':' + String(t % 60).padStart(2, '0'); };
  var put = function (id, text) { var el = $(id); if (el.textContent !== text) el.textContent = text; };

  // ---- without a network: the page, its sheet, tomorrow's, and every file of them
  var figs = [];
  steps.forEach(function (s) { [s.fig, s.figEasy].forEach(function (u) { if (u && u[0] !== '<' && figs.indexOf(u) < 0) figs.push(u); }); });
  if ('serviceWorker' in navigator) {
    navigator.serviceWorker.register('/sw.js').then(function () { return navigator.serviceWorker.ready; }).then(function (reg) {
      var files = Array.from(document.querySelectorAll('link[rel=stylesheet]'), function (l) { return l.href; }).concat(Array.from(document.querySelectorAll('script[src]'), function (x) { return x.src; }), Array.from(document.querySelectorAll('use'), function (u) { return (u.getAttribute('href') || u.dataset.href || '').split('#')[0]; }), figs);
      reg.active.postMessage({ keepMover: { pages: data.keep, files: files } });
    }).catch(function () {});
    navigator.serviceWorker.addEventListener('message', function (e) { if (e.data.kept) document.documentElement.dataset.offline = 'ready'; });
  }

  // ---- the outbox: what was told and is not stored yet
  var sending = null, again = false;
  function send() { // asked for while one is under way, perhaps into a network that is not there any more: once more afterwards
    if (sending) { again = true; return sending; }
    sending = sendAll().finally(function () { sending = null; if (again) { again = false; send(); } });
    return sending;
  }
  async function sendAll() {
    var box = read(BOX);
    for (var id of Object.keys(box)) {
      var item = box[id], answer;
      if (item.refused) continue;
      try { answer = await fetch(data.path + '/word?g=' + encodeURIComponent(item.group), { method: 'POST', headers: { 'Content-Type': 'application/json', Accept: 'application/json' }, body: JSON.stringify(item.word) }); } catch (err) { break; }
      if (answer.status >= 500 || [401, 408, 425, 429].indexOf(answer.status) >= 0) break;
      var says = {};
      try { says = await answer.json(); } catch (err) { if (answer.ok) break; } // not ours: some network's own page
      if (answer.ok && says.saved !== id) break;
      box = read(BOX);
      if (answer.ok) { delete box[id]; write(BOX, box); told('saved'); } else { item.refused = says.error || String(answer.status); box[id] = item; write(BOX, box); told('refused', item.refused); }
    }
    var left = Object.values(read(BOX));
    if (left.some(function (x) { return !x.refused; })) told(memory[BOX] ? 'memory' : 'waiting');
  }
  function told(state, says) {
    var t = document.documentElement; t.dataset.told = state;
    put('m-out', { saved: w.saved.replace('%s', teacher), waiting: w.waiting, memory: w.memory, refused: w.refused.replace('%s', says) }[state]);
  }
  var teacher = $('f-tell').textContent.replace(w.tell.replace('%s', ''), '').trim() || '';
  addEventListener('online', send);
  document.addEventListener('visibilitychange', function () { if (!document.hidden) send(); });
  setInterval(function () { if (Object.values(read(BOX)).some(function (x) { return !x.refused; })) send(); }, 15000);

  // ---- what was done on this phone, of a series without a name
  function paintDone() {
    if (!data.open) return;
    var done = read(DONE);
    document.querySelectorAll('.m-days li').forEach(function (li) { var d = done[li.dataset.day]; if (d) { li.classList.add(d === 'all' ? 'st-done' : 'st-part'); li.querySelector('.m-state').textContent = d === 'all' ? w['state-done'] : w['state-part']; } });
  }
  // Opened without a day, it is the next that is not done.
  function nextDay() {
    if (!data.open || location.search) return;
    var done = read(DONE), next = Array.from(document.querySelectorAll('.m-days li')).find(function (li) { return !done[li.dataset.day]; });
    if (next && Object.keys(done).length && next.dataset.day !== String(data.day)) location.replace(next.querySelector('a').href);
  }
  // The days one likes: what is not done yet falls on them, one after the other, from today on.
  function paintDates() {
    var box = $('m-weekdays');
    if (!box) return;
    var on = read(DAYS).on || [], done = read(DONE), at = new Date(); at.setHours(12, 0, 0, 0);
    box.querySelectorAll('input').forEach(function (c) { c.checked = on.indexOf(Number(c.value)) >= 0; });
    document.querySelectorAll('.m-days li').forEach(function (li) {
      var place = li.querySelector('.m-when');
      if (!place) { place = document.createElement('span'); place.className = 'm-when'; li.querySelector('.small').prepend(place); }
      place.textContent = '';
      if (done[li.dataset.day] || !on.length) return;
      while (on.indexOf((at.getDay() + 6) % 7) < 0) at.setDate(at.getDate() + 1);
      place.textContent = w.weekdays[(at.getDay() + 6) % 7] + ' ' + at.getDate();
      at.setDate(at.getDate() + 1);
    });
  }
  if ($('m-weekdays')) $('m-weekdays').addEventListener('change', function () { write(DAYS, { on: Array.from($('m-weekdays').querySelectorAll('input:checked'), function (c) { return Number(c.value); }) }); paintDates(); });
  paintDone(); paintDates(); nextDay();

  // ---- sounds and the voice
  var set = Object.assign({ voice: true, tones: true, speed: 1, loud: .9 }, read(SET));
  var audio = null;
  function tone(f, at, len, vol) {
    if (!set.tones || !audio) return;
    var o = audio.createOscillator(), g = audio.createGain(), t = audio.currentTime + at;
    o.frequency.value = f; o.type = 'sine'; vol = (vol || .25) * set.loud;
    g.gain.setValueAtTime(0, t); g.gain.linearRampToValueAtTime(vol, t + .02); g.gain.exponentialRampToValueAtTime(.001, t + len);
    o.connect(g).connect(audio.destination); o.start(t); o.stop(t + len + .05);
    window.wavekineTones = (window.wavekineTones || 0) + 1;
  }
  // Only a voice that lives on the phone: one that asks a server would tell it what somebody does, and falls silent without a network.
  function localVoice() {
    if (!window.speechSynthesis) return null;
    var vs = speechSynthesis.getVoices().filter(function (v) { return v.localService; });
    return vs.find(function (v) { return /^en/i.test(v.lang); }) || null;
  }
  var saidAloud = window.wavekineSaid = [];
  function speak(text) {
    saidAloud.push(text);
    var v = localVoice();
    $('p-novoice').hidden = !!v || !set.voice;
    if (!set.voice || !v) return;
    var u = new SpeechSynthesisUtterance(text);
    u.voice = v; u.lang = v.lang; u.rate = set.speed; u.volume = set.loud;
    speechSynthesis.cancel(); speechSynthesis.speak(u);
  }
  function hush() { if (window.speechSynthesis) speechSynthesis.cancel(); }

  // ---- the player
  var player = null, easier = false, open = false, figures = {}, shownFig = '', frames = [], calm = matchMedia('(prefers-reduced-motion: reduce)').matches;
  function fresh() { player = window.wavekinePlayer(steps, now, function (e) { happened(e); }); easier = false; }
  var kept = { events: [] };
  function happened(e) {
    kept.started = player.started; kept.stamp = data.stamp; kept.at = now(); kept.events = player.events();
    if (e.does === 'ended') { drop(PLAY); finished(!e.early); return; }
    write(PLAY, kept);
  }
  fresh();
  function loadFigures() {
    figs.forEach(function (u) {
      if (figures[u]) return;
      figures[u] = 'asked';
      fetch(u).then(function (r) { return r.ok ? r.text() : Promise.reject(); }).then(function (t) { figures[u] = t; draw(); }).catch(function () { delete figures[u]; });
    });
  }
  function figure(st) {
    var u = easier && st.figEasy ? st.figEasy : st.fig, t = !u ? '' : u[0] === '<' ? u : figures[u];
    if (!u || t === 'asked' || t === undefined) { if (shownFig !== '') { $('p-fig').replaceChildren(); shownFig = ''; frames = []; } return; }
    var key = u + easier;
    if (key === shownFig) return;
    shownFig = key;
    var svg = document.importNode(new DOMParser().parseFromString(t, 'image/svg+xml').documentElement, true);
    svg.setAttribute('role', 'img'); svg.removeAttribute('aria-hidden'); svg.setAttribute('aria-label', st.name);
    $('p-fig').replaceChildren(svg);
    frames = Array.from(svg.querySelectorAll('.frame'));
  }
  // The figure goes there and back once a repetition; held, it stays where it is held.
  function move(st) {
    if (frames.length < 2) return;
    var k = frames.length - 1;
    if (player.working(st) && !calm && player.running) {
      var per = st.reps ? player.perRep(player.i) : st.breaths ? st.in + st.out : 0;
      if (per > 0 && st.kind !== 'hold') k = Math.round((1 - Math.abs(1 - 2 * (player.inStep() % per) / per)) * (frames.length - 1));
    } else if (!player.working(st)) k = 0;
    frames.forEach(function (f, i) { if (i === k) f.removeAttribute('display'); else f.setAttribute('display', 'none'); });
  }
  function sideWords(st) { return st.plain && st.plain.say && st.side !== 'both' ? st.plain.say : ''; }
  function nextOther(i) { for (var k = i + 1; k < steps.length; k++) if (steps[k].row !== steps[i].row) return k; return -1; }
  function draw() {
    if (!open) return;
    var st = steps[player.i], left = player.length(player.i) - player.inStep();
    put('p-name', st.name); put('p-side', sideWords(st)); $('p-side').className = st.side;
    if (!player.working(st)) { put('p-num', clock(left)); put('p-of', st.kind === 'rest' ? '' : w.getready); }
    else if (player.counted(player.i)) { var n = Math.max(1, player.target()); put('p-num', String(Math.min(n, Math.floor(player.inStep() / player.perRep(player.i)) + 1))); put('p-of', w.of + ' ' + n); }
    else { put('p-num', clock(left)); put('p-of', w.left); }
    var words = st.says || '';
    (st.cues || []).forEach(function (c) { if (c.cue === 'say' && player.cueAt(player.i, c) <= player.inStep()) words = c.say; });
    put('p-words', words);
    var k = nextOther(player.i), wait = Math.max(0, left);
    for (var j = player.i + 1; j < (k < 0 ? steps.length : k); j++) wait += player.length(j);
    put('p-next', k < 0 ? '' : w.skip + ': ' + steps[k].name + ', ' + clock(wait));
    put('p-left', clock(Math.max(0, data.total - st.at - player.inStep())) + ' ' + w.left);
    put('p-place', player.paused ? w.paused : player.started ? '' : w.howto);
    put('p-go', player.running ? w.pause : player.started ? w.goon : w.start);
    $('p-easy').hidden = !(st.figEasy || st.easier); $('p-easy').setAttribute('aria-pressed', String(easier)); put('p-easy', easier ? w.asbefore + (st.figEasy ? '' : ': ' + st.easier) : w.easier + (st.easier ? ': ' + st.easier : ''));
    figure(st); move(st);
  }
  function cues(from, to) {
    var st = steps[player.i];
    (st.aloud || []).forEach(function (c) { var at = player.cueAt(player.i, c); if (at >= from && at < to) speak(c.say); });
    (st.cues || []).forEach(function (c) { var at = player.cueAt(player.i, c); if (at >= from && at < to) { if (c.cue === 'start') tone(660, 0, .25); else if (c.cue === 'halfway') { tone(520, 0, .18); tone(520, .24, .18); } else if (c.cue === 'last two') { tone(780, 0, .14); tone(780, .2, .14); } else if (c.cue === 'ten seconds') tone(440, 0, .3, .15); } });
  }
  var was = 0, wasStep = -1;
  function landed() { easier = easier && steps[player.i].row === easyRow; was = 0; wasStep = player.i; cues(0, 1); }
  var easyRow = '';
  function tick() {
    if (!open || !player.running) { draw(); return; }
    if (player.i === wasStep) cues(was, player.inStep());
    if (player.tick()) { if (!player.ended) { if (!player.working(steps[player.i])) tone(330, 0, .4, .2); landed(); } }
    if (player.ended) return;
    was = player.inStep(); wasStep = player.i;
    if (now() - (kept.at || 0) > 2000) { kept.at = now(); write(PLAY, kept); }
    draw();
  }
  function wake() { if (navigator.wakeLock && player.running) navigator.wakeLock.request('screen').catch(function () {}); }
  document.addEventListener('visibilitychange', function () { if (!document.hidden && open) wake(); });
  function go() {
    if (!audio && window.AudioContext) audio = new AudioContext();
    if (audio && audio.state === 'suspended') audio.resume();
    var first = !player.started;
    player.toggle();
    if (player.running) { wake(); if (first) landed(); } else hush();
    draw();
  }
  function show(id) { ['m-play', 'm-word'].forEach(function (x) { $(x).hidden = x !== id; }); document.body.classList.toggle('over', !!id); document.querySelectorAll('.m-top, main, .m-bar').forEach(function (el) { if (!el.closest('.m-form, .m-play')) el.inert = !!id; }); if (!id) scrollTo(0, 0); }
  function openPlayer() {
    loadFigures();
    var k = read(PLAY);
    if (k.events && k.events.length && k.stamp === data.stamp && now() - k.at < 12 * 3600 * 1000) {
      fresh(); player.replay(k.events, k.started);
      if (player.running) player.pauseAt(k.at); // it stopped when the page went
    }
    open = true; show('m-play'); $('p-go').focus(); draw();
  }
  function closePlayer() { if (player.running) player.toggle(); hush(); open = false; show(''); $('m-start').focus(); mark(); }
  function finished(whole) { hush(); if (whole) speak(steps[steps.length - 1].aloud.slice(-1)[0].say); open = false; fresh(); openWord(whole ? 'all' : 'part'); }
  function mark() { var k = read(PLAY); put('m-start', k.events && k.stamp === data.stamp ? w.goon : w.start); }
  $('m-start').onclick = openPlayer; $('p-close').onclick = closePlayer; $('p-go').onclick = go;
  $('p-skip').onclick = function () { if (!player.started) return; player.next(); if (!player.ended) { landed(); draw(); } };
  $('p-back').onclick = function () { if (!player.started) return; player.back(); landed(); draw(); };
  $('p-easy').onclick = function () { var st = steps[player.i]; easier = !easier; easyRow = st.row; if (st.easyLevel) { player.level(easier ? st.easyLevel : st.level); if (easier) takes[st.move] = st.easyLevel; else delete takes[st.move]; } draw(); };
  $('p-voice').checked = set.voice; $('p-tones').checked = set.tones; $('p-speed').value = set.speed; $('p-loud').value = set.loud;
  function settings() { set = { voice: $('p-voice').checked, tones: $('p-tones').checked, speed: Number($('p-speed').value), loud: Number($('p-loud').value) }; write(SET, set); if (!set.voice) hush(); }
  ['p-voice', 'p-tones', 'p-speed', 'p-loud'].forEach(function (id) { $(id).addEventListener('change', settings); });
  document.addEventListener('keydown', function (e) {
    if (!open || /^(INPUT|TEXTAREA)$/.test(e.target.tagName) || e.ctrlKey || e.metaKey || e.altKey) return;
    if (e.key === ' ' && e.target.tagName !== 'BUTTON') { e.preventDefault(); go(); } else if (e.key === 'ArrowRight') $('p-skip').click(); else if (e.key === 'ArrowLeft') $('p-back').click(); else if (e.key === 'Escape') closePlayer();
  });
  mark();
  setInterval(tick, 80);
  window.wavekineMover = { get player() { return player; }, tick: tick, send: send, set: function (k, v) { set[k] = v; } };

  // ---- how it went
  var takes = {}, felt = [], pain = [], hurting = false, asking = null;
  var form = $('f');
  function openWord(did) {
    show('m-word');
    var d = read(DRAFT), said = d.did ? d : data.said;
    $('f-later').hidden = !data.said;
    if (d.did) fill(d); else { felt = []; pain = []; if (did) form.did.value = did; else if (said) form.did.value = said.did; }
    paint(); offers(); scrollTo(0, 0); $('f-h').tabIndex = -1; $('f-h').focus();
  }
  function fill(d) {
    form.did.value = d.did; felt = d.felt || []; pain = d.pain || []; hurting = pain.length > 0; $('f-line').value = d.line || '';
    if (d.effort !== undefined) { $('f-effort').value = d.effort; delete $('f-effort').dataset.unset; }
    (d.taken || []).forEach(function (t) { takes[t.movement] = t.level; });
    (d.tests || []).forEach(function (t) { measured[t.movement + '|' + (t.side || '')] = t.amount; });
  }
  function collect() {
    var x = { format: 'wavekine.checkin/1', day: data.day, did: form.did.value };
    var done = x.did !== 'not today';
    if (done && $('f-effort').dataset.unset === undefined) x.effort = Number($('f-effort').value);
    if (done && felt.length) x.felt = felt;
    if (pain.length) x.pain = pain;
    var taken = Object.keys(takes).map(function (m) { return { movement: m, level: takes[m] }; });
    if (done && taken.length) x.taken = taken;
    var tests = [];
    if (done) data.tests.forEach(function (t) { (t.sides ? ['right', 'left'] : ['']).forEach(function (s) { var n = measured[t.slug + '|' + s]; if (n !== undefined && n !== '') { var o = { movement: t.slug, amount: Number(n), unit: t.unit }; if (s) o.side = s; tests.push(o); } }); });
    if (tests.length) x.tests = tests;
    var line = $('f-line').value.trim();
    if (line) x.line = line;
    return x;
  }
  function draft() { write(DRAFT, collect()); }
  function same(f, place, side) { return f.place === place && (f.side || '') === (side || ''); }
  function touch(place, side) {
    var list = hurting ? pain : felt, i = list.findIndex(function (f) { return same(f, place, side); });
    if (i >= 0) { list.splice(i, 1); asking = null; }
    else if (list.length < 24) {
      var f = { place: place };
      if (side) f.side = side;
      list.push(f);
      // In which of them is asked where it hurt, and where nothing of the class is meant to be felt.
      asking = hurting || !data.meant.some(function (m) { return m && m.indexOf(place) >= 0; }) ? f : null;
    }
    paint(); draft();
  }
  function name(f) { return ((f.side ? (f.side === 'right' ? w.right : w.leftside) + ' ' : '') + f.place) + (f.in ? ', ' + (data.moves.find(function (m) { return m.slug === f.in; }) || { name: '' }).name : ''); }
  function chips(id, list) {
    $(id).replaceChildren.apply($(id), list.map(function (f) {
      var li = document.createElement('li'), b = document.createElement('button');
      b.type = 'button'; b.className = 'm-chip'; b.textContent = name(f) + ' ×'; b.setAttribute('aria-label', name(f) + ', take out');
      b.onclick = function () { list.splice(list.indexOf(f), 1); if (asking === f) asking = null; paint(); draft(); };
      li.append(b); return li;
    }));
  }
  function paint() {
    var done = form.did.value !== 'not today';
    $('f-done').hidden = !done && !hurting;
    $('f-offers').hidden = $('f-tests').hidden = !done;
    document.querySelectorAll('#f-body .spot').forEach(function (s) { var p = s.dataset.place, d = s.dataset.side || ''; s.classList.toggle('on', felt.some(function (f) { return same(f, p, d); })); s.classList.toggle('sore', pain.some(function (f) { return same(f, p, d); })); });
    document.querySelectorAll('.f-words button').forEach(function (b) { b.setAttribute('aria-pressed', String((hurting ? pain : felt).some(function (f) { return same(f, b.dataset.place, b.dataset.side); }))); });
    $('f-body').classList.toggle('sore', hurting);
    put('f-hint', hurting ? w.hurtwhere : w.touch);
    chips('f-felt', felt); chips('f-hurts', pain);
    $('f-pain').hidden = !hurting; $('f-hurt').setAttribute('aria-pressed', String(hurting)); put('f-hurt', hurting ? w.hurtnot : w.hurt);
    $('f-in').hidden = !asking;
    if (asking) {
      put('f-inwhich', name({ place: asking.place, side: asking.side }) + ': ' + w.inwhich);
      $('f-moves').replaceChildren.apply($('f-moves'), data.moves.concat([{ slug: '', name: w.anyof }]).map(function (m) {
        var b = document.createElement('button'); b.type = 'button'; b.className = 'm-chip'; b.textContent = m.name;
        b.onclick = function () { if (m.slug) asking.in = m.slug; else delete asking.in; asking = null; paint(); draft(); };
        return b;
      }));
    }
    var e = $('f-effort'), n = Number(e.value), unset = e.dataset.unset !== undefined;
    $('f-dot').hidden = unset; $('f-dot').textContent = n; $('f-dot').style.setProperty('--at', n / 10);
    put('f-hardword', unset ? '' : data.hard[n]); e.setAttribute('aria-valuetext', unset ? '' : n + ', ' + data.hard[n]);
    var x = 2 + 346 * n / 10; $('f-wedge').setAttribute('d', unset ? 'M2 50z' : 'M2 50 ' + x + ' ' + (50 - 48 * n / 10) + 'V50z');
  }
  // What is nearest to the finger is meant, so that small parts have room.
  $('f-body').addEventListener('click', function (e) {
    var svg = e.target.closest('svg');
    if (!svg) return;
    var best = null, near = 1e9;
    svg.querySelectorAll('.spot').forEach(function (s) { var r = s.getBoundingClientRect(), dx = (e.clientX - r.left - r.width / 2) / Math.max(r.width, 1), dy = (e.clientY - r.top - r.height / 2) / Math.max(r.height, 1), d = dx * dx + dy * dy; if (d < near) { near = d; best = s; } });
    if (best && near < 1.6) touch(best.dataset.place, best.dataset.side);
  });
  document.querySelectorAll('.f-words button').forEach(function (b) { b.onclick = function () { touch(b.dataset.place, b.dataset.side); }; });
  $('f-effort').addEventListener('input', function () { delete $('f-effort').dataset.unset; paint(); draft(); });
  $('f-effort').addEventListener('pointerup', function () { delete $('f-effort').dataset.unset; paint(); draft(); });
  $('f-hurt').onclick = function () { hurting = !hurting; if (!hurting) { pain = []; asking = null; } paint(); draft(); };
  form.addEventListener('change', function (e) { if (e.target.name === 'did') paint(); draft(); });
  $('f-line').addEventListener('input', draft);
  function offers() {
    $('f-offers').replaceChildren.apply($('f-offers'), data.offers.map(function (o) {
      var box = document.createElement('fieldset'), h = document.createElement('legend');
      h.textContent = o.name + ' '; var s = document.createElement('span'); s.className = 'muted small'; s.textContent = w.which; h.append(s); box.append(h); box.className = 'f-level';
      o.levels.forEach(function (l) {
        var lab = document.createElement('label'), r = document.createElement('input'), t = document.createElement('span');
        r.type = 'radio'; r.name = 'level-' + o.slug; r.checked = takes[o.slug] === l.level;
        r.onchange = function () { takes[o.slug] = l.level; draft(); };
        t.textContent = l.says; lab.append(r, t); box.append(lab);
      });
      return box;
    }));
    $('f-tests').replaceChildren.apply($('f-tests'), data.tests.map(test));
  }
  // A movement that is measured: timed here, or counted and typed.
  var measured = {};
  function test(t) {
    var box = document.createElement('fieldset'), h = document.createElement('legend');
    box.className = 'f-test'; h.textContent = w.test + ': ' + t.name; box.append(h);
    (t.sides ? ['right', 'left'] : ['']).forEach(function (side) {
      var key = t.slug + '|' + side, lab = document.createElement('label'), field;
      lab.append((side ? (side === 'right' ? w.right : w.leftside) + ' ' : '') + w[t.unit] + ' ');
      if (t.unit === 'reach') {
        field = document.createElement('select');
        [''].concat(JSON.parse($('m-reaches').textContent)).forEach(function (r, i) { var o = document.createElement('option'); o.value = i || ''; o.textContent = r; field.append(o); });
      } else { field = document.createElement('input'); field.type = 'number'; field.min = 0; field.max = t.unit === 'level' ? 20 : 3600; field.inputMode = 'numeric'; }
      field.value = measured[key] === undefined ? '' : measured[key];
      field.oninput = field.onchange = function () { measured[key] = field.value; draft(); };
      lab.append(field); box.append(lab);
      if (t.unit === 'seconds') {
        var b = document.createElement('button'), from = 0, timer = null;
        b.type = 'button'; b.className = 'm-plain'; b.textContent = w.measure;
        b.onclick = function () {
          var read = function () { field.value = Math.floor((now() - from) / 1000); measured[key] = field.value; draft(); };
          if (timer) { clearInterval(timer); timer = null; b.textContent = w.measure; read(); return; }
          from = now(); b.textContent = w.stopit;
          timer = setInterval(read, 200);
        };
        box.append(b);
      }
    });
    return box;
  }
  $('m-how').onclick = function () { openWord(''); };
  $('f-close').onclick = function () { show(''); $('m-how').focus(); };
  form.addEventListener('submit', function (e) {
    e.preventDefault();
    var x = collect();
    x.id = makeId(); x.told = new Date(now()).toISOString().slice(0, 19) + 'Z';
    var box = read(BOX); box[x.id] = { group: data.group, word: x };
    write(BOX, box);
    if (data.open) { var d = read(DONE); if (x.did !== 'not today') d[data.day] = x.did; write(DONE, d); paintDone(); paintDates(); }
    drop(DRAFT); takes = {}; felt = []; pain = []; hurting = false; measured = {};
    told('waiting'); show(''); $('m-out').scrollIntoView({ block: 'nearest' });
    send();
  });
  send();
})();
