// The player: what of a class is on, out of its planned steps, the clock and what the teacher does. It knows no
// page. Everything that happens is an event with its time; the state follows from the events alone, so that a
// reload replays them and the server reads the same.
(function () {
  'use strict';
  // How long after a step began by itself "not yet" still means the one before.
  var NOT_YET = 6000;
  // The clock counts on for a hand that has stopped counting once the next one is overdue by so much of a repetition.
  var OVERDUE = 1.6;

  // steps: [{s, kind, row, reps, breaths, clocked}] in milliseconds; now: the time; emit: told of every event.
  window.wavekinePlayer = function (steps, now, emit) {
    var events = [], started = 0, running = false, ended = false;
    var cur = null, prev = null, cause = 'clock', pausedAt = -1, paused = 0, tempo = {}, wait = false;
    var landed = {}; // by step: what is other than planned by now, {s, n, out}
    // How long the steps that were left were, and were to be: those that the clock alone ends say nothing.
    var spent = { work: [0, 0], way: [0, 0] }; // taken and planned
    // A class is as fast as it has been so far, its work and the way between apart, drawn towards its plan as if so much of it had gone as planned. What took more than
    // twice its time was held up by something else, and counts for twice. Judgement.
    var DRAWN = { work: 60000, way: 90000 }, SLOWEST = 2, FASTEST = .5, HELD_UP = 2;
    var partOf = function (i) { return working(steps[i]) ? 'work' : 'way'; };

    var at = function () { return ended ? events[events.length - 1].at : started ? Math.max(0, Math.round(now() - started)) : 0; };
    var working = function (st) { return st.kind === 'work' || st.kind === 'pulse' || st.kind === 'hold'; };
    var countAt = function (i) { var l = landed[i]; return l ? l.n : (steps[i].reps || 0) + (steps[i].breaths || 0); };
    var secondsAt = function (i) { var l = landed[i]; return l ? l.s : steps[i].s; };
    var out = function (i) { return !!landed[i] && landed[i].out; };
    var clocked = function (i) { return steps[i].clocked || !!landed[i] && landed[i].clocked; };
    var counted = function (i) { return !clocked(i) && countAt(i) > 0; };
    var nextOf = function (i) { do i++; while (i < steps.length && out(i)); return i; };
    var beforeOf = function (i) { do i--; while (i > 0 && out(i)); return Math.max(0, i); };

    // apply takes one event in. It is the only way the state changes.
    function apply(e) {
      switch (e.does) {
        case 'began': running = true; break;
        case 'set-up': case 'work':
          if (pausedAt >= 0) { paused += e.at - pausedAt; pausedAt = e.at; }
          prev = cause === 'clock' && cur ? cur : null;
          if (prev) prev.end = e.at;
          if (cur && cause !== 'back') leave(e.at);
          cur = { i: e.step, at: e.at, paused: 0, more: 0, held: false, taps: [], auto: 0, late: 0, last: 0, byClock: cause === 'clock' };
          cause = 'clock';
          break;
        case 'moved on': cause = 'hand'; break;
        case 'went back': cause = 'back'; break;
        case 'landed':
          landed = {};
          (e.steps || []).forEach(function (l) { landed[l.step] = l.out ? { s: 0, n: 0, out: true } : { s: Math.round(l.s * 1000), n: (l.reps || 0) + (l.breaths || 0), out: false, clocked: !!l.clocked }; });
          break;
        case 'not yet':
          if (prev) {
            spent = prev.before; prev.held = true; prev.paused += cur.paused; prev.taps = prev.taps.concat(cur.taps.map(function (t) { return t + cur.at + cur.paused - prev.at - prev.paused; })); cur = prev; prev = null; }
          break;
        case 'paused': if (pausedAt < 0) { pausedAt = e.at; running = false; } break;
        case 'resumed': if (pausedAt >= 0) { paused += e.at - pausedAt; if (cur) cur.paused += e.at - Math.max(pausedAt, cur.at); pausedAt = -1; running = true; } break;
        case 'rep': {
          var t = e.at - cur.at - cur.paused;
          if (!e.hand) cur.auto++; else if (cur.auto) cur.late++; else { cur.taps.push(t); learn(); }
          cur.last = t;
          break;
        }
        case 'more': cur.more++; break;
        case 'fewer': cur.more--; break;
        case 'talked on': cur.held = true; break;
        case 'ended': ended = true; running = false; break;
      }
      events.push(e);
    }
    // leave counts what the step that is on took.
    function leave(when) {
      cur.before = spent;
      if (clocked(cur.i)) return;
      var took = Math.max(0, when - cur.at - cur.paused), n = countAt(cur.i), was = secondsAt(cur.i) * (n && cur.more ? Math.max(0, n + cur.more) / n : 1);
      spent = Object.assign({}, spent);
      spent[partOf(cur.i)] = [spent[partOf(cur.i)][0] + Math.min(took, HELD_UP * was), spent[partOf(cur.i)][1] + was];
    }
    function drift(part) { return Math.min(SLOWEST, Math.max(FASTEST, (spent[part][0] + DRAWN[part]) / (spent[part][1] + DRAWN[part]))); }
    function tell(does, more) {
      var e = Object.assign({ at: at(), does: does }, more || {});
      var last = events[events.length - 1];
      if (last && e.at < last.at) e.at = last.at;
      apply(e);
      emit(e);
    }
    function begin(i, when) { tell(working(steps[i]) ? 'work' : 'set-up', when === undefined ? { step: i } : { step: i, at: when }); }

    // The tempo of a row is that of the hand, once it has counted; the other side and the next round go on in it.
    function each() { var t = cur.taps, n = t.length; return n >= 2 ? (t[n - 1] - t[0]) / (n - 1) : 0; }
    function learn() { if (each()) tempo[steps[cur.i].row + steps[cur.i].kind] = each(); }
    function perRep(i) { var st = steps[i]; return tempo[st.row + st.kind] || (countAt(i) ? secondsAt(i) / countAt(i) : 10000); }
    function inStep() { return !cur ? 0 : Math.max(0, (pausedAt >= 0 ? Math.max(pausedAt, cur.at) : at()) - cur.at - cur.paused); }
    function target() { return cur ? Math.max(0, countAt(cur.i) + cur.more) : 0; }
    function done() { return cur ? cur.taps.length + cur.auto + cur.late : 0; }
    // length is how long a step will be: the one that is on from what was counted of it.
    function length(i) {
      if (!counted(i)) return Math.max(1000, secondsAt(i) + (cur && cur.i === i ? cur.more * 10000 : 0));
      if (cur && cur.i === i) {
        if (each()) return cur.last + Math.max(0, target() - done()) * each();
        return Math.max(1000, target() * perRep(i));
      }
      return Math.max(1000, countAt(i) * perRep(i));
    }
    // toCome is how long it is, as the class has gone so far, from now to its end.
    function toCome() {
      var rest = 0, of = { work: drift('work'), way: drift('way') };
      for (var i = p.i; i < steps.length; i = nextOf(i)) {
        var s = length(i), k = of[partOf(i)], own = clocked(i) || tempo[steps[i].row + steps[i].kind];
        if (cur && i === cur.i) rest += Math.max(0, s * (own || each() ? 1 : k) - inStep()); else rest += s * (own ? 1 : k);
      }
      return rest;
    }
    // pace is how much slower than planned what is still to come is taken to be.
    function pace() {
      var plan = 0, rest = 0, of = { work: drift('work'), way: drift('way') };
      for (var i = nextOf(p.i); i < steps.length; i = nextOf(i)) { var s = secondsAt(i), own = tempo[steps[i].row + steps[i].kind]; plan += s; rest += clocked(i) ? s : own ? countAt(i) * own : s * of[partOf(i)]; }
      return plan ? rest / plan : 1;
    }
    function waits(i) { return wait && !clocked(i); }

    var p = {
      steps: steps,
      events: function () { return events; },
      // replay takes up events that were kept.
      replay: function (list, when) { started = when; list.forEach(apply); },
      get i() { return cur ? cur.i : 0; },
      get step() { return steps[p.i]; },
      get started() { return started; },
      get running() { return running; },
      get ended() { return ended; },
      get held() { return !!cur && (cur.held || waits(cur.i)); },
      get wait() { return wait; }, set wait(v) { wait = v; },
      get paused() { return pausedAt >= 0; },
      get landed() { return landed; },
      get more() { return cur ? cur.more : 0; },
      get counting() { return !!cur && cur.taps.length > 0; },
      inStep: inStep, length: length, perRep: perRep, target: target, done: done, working: working, counted: counted, clocked: clocked, count: countAt, seconds: secondsAt, out: out, nextOf: nextOf, toCome: toCome, pace: pace,
      // gone is how long the class has taken, without pauses.
      gone: function () { return started ? (pausedAt >= 0 ? pausedAt : at()) - paused : 0; },
      // cueAt is how far into a step a cue comes, at the length it has by now: what of it counts is the cue's own.
      cueAt: function (i, c) { return Math.max(0, length(i) * c.share - c.before - c.reps * perRep(i)); },
      canNotYet: function () { return !!prev && !!cur && cur.byClock && !cur.taps.length && inStep() < NOT_YET && !steps[prev.i].clocked; },

      toggle: function () {
        if (ended) return;
        if (!started) { started = now(); tell('began'); begin(0); return; }
        tell(pausedAt >= 0 ? 'resumed' : 'paused');
      },
      // pauseAt is a pause from a moment that has passed: the page was away.
      pauseAt: function (when) { if (pausedAt < 0 && started && !ended) tell('paused', { at: Math.max(events[events.length - 1].at, Math.round(when - started)) }); },
      next: function () {
        if (!cur || ended) return;
        var i = cur.i;
        tell('moved on');
        if (nextOf(i) >= steps.length) tell('ended'); else begin(nextOf(i));
      },
      back: function () {
        if (!cur || ended) return;
        var i = inStep() > 3000 || cur.i === 0 ? cur.i : beforeOf(cur.i);
        tell('went back');
        begin(i);
      },
      // jump goes to a step, as who takes over a class does.
      jump: function (i) { if (cur && !ended && i >= 0 && i < steps.length) { tell('moved on'); begin(i); } },
      // seek is for rehearsing alone: the class as it is planned at a moment. Nothing is told of it.
      seek: function (i, into) {
        var was = running, at0 = steps[i].at || 0;
        events = []; cur = null; landed = {}; spent = { work: [0, 0], way: [0, 0] }; paused = 0; pausedAt = -1; prev = null; ended = false; cause = 'clock'; tempo = {};
        started = now() - at0 - into;
        apply({ at: 0, does: 'began' }); apply({ at: at0, does: working(steps[i]) ? 'work' : 'set-up', step: i });
        if (!was) apply({ at: at0 + into, does: 'paused' });
      },
      // rep counts one by hand.
      rep: function () {
        if (!cur || !running || !counted(cur.i)) return;
        if (cur.auto && inStep() - cur.last < each() / 2) return; // the clock has counted that one
        tell('rep', { hand: true });
      },
      change: function (by) {
        if (!cur || ended) return;
        if (by < 0 && (counted(cur.i) ? target() <= Math.max(1, done()) : length(cur.i) - 10000 <= Math.max(inStep(), 999))) return;
        tell(by > 0 ? 'more' : 'fewer');
      },
      // stay: the step does not end by itself, or, where the next one has just begun by itself, it goes on.
      stay: function () { if (!cur || ended) return; if (p.canNotYet()) tell('not yet'); else if (!cur.held) tell('talked on'); },
      level: function (n) { if (cur && !ended) tell('level', { level: n }); },
      note: function (row, text) { if (started && !ended) tell('note', row ? { row: row, text: text } : { text: text }); },
      // land makes steps other than planned from here on; none: as planned again.
      land: function (list, says) { if (started && !ended) tell('landed', { text: says, steps: list }); },
      // correct takes down that somebody was corrected.
      correct: function (row, who, fault) { if (started && !ended) tell('correction', Object.assign({ text: fault }, row ? { row: row } : {}, who ? { who: who } : {})); },
      mark: function () { if (started && !ended) tell('mark'); },
      end: function () { if (started && !ended) tell('ended', { early: true }); },
      endAt: function (when) { if (started && !ended) tell('ended', { early: true, at: Math.max(events[events.length - 1].at, Math.round(when - started)) }); },
      // tick lets time pass: what is over goes over into the next, at the moment it was over. It tells whether it did.
      tick: function () {
        var went = false;
        for (var guard = 0; running && !ended && cur && guard <= steps.length; guard++) {
          var t = inStep();
          if (counted(cur.i) && each()) { // the clock counts on in the tempo of the hand
            while (done() < target() && t >= cur.last + each() * (cur.auto ? 1 : OVERDUE)) tell('rep', { at: Math.round(cur.at + cur.paused + cur.last + each()) });
          }
          if (cur.held || waits(cur.i) || t < length(cur.i) || each() && done() < target()) return went;
          var over = Math.round(cur.at + cur.paused + length(cur.i));
          went = true;
          if (nextOf(cur.i) >= steps.length) tell('ended', { at: over }); else begin(nextOf(cur.i), over);
        }
        return went;
      },
    };
    return p;
  };
})();
