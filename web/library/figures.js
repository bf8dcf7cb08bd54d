// Figures that move: the frames come as one picture, and are shown one after the other, there and back.
// Nothing moves by itself for those who asked their system for less motion.
(function () {
  'use strict';
  var still = matchMedia('(prefers-reduced-motion: reduce)').matches, moving = !still, strips = [];
  var button = document.querySelector('[data-move]');
  function word() { if (button) { button.textContent = moving ? 'Hold still' : 'Show it moving'; button.setAttribute('aria-pressed', String(moving)); } }
  document.querySelectorAll('[data-strip]').forEach(function (stage) {
    fetch(stage.dataset.strip).then(function (r) { return r.ok ? r.text() : ''; }).then(function (t) {
      if (!t) return;
      var svg = document.importNode(new DOMParser().parseFromString(t, 'image/svg+xml').documentElement, true);
      var label = stage.querySelector('svg').getAttribute('aria-label');
      if (label) { svg.removeAttribute('aria-hidden'); svg.setAttribute('role', 'img'); svg.setAttribute('aria-label', label); }
      stage.replaceChildren(svg);
      strips.push({ frames: Array.from(svg.querySelectorAll('.frame')), ms: Math.max(1400, Math.min(6000, +stage.dataset.seconds * 1000 || 3000)), at: -1 });
      stage.dataset.ready = '1';
    }).catch(function () {});
  });
  function show(s, i) { if (i === s.at) return; s.frames.forEach(function (f, k) { if (k === i) f.removeAttribute('display'); else f.setAttribute('display', 'none'); }); s.at = i; }
  function tick(now) {
    if (moving) strips.forEach(function (s) {
      var n = s.frames.length - 1, x = (now % s.ms) / s.ms, there = x < .5 ? x * 2 : 2 - x * 2;
      there = Math.max(0, Math.min(1, there * 1.3 - .15)); // waits a little at both ends
      show(s, Math.round(there * n));
    });
    requestAnimationFrame(tick);
  }
  word();
  requestAnimationFrame(tick);
  if (button) button.addEventListener('click', function () { moving = !moving; if (!moving) strips.forEach(function (s) { show(s, s.frames.length - 1); }); word(); });
})();
