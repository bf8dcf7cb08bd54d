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
    if (e.target.getAttribute('action') === '/signout' && window.caches) caches.delete('wavekine-pages');
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
      if (answer.headers.get('X-Fragment')) { place.innerHTML = await answer.text(); place.scrollIntoView({ block: 'start' }); return; }
      var to = answer.headers.get('HX-Redirect') || (answer.ok && answer.url);
      if (to) { if (window.wavekineDrafts) wavekineDrafts.drop(form); location.href = to; return; }
      place.innerHTML = await answer.text(); // escaped by the server
    } catch (err) {
      place.textContent = 'The server does not answer. What you typed is still here; try again when it does.';
    }
    place.scrollIntoView({ block: 'nearest' });
  });

  // ---- the outbox: runs that the server does not have yet
  var BOX = 'wavekine.outbox';
  function read(key) { try { return JSON.parse(localStorage.getItem(key)) || {}; } catch (err) { return {}; } }
  function write(key, v) { localStorage.setItem(key, JSON.stringify(v)); }
  var sending = false;
  async function send() {
    if (sending) return;
    sending = true;
    try {
      var box = read(BOX);
      for (var id of Object.keys(box)) {
        var answer;
        try {
          answer = await fetch('/runs', { method: 'POST', headers: { 'Content-Type': 'application/json' }, body: JSON.stringify(box[id]) });
        } catch (err) { break; } // no network: later
        if (answer.status >= 500 || answer.status === 401 || answer.status === 429) break; // later
        var now = read(BOX);
        if (!answer.ok) { var refused = read('wavekine.refused'); refused[id] = now[id]; write('wavekine.refused', refused); }
        if (JSON.stringify(now[id]) === JSON.stringify(box[id])) { delete now[id]; write(BOX, now); }
        document.dispatchEvent(new CustomEvent('wavekine:sent', { detail: { id: id, ok: answer.ok } }));
      }
    } finally { sending = false; }
  }
  window.wavekine = {
    keep: function (run) { var box = read(BOX); box[run.id] = run; write(BOX, box); return send(); },
    waiting: function () { return Object.keys(read(BOX)).length; },
    read: read, write: write,
  };
  // A class that was broken off hours ago is kept as it stood.
  for (var i = localStorage.length - 1; i >= 0; i--) {
    var k = localStorage.key(i);
    if (k.indexOf('wavekine.lead.') === 0 && !document.getElementById('lead')) {
      var s = read(k);
      if (s.run && Date.now() - s.saved > 3 * 3600 * 1000) { var b = read(BOX); b[s.run.id] = s.run; write(BOX, b); localStorage.removeItem(k); }
    }
  }
  addEventListener('online', send);
  if (window.wavekine.waiting()) send();
  setInterval(function () { if (window.wavekine.waiting()) send(); }, 15000);

  if ('serviceWorker' in navigator && document.querySelector('.navbar, #lead')) navigator.serviceWorker.register('/sw.js');
})();
