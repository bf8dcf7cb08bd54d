// Sounds of a class: tones, the count spoken, and a beat that follows the audio clock, so that it does not drift from itself however busy the page is.
(function () {
  'use strict';
  // beats are the times, in seconds of the audio clock, from which on (with it) to which (without) the beat sounds; first was the first. Each is worked out from the
  // first, never from the one before: nothing adds up.
  function beats(first, bpm, from, to) {
    var each = 60 / bpm, out = [];
    for (var k = Math.max(0, Math.ceil((from - first) / each - 1e-9)); first + k * each < to; k++) out.push(first + k * each);
    return out;
  }
  function click(ctx, at, strong) {
    var o = ctx.createOscillator(), g = ctx.createGain();
    o.frequency.value = strong ? 1400 : 1050; o.type = 'sine';
    g.gain.setValueAtTime(0, at); g.gain.linearRampToValueAtTime(.16, at + .002); g.gain.exponentialRampToValueAtTime(.001, at + .05);
    o.connect(g).connect(ctx.destination); o.start(at); o.stop(at + .06);
  }
  window.wavekineSound = function () {
    var ctx = null, first = 0, upto = 0, AHEAD = 1.6; // so far ahead beats are handed to the audio clock: a page in the background wakes once a second
    var s = {
      get ctx() { return ctx; },
      // wake must be called from a key or a touch: browsers make no sound before.
      wake: function () {
        if (!ctx && window.AudioContext) ctx = new AudioContext();
        if (ctx && ctx.state === 'suspended') ctx.resume();
      },
      tone: function (f, at, len, vol) {
        if (!ctx) return;
        var o = ctx.createOscillator(), g = ctx.createGain(), t = ctx.currentTime + at;
        o.frequency.value = f; o.type = 'sine';
        g.gain.setValueAtTime(0, t); g.gain.linearRampToValueAtTime(vol || .25, t + .02); g.gain.exponentialRampToValueAtTime(.001, t + len);
        o.connect(g).connect(ctx.destination); o.start(t); o.stop(t + len + .05);
        window.wavekineTones = (window.wavekineTones || 0) + 1;
      },
      // beat keeps the beat going while it is called; off ends it.
      beat: function (bpm) {
        if (!ctx || !bpm) return;
        if (!first) { first = ctx.currentTime + .1; upto = first; }
        var end = ctx.currentTime + AHEAD;
        beats(first, bpm, Math.max(upto, ctx.currentTime), end).forEach(function (t) { click(ctx, t, false); });
        upto = Math.max(upto, end);
      },
      quiet: function () { first = 0; },
      speak: function (words) {
        if (!window.speechSynthesis) return;
        speechSynthesis.cancel();
        var u = new SpeechSynthesisUtterance(words); u.lang = document.documentElement.lang || 'en'; u.rate = 1.1;
        speechSynthesis.speak(u);
        window.wavekineSaid = (window.wavekineSaid || []).concat(words).slice(-40);
      },
    };
    return s;
  };
  window.wavekineSound.beats = beats;
  window.wavekineSound.click = click;
})();
