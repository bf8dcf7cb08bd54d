// The movement editor: pulling joints, typed angles, and a draft that survives reload and crash. Every
// pull is worked out by the server; while one is under way only the newest place waits.
(function () {
  'use strict';
  var form = function () { return document.getElementById('editor'); };
  var KEY = 'wavekine.movement.' + form().dataset.key;
  var says = function (text) { var p = document.createElement('p'); p.className = 'says stop'; p.setAttribute('role', 'alert'); p.textContent = text; document.getElementById('message').replaceChildren(p); };
  var body = function (extra) { var d = new URLSearchParams(new FormData(form())); Object.keys(extra || {}).forEach(function (k) { d.set(k, extra[k]); }); return d; };
  function keep() { try { localStorage.setItem(KEY, body().toString()); document.getElementById('draft-says').textContent = 'Kept in this browser; not stored yet.'; } catch (err) { /* full or forbidden: only the reload is at risk */ } }
  async function post(url, data) {
    var answer;
    try { answer = await fetch(url, { method: 'POST', headers: { 'HX-Request': 'true' }, body: data }); } catch (err) { says('The server does not answer. What you made is still here; try again when it does.'); return null; }
    return answer;
  }
  function put(place, html) {
    var open = place.querySelector('details[open]') !== null, active = document.activeElement, mark = null;
    if (place.contains(active)) mark = active.dataset.handle ? '[data-handle="' + active.dataset.handle + '"].handle' : active.dataset.angle ? '[data-angle="' + active.dataset.angle + '"]' + (active.dataset.side ? '[data-side="' + active.dataset.side + '"]' : '') : null;
    var t = document.createElement('template'); t.innerHTML = html.trim(); // drawn and escaped by the server
    var fresh = t.content.firstElementChild;
    if (open && fresh.querySelector('details')) fresh.querySelector('details').open = true;
    place.replaceWith(fresh);
    if (mark) { var el = fresh.querySelector(mark); if (el) el.focus({ preventScroll: true }); }
    return fresh;
  }

  // ---- one pose
  var busy = {}, next = {};
  async function pose(field, values) {
    if (busy[field]) { next[field] = values; return; }
    busy[field] = true;
    var panel = document.querySelector('[data-panel="' + field + '"]');
    var data = new URLSearchParams(values); data.set('field', field); data.set('pose', panel.querySelector('[data-pose]').value);
    var answer = await post('/movement-pose', data);
    if (answer) {
      var html = await answer.text();
      if (answer.ok) { document.getElementById('message').textContent = ''; put(document.querySelector('[data-panel="' + field + '"]'), html); keep(); } else { document.getElementById('message').innerHTML = html; }
    }
    busy[field] = false;
    var n = next[field]; delete next[field];
    if (n) pose(field, n); else if (values.do !== 'pull' || !pulling) later();
  }
  var timer = 0;
  function later() { clearTimeout(timer); timer = setTimeout(function () { redraw('show'); }, 500); } // the demand over the repetition
  var pulling = null;
  function place(svg, e) { var r = svg.getBoundingClientRect(), v = svg.viewBox.baseVal; return { x: ((e.clientX - r.left) / r.width * v.width).toFixed(1), y: ((e.clientY - r.top) / r.height * v.height).toFixed(1) }; }
  document.addEventListener('pointerdown', function (e) {
    var h = e.target.closest && e.target.closest('.handle');
    if (!h) return;
    e.preventDefault(); h.focus({ preventScroll: true });
    pulling = { field: h.closest('[data-panel]').dataset.panel, handle: h.dataset.handle };
  });
  document.addEventListener('pointermove', function (e) {
    if (!pulling) return;
    var svg = document.querySelector('[data-panel="' + pulling.field + '"] svg.posable'), p = place(svg, e);
    pose(pulling.field, { do: 'pull', handle: pulling.handle, x: p.x, y: p.y });
  });
  document.addEventListener('pointerup', function () { if (pulling) { pulling = null; later(); } });
  document.addEventListener('keydown', function (e) {
    var t = e.target;
    if (t.classList && t.classList.contains('handle')) {
      var by = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] }[e.key];
      if (!by) return;
      e.preventDefault();
      var k = e.shiftKey ? 15 : 4;
      pose(t.closest('[data-panel]').dataset.panel, { do: 'pull', handle: t.dataset.handle, x: (+t.getAttribute('cx') + by[0] * k).toFixed(1), y: (+t.getAttribute('cy') + by[1] * k).toFixed(1) });
    } else if (t.dataset && (t.dataset.angle || t.dataset.book !== undefined) && e.key === 'Enter') { e.preventDefault(); t.dispatchEvent(new Event('change', { bubbles: true })); }
  });
  document.addEventListener('change', function (e) {
    var t = e.target;
    if (t.dataset.angle) { if (t.value !== t.dataset.was) pose(t.closest('[data-panel]').dataset.panel, { do: 'set', key: t.dataset.angle, side: t.dataset.side || '', value: t.value }); return; }
    if (t.dataset.book !== undefined) { if (t.value) pose(t.closest('[data-panel]').dataset.panel, { do: 'book', name: t.value }); return; }
    if (t.dataset.family !== undefined) redraw('show');
  });
  document.addEventListener('input', function (e) { if (form().contains(e.target) && e.target.name) keep(); });

  // ---- the whole form
  async function redraw(what) {
    var sent = body().toString(), answer = await post('/movement-save', body({ do: what }));
    if (!answer) return;
    var html = await answer.text();
    if (what === 'show' && body().toString() !== sent) return later(); // typed meanwhile: the answer is of an older form
    if (!answer.ok) { document.getElementById('message').innerHTML = html; return; }
    var open = Array.from(document.querySelectorAll('[data-panel]')).filter(function (p) { return p.querySelector('details[open]'); }).map(function (p) { return p.dataset.panel; });
    var at = document.activeElement, name = form().contains(at) && at.name, sel = name && at.selectionStart;
    put(form(), html);
    open.forEach(function (f) { var d = document.querySelector('[data-panel="' + f + '"] details'); if (d) d.open = true; });
    if (name) { var el = form().elements[name]; if (el && el.focus) { el.focus({ preventScroll: true }); try { if (sel !== null && sel !== undefined) el.setSelectionRange(sel, sel); } catch (err) { /* no caret in a choice */ } } }
    keep();
  }
  document.addEventListener('click', function (e) {
    var t = e.target.closest && e.target.closest('button');
    if (!t) return;
    if (t.dataset.do) redraw(t.dataset.do);
    else if (t.dataset.poseDo) pose(t.closest('[data-panel]').dataset.panel, { do: t.dataset.poseDo, handle: t.dataset.handle || '' });
    else if (t.dataset.poseDrop !== undefined) { t.closest('.panel').querySelector('[data-pose]').value = ''; redraw('show'); }
    else if (t.dataset.poseStart) {
      var h = document.createElement('input'); h.type = 'hidden'; h.name = t.dataset.poseStart + '.from';
      h.value = form().elements[t.dataset.poseStart + '.pose'].value; form().append(h); redraw('show');
    }
  });
  document.addEventListener('submit', async function (e) {
    if (e.target !== form()) return;
    e.preventDefault();
    document.querySelectorAll('.refused').forEach(function (el) { el.classList.remove('refused'); el.removeAttribute('aria-invalid'); });
    var answer = await post('/movement-save', body());
    if (!answer) return;
    if (answer.ok) { localStorage.removeItem(KEY); location.href = answer.headers.get('HX-Redirect'); return; }
    document.getElementById('message').innerHTML = await answer.text();
    var field = answer.headers.get('X-Field'), el = field && (form().elements[field] || document.querySelector('[data-panel="' + field + '"]'));
    if (el && el.length && !el.tagName) el = el[0];
    if (el) { if (el.type === 'hidden') el = el.closest('.panel') || el; el.classList.add('refused'); el.setAttribute('aria-invalid', 'true'); if (el.focus) el.focus(); el.scrollIntoView({ block: 'center' }); }
  });
  var kept = localStorage.getItem(KEY);
  if (kept && kept !== body().toString()) {
    (async function () {
      var d = new URLSearchParams(kept); d.set('do', 'show');
      var answer = await post('/movement-save', d);
      if (answer && answer.ok) { put(form(), await answer.text()); document.getElementById('draft-says').textContent = 'What you had not stored is back.'; }
    })();
  }
})();
