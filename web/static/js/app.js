// What every page has: the list of keys, going from screen to screen, asking before putting away,
// and sending what was recorded while the server could not be reached.
(function () {
  'use strict';
  var typing = function (e) { return /^(INPUT|TEXTAREA|SELECT)$/.test(e.target.tagName) || e.target.isContentEditable; };
  var keys = document.getElementById('keys');
  function showKeys() { if (keys && !keys.open) keys.showModal(); }

  var going = 0;
  document.addEventListener('keydown', function (e) {
    if (typing(e) || e.ctrlKey || e.metaKey || e.altKey || (keys && keys.open)) return;
    if (going && Date.now() - going < 1500) {
      var to = { t: '/', m: '/movements', s: '/sessions', r: '/series', p: '/people', l: '/log', h: '/house' }[e.key.toLowerCase()];
      going = 0;
      if (to) { e.preventDefault(); e.stopImmediatePropagation(); location.href = to; return; }
    }
    if (e.key === '?') { e.preventDefault(); showKeys(); return; }
    if (e.key === 'g' || e.key === 'G') { going = Date.now(); return; }
    var el = document.querySelector('[data-key="' + e.key + '"]');
    if (el && (e.key !== 'Enter' || e.target === document.body)) {
      e.preventDefault();
      if (el.tagName === 'INPUT') el.focus(); else el.click();
    }
  }, true);
  document.addEventListener('click', function (e) {
    if (e.target.closest('[data-keys-open]')) showKeys();
    if (e.target.closest('[data-print]')) print();
  });
  document.addEventListener('submit', function (e) {
    var says = e.target.getAttribute('data-confirm');
    if (says && !confirm(says)) e.preventDefault();
    if (/^\/sign(out|in)$/.test(e.target.getAttribute('action')) && window.caches) caches.delete('wavekine-pages'); // pages kept for another teacher
  });

  // An answer that says where it goes is shown there; any other error (of a proxy, of nobody) never takes the page's place.
  function tell(says) {
    var place = document.getElementById('message'), p = document.createElement('p');
    if (!place) return;
    p.className = 'says stop'; p.setAttribute('role', 'alert'); p.textContent = says;
    place.replaceChildren(p);
  }
  document.addEventListener('htmx:beforeSwap', function (e) {
    var xhr = e.detail.xhr;
    if (xhr.status < 400) return;
    e.detail.isError = false;
    if (xhr.getResponseHeader('HX-Retarget')) { e.detail.shouldSwap = true; return; }
    e.detail.shouldSwap = false;
    tell('The server answered with an error (' + xhr.status + '). What you typed is still here. Reload the page to see whether a change was kept.');
  });
  document.addEventListener('htmx:sendError', function () { tell('The server does not answer. What you typed is still here; try again when it does.'); });
  document.addEventListener('htmx:timeout', function () { tell('There was no answer in time. What you typed is still here. Reload the page to see whether a change was kept.'); });

  // renew shows a part of this page as the server has it now.
  async function renew(id) {
    var now = id && document.getElementById(id);
    if (!now) return;
    var fresh = new DOMParser().parseFromString(await (await fetch(location.href)).text(), 'text/html').getElementById(id);
    if (fresh) now.replaceWith(fresh);
  }
  // What is typed as a password can be looked at, until it is sent.
  document.addEventListener('change', function (e) {
    if (e.target.dataset.show === undefined) return;
    Array.from(e.target.form.elements).forEach(function (f) { if (/password/.test(f.autocomplete)) f.type = e.target.checked ? 'text' : 'password'; });
  });

  // A form with data-keep stays as it is when the server refuses it: the words come beside what was typed.
  document.addEventListener('submit', async function (e) {
    var form = e.target;
    if (e.defaultPrevented || form.dataset.keep === undefined) return;
    e.preventDefault();
    var place = document.getElementById('message'), data = new FormData(form, e.submitter);
    place.textContent = '';
    try {
      var answer = await fetch(form.action, { method: 'POST', headers: { 'HX-Request': 'true' }, body: form.enctype === 'multipart/form-data' ? data : new URLSearchParams(data) });
      if (answer.headers.get('X-Fragment')) {
        place.innerHTML = await answer.text(); place.scrollIntoView({ block: 'start' }); htmx.process(place);
        if (answer.headers.get('X-Fragment') === 'done') { form.reset(); if (window.wavekineDrafts) wavekineDrafts.drop(form); }
        await renew(answer.headers.get('X-Part'));
        return;
      }
      var to = answer.headers.get('HX-Redirect') || (answer.ok && answer.url);
      if (to) { if (window.wavekineDrafts) wavekineDrafts.drop(form); location.href = to; return; }
      place.innerHTML = await answer.text(); // escaped by the server
    } catch (err) {
      place.textContent = 'The server does not answer. What you typed is still here; try again when it does.';
    }
    place.scrollIntoView({ block: 'nearest' });
  });

  // What was asked for in a form is there: it is not a draft any more when the page goes to it.
  document.addEventListener('htmx:beforeOnLoad', function (e) {
    if (e.detail.xhr.getResponseHeader('HX-Redirect') && window.wavekineDrafts) document.querySelectorAll('form[data-keep]').forEach(wavekineDrafts.drop);
  });

  // ---- the outbox: led classes that the server does not have yet. Each belongs to the teacher who led it and is
  // sent when they are signed in here; what the server refuses waits under Log with the reason.
  var BOX = 'wavekine.outbox', REFUSED = 'wavekine.refused', memory = {};
  var me = document.body.dataset.teacher || '';
  function read(key) { if (memory[key]) return memory[key]; try { return JSON.parse(localStorage.getItem(key)) || {}; } catch (err) { return {}; } }
  // write tells whether it is kept beyond this page: a full or forbidden storage keeps it in memory only.
  function write(key, v) {
    try { localStorage.setItem(key, JSON.stringify(v)); delete memory[key]; return true; } catch (err) { memory[key] = v; return false; }
  }
  function remove(key) { delete memory[key]; try { localStorage.removeItem(key); } catch (err) { /* it was not there */ } }
  async function post(run) {
    var answer = await fetch('/runs', { method: 'POST', headers: { 'Content-Type': 'application/json' }, body: JSON.stringify(run) });
    var says = '';
    if (!answer.ok) { try { says = (await answer.json()).error || ''; } catch (err) { /* not ours */ } }
    return { status: answer.status, ok: answer.ok, says: says };
  }
  var LATER = [401, 408, 425, 429];
  var sending = null;
  function send() { if (!sending) sending = sendAll().finally(function () { sending = null; }); return sending; }
  async function sendAll() {
    var box = read(BOX);
    for (var id of Object.keys(box)) {
      if (box[id].teacher && box[id].teacher !== me) continue; // waits for whoever led it
      var answer;
      try { answer = await post(box[id]); } catch (err) { break; } // no network: later
      if (answer.status >= 500 || LATER.indexOf(answer.status) >= 0) break;
      var current = read(BOX);
      if (!answer.ok) { var refused = read(REFUSED); refused[id] = { run: box[id], says: answer.says || 'it was not taken', status: answer.status }; write(REFUSED, refused); }
      if (JSON.stringify(current[id]) === JSON.stringify(box[id])) { delete current[id]; write(BOX, current); }
      document.dispatchEvent(new CustomEvent('wavekine:sent', { detail: { id: id, ok: answer.ok, says: answer.says } }));
    }
  }
  function mine(box) { return Object.keys(box).filter(function (id) { var t = (box[id].run || box[id]).teacher; return !t || t === me; }); }
  window.wavekine = {
    // keep puts a run into the outbox and sends it: saved, waiting, in memory only, or refused and why.
    keep: function (run) {
      var box = read(BOX); box[run.id] = run;
      var stored = write(BOX, box);
      return send().then(function () {
        if (read(BOX)[run.id]) return { state: stored ? 'waiting' : 'memory' };
        var no = read(REFUSED)[run.id];
        return no ? { state: 'refused', says: no.says } : { state: 'saved' };
      });
    },
    waiting: function () { return mine(read(BOX)).length; },
    outbox: function () { return read(BOX); }, refused: function () { return read(REFUSED); },
    drop: function (id) { var r = read(REFUSED); delete r[id]; write(REFUSED, r); },
    post: post, read: read, write: write, remove: remove, send: send, me: me,
  };
  // A class that was broken off hours ago is kept as it stood.
  function brokenOff() {
    for (var i = localStorage.length - 1; i >= 0; i--) {
      var k = localStorage.key(i);
      if (!/^wavekine\.lead\..*[^.]$/.test(k) || /\.(alive|data)$/.test(k)) continue;
      var run = read(k), alive = read(k + '.alive');
      if (!run.events || !run.events.length || Date.now() - (alive.at || Date.parse(run.started)) < 3 * 3600 * 1000) continue;
      run.events.push({ at: Math.max(run.events[run.events.length - 1].at, Math.round((alive.at || 0) - Date.parse(run.started)) / 1000), does: 'ended', early: true });
      var b = read(BOX); b[run.id] = run;
      if (write(BOX, b)) [k, k + '.alive', k + '.data'].forEach(remove);
    }
  }
  try { if (!document.getElementById('lead')) brokenOff(); } catch (err) { /* storage is not allowed here */ }
  // The network says it is back before it carries: asked again shortly after, and after what is on its way.
  addEventListener('online', function () {
    [0, 2000, 6000].forEach(function (ms) { setTimeout(function () { if (window.wavekine.waiting()) Promise.resolve(sending).then(send); }, ms); });
  });
  if (window.wavekine.waiting()) send();
  setInterval(function () { if (window.wavekine.waiting()) send(); }, 15000);

  if ('serviceWorker' in navigator && document.querySelector('.navbar, #lead')) navigator.serviceWorker.register('/sw.js');
})();
