// The room's screen: shows what the page that leads has told, and goes on by its own clock in between. It is told over Server-Sent Events, and on the same machine by the
// page itself, also without the network; whichever comes first.
(function () {
  'use strict';
  var V = window.wavekineView, $ = function (id) { return document.getElementById(id); };
  var data = JSON.parse($('room-data').textContent), code = data.code, cls = data.class || {}, steps = cls.steps || [];
  var state = null, from = 0, ended = false, QUIET = 12000, heard = 0;
  var here = function () { return performance.now(); };
  // p is what the room was told of the player.
  var p = {
    get i() { return state.i; },
    inStep: function () { return Math.min(state.into + (state.running ? here() - from : 0), state.held ? 1e12 : state.length); },
    length: function (i) { return i === state.i ? state.length : state.lengths && state.lengths[i] !== undefined ? state.lengths[i] : steps[i].s; },
    perRep: function () { return state.perRep; }, target: function () { return state.target; },
    done: function () { return state.done; }, get counting() { return state.counting; }, counted: function () { return state.counted; },
    nextOf: function (i) { do i++; while (i < steps.length && (state.out || []).indexOf(i) >= 0); return i; },
  };
  var put = function (id, text) { var el = $(id); if (el.textContent !== text) el.textContent = text; };
  var breath = V.breathing($('r-breath'));
  var figures = {}, asked = {};
  function figure(u) {
    u = (u || '').split('#')[0];
    if (!/^\/figures\/[\w.\-\/?=&]+$/.test(u)) return null; // of this place alone
    if (!asked[u]) { asked[u] = true; fetch(u).then(function (r) { return r.ok ? r.text() : ''; }).then(function (t) { if (t) { figures[u] = document.importNode(new DOMParser().parseFromString(t, 'image/svg+xml').documentElement, true); shown = ''; } }).catch(function () { asked[u] = false; }); }
    return figures[u] || null;
  }
  function setFigure(box, u, flip, label) {
    var f = figure(u);
    if (!f) { box.replaceChildren(); return; }
    f = f.cloneNode(true);
    f.classList.toggle('flip', !!flip);
    if (label) { f.setAttribute('role', 'img'); f.removeAttribute('aria-hidden'); f.setAttribute('aria-label', label); } else f.setAttribute('aria-hidden', 'true');
    box.replaceChildren(f);
  }
  var shown = '';
  function draw() {
    if (ended) return;
    if (!state || !steps.length || state.i === undefined || !steps[state.i]) { put('r-name', cls.title || 'Waiting for the class'); put('r-status', state ? '' : 'It begins when the teacher begins.'); return; }
    var st = steps[state.i], c = V.count(st, p, cls.down);
    put('r-num', c.num); put('r-of', c.of);
    put('r-clock', V.clock(state.gone + (state.running ? here() - from : 0)) + ' of ' + V.clock(cls.promised));
    breath(st, p, state.turned);
    var k = V.next(steps, p);
    put('r-next', k < 0 ? 'the end in ' + V.clock(V.until(steps, p, k)) : (steps[k].row === st.row ? 'the ' + steps[k].side + ' side' : steps[k].name) + ' in ' + V.clock(V.until(steps, p, k)));
    put('r-status', !state.running ? (state.started ? 'paused' : 'about to begin') : heard && here() - heard > QUIET + 8000 ? 'nothing was heard for a while; going by the plan' : '');
    var face = [state.i, state.easier, state.mirror, Object.keys(figures).length].join('|');
    if (face === shown) return;
    shown = face;
    put('r-title', cls.title || ''); put('r-name', st.name);
    var side = st.side === 'right' || st.side === 'left' ? st.side + ' ' + (st.limb || 'side') : st.side === 'alternating' ? 'one side, then the other' : V.working(st) ? 'both sides' : '';
    $('r-side').className = st.side; put('r-side', V.working(st) || st.kind === 'switch' ? side : st.kind === 'rest' ? 'rest' : 'get ready');
    put('r-easier', st.easier ? 'Easier: ' + st.easier : '');
    // The room follows as in a mirror: what is done on the left is seen on the left.
    setFigure($('r-fig'), state.easier && st.figEasy || st.fig, st.side === 'left', 'Figure doing ' + st.name + (side ? ', ' + side : ''));
    setFigure($('r-nextfig'), k < 0 ? '' : steps[k].fig, k >= 0 && steps[k].side === 'left', '');
  }
  function told(s) {
    if (!s || typeof s !== 'object') return;
    if (s.ended) { over(); return; }
    if (state && s.n < state.n && s.run === state.run) return; // a later word was faster
    state = s; from = here() - (s.age || 0); heard = here();
    draw();
  }
  function over() { ended = true; put('r-name', 'The class has ended'); ['r-side', 'r-num', 'r-of', 'r-easier', 'r-next', 'r-clock', 'r-status'].forEach(function (id) { put(id, ''); }); $('r-fig').replaceChildren(); $('r-nextfig').replaceChildren(); $('r-breath').setAttribute('visibility', 'hidden'); }
  function classIs(c) { if (!c || !c.steps) return; cls = c; steps = c.steps; shown = ''; steps.forEach(function (st) { figure(st.fig); }); draw(); }

  if (window.BroadcastChannel) {
    var near = new BroadcastChannel('wavekine.room.' + code);
    near.onmessage = function (e) { var m = e.data || {}; if (m.class) { ended = false; classIs(m.class); } if (m.state) told(m.state); };
    near.postMessage({ hello: true });
  }
  var line = null;
  function listen() {
    line = new EventSource('/room/' + encodeURIComponent(code) + '/live');
    line.addEventListener('class', function (e) { classIs(JSON.parse(e.data)); });
    line.addEventListener('state', function (e) { var s = JSON.parse(e.data); if (s.i !== undefined || s.ended) told(s); });
    line.addEventListener('ended', function () { line.close(); over(); });
    line.onerror = function () { if (line.readyState === 2) setTimeout(function () { if (!ended) listen(); }, 3000); }; // it comes back by itself; where it was closed it is opened anew
  }
  classIs(cls);
  if (data.state && data.state.i !== undefined) told(data.state);
  listen();
  if ('serviceWorker' in navigator) navigator.serviceWorker.register('/sw.js').catch(function () {});
  function wake() { if (navigator.wakeLock) navigator.wakeLock.request('screen').catch(function () {}); }
  document.addEventListener('visibilitychange', function () { if (!document.hidden) wake(); });
  document.addEventListener('click', function () { wake(); if (!document.fullscreenElement && document.documentElement.requestFullscreen) document.documentElement.requestFullscreen().catch(function () {}); });
  wake();
  window.wavekineRoom = { get state() { return state; }, get heard() { return heard; } };
  setInterval(draw, 80);
  draw();
})();
