// The library by keyboard: from the search to the movements and among them, levels looked at without leaving.
(function () {
  'use strict';
  var q = document.getElementById('q'), look = document.getElementById('look');
  function cards() { return Array.from(document.querySelectorAll('#found .cards a')); }
  function middle(el) { var b = el.getBoundingClientRect(); return { x: b.left + b.width / 2, y: b.top + b.height / 2 }; }
  // beside finds the card in the next line above (-1) or below (1) that is nearest across.
  function beside(card, way) {
    var at = middle(card), best = null, cost = Infinity;
    cards().forEach(function (c) {
      var m = middle(c), dy = (m.y - at.y) * way, far = dy * 4 + Math.abs(m.x - at.x);
      if (dy > 4 && far < cost) { best = c; cost = far; }
    });
    return best;
  }
  // Whose levels are shown; the buttons are new ones after each search, and what is shown stays.
  var open = null;
  function peeks(url) { return Array.from(document.querySelectorAll('[data-look]')).filter(function (b) { return b.dataset.look === url; }); }
  function mark(url) {
    open = url;
    document.querySelectorAll('[data-look][aria-expanded]').forEach(function (b) { b.removeAttribute('aria-expanded'); });
    peeks(open).forEach(function (b) { b.setAttribute('aria-expanded', 'true'); });
  }
  function shut() {
    var from = peeks(open)[0];
    look.replaceChildren();
    mark(null);
    if (from && from.closest('li')) from.closest('li').querySelector('a').focus(); else q.focus();
  }
  document.addEventListener('click', function (e) {
    var b = e.target.closest('[data-look]');
    if (!b) return;
    mark(b.dataset.look);
    htmx.ajax('GET', open, { source: look, target: look, swap: 'innerHTML' }).catch(function () { if (!look.firstElementChild) mark(null); }); // app.js says it
  });
  document.addEventListener('keydown', function (e) {
    if (e.ctrlKey || e.metaKey || e.altKey || document.querySelector('dialog[open]')) return;
    if (e.key === 'Escape') {
      if (open) shut(); else if (e.target.closest('#found')) q.focus(); else return;
      e.preventDefault();
      return;
    }
    if (e.target === q && e.key === 'ArrowDown') { var first = cards()[0]; if (first) { e.preventDefault(); first.focus(); } return; }
    var card = e.target.closest('.cards a');
    if (!card) return;
    var all = cards(), i = all.indexOf(card), to;
    if (e.key === 'ArrowRight') to = all[i + 1];
    else if (e.key === 'ArrowLeft') to = all[i - 1];
    else if (e.key === 'ArrowDown') to = beside(card, 1);
    else if (e.key === 'ArrowUp') to = beside(card, -1) || q;
    else if (e.key === ' ') { e.preventDefault(); card.closest('li').querySelector('.peek').click(); return; } else return;
    e.preventDefault();
    if (to) to.focus();
  });
  document.addEventListener('click', function (e) { if (e.target.closest('[data-shut]')) shut(); });
  // Whoever went down to the movements before the last answer came stays there.
  var on = null;
  document.addEventListener('htmx:beforeSwap', function (e) {
    if (e.target === look && !open) e.detail.shouldSwap = false; // shut before the answer came
    var at = document.activeElement;
    on = e.target !== look && at.closest('.cards') ? (at.href || at.closest('li').querySelector('a').href) : null;
  });
  document.addEventListener('htmx:afterSettle', function () {
    mark(open);
    if (!on) return;
    var all = cards(), to = all.filter(function (c) { return c.href === on; })[0] || all[0] || q;
    on = null;
    to.focus();
  });
  document.addEventListener('htmx:afterSwap', function (e) {
    if (e.target === look) look.scrollTop = 0;
    if (e.target.id !== 'message') document.getElementById('message').replaceChildren(); // the server answers again
    else if (!look.firstElementChild) mark(null); // it refused
  });

  // Figures come when they are about to be seen, and all of them before the page is printed.
  function put(svg) { var u = svg.querySelector('[data-href]'); if (u) { u.setAttribute('href', u.dataset.href); u.removeAttribute('data-href'); } }
  function waiting() { return Array.from(document.querySelectorAll('#found svg:has([data-href])')); }
  var eye = 'IntersectionObserver' in window && new IntersectionObserver(function (seen) {
    seen.forEach(function (s) { if (s.isIntersecting) { eye.unobserve(s.target); put(s.target); } });
  }, { rootMargin: '500px' });
  function watch() { waiting().forEach(function (s) { if (eye) eye.observe(s); else put(s); }); }
  addEventListener('beforeprint', function () { waiting().forEach(put); });
  document.addEventListener('htmx:afterSwap', watch);
  watch();

  // The index marks the position that is in sight.
  var seen = null;
  function sight() {
    var now = null;
    document.querySelectorAll('#found h2[id]').forEach(function (h) { if (h.getBoundingClientRect().top < innerHeight / 3) now = h.id; });
    if (now === seen) return;
    seen = now;
    document.querySelectorAll('.shelves a').forEach(function (a) { if (a.hash === '#' + now) a.setAttribute('aria-current', 'true'); else a.removeAttribute('aria-current'); });
  }
  addEventListener('scroll', sight, { passive: true });
  document.addEventListener('htmx:afterSwap', function (e) { if (e.target !== look) { seen = ''; sight(); } });
  sight();
})();
