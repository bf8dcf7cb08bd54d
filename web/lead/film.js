// The running script follows a clock: its own, or that of the class where it is led on this machine.
(function () {
  'use strict';
  var $ = function (id) { return document.getElementById(id); }, lines = Array.from(document.querySelectorAll('.script-table [data-at]'));
  var from = 0, gone = 0, running = false, led = 0, on = null;
  var clock = function (s) { return Math.floor(s / 60) + ':' + String(Math.floor(s) % 60).padStart(2, '0'); };
  function at() { return gone + (running ? (performance.now() - from) / 1000 : 0); }
  function toggle() { if (running) { gone = at(); running = false; } else { from = performance.now(); running = true; } $('f-go').firstChild.textContent = running ? 'Stop the clock ' : 'Run the clock '; draw(); }
  function mark(line) {
    if (line === on) return;
    if (on) on.removeAttribute('aria-current');
    on = line;
    if (on) { on.setAttribute('aria-current', 'true'); on.scrollIntoView({ block: 'center', behavior: matchMedia('(prefers-reduced-motion: reduce)').matches ? 'auto' : 'smooth' }); }
  }
  function draw() {
    var t = at();
    $('f-clock').textContent = clock(t);
    if (!running && !t) return;
    var line = null;
    lines.forEach(function (l) { if (Number(l.dataset.at) <= t) line = l; });
    mark(line);
  }
  $('f-go').addEventListener('click', toggle);
  document.addEventListener('keydown', function (e) { if (e.key === ' ' && !/^(INPUT|SELECT|TEXTAREA|BUTTON|A)$/.test(e.target.tagName)) { e.preventDefault(); toggle(); } });
  if (window.BroadcastChannel) {
    var near = new BroadcastChannel('wavekine.class' + location.pathname.replace(/^\/sessions\//, '.').replace(/\/film$/, ''));
    near.onmessage = function (e) {
      var m = e.data || {};
      if (typeof m.planned !== 'number') return;
      gone = m.planned; running = !!m.running; from = performance.now(); led++;
      $('f-go').firstChild.textContent = running ? 'Stop the clock ' : 'Run the clock ';
      draw();
    };
  }
  window.wavekineScript = { get at() { return at(); }, get led() { return led; } };
  setInterval(function () { if (running) draw(); }, 250);
})();
