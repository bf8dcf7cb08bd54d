// The board of a series: cells and days are chosen, changed in the panel and saved at once; what a change would do is shown first where that is asked.
(function () {
  'use strict';
  var $ = function (s) { return document.querySelector(s); };
  var busy = Promise.resolve(), held = null, chosen = null; // {row, day, to} or {open: day}
  function at() { return '/series/' + $('#days').dataset.id; }
  function edit(values) {
    busy = busy.then(function () {
      values.rev = $('#days').dataset.rev;
      $('#message').textContent = '';
      return htmx.ajax('POST', at() + '/edit', { source: '#days', target: '#days', swap: 'outerHTML', values: values });
    }).catch(function () {});
    return busy;
  }
  // What the panel was asked for last, and where in it the focus goes when it is there; null once it is shut: an answer that comes after that is dropped.
  var asked = null;
  function panel(path, focus) {
    asked = { focus: focus };
    return htmx.ajax('GET', at() + path, { source: '#panel', target: '#panel', swap: 'innerHTML' });
  }
  function show(values) {
    $('#message').textContent = '';
    return panel('/preview?' + new URLSearchParams(values), 'button');
  }
  function shut() { asked = null; $('#panel').replaceChildren(); back(); }
  document.addEventListener('htmx:beforeSwap', function (e) { if (e.detail.target.id === 'panel' && !asked) e.detail.shouldSwap = false; });
  document.addEventListener('htmx:afterSwap', function (e) {
    if (e.detail.target.id !== 'panel' || !asked || !asked.focus) return;
    var f = $('#panel').querySelector(asked.focus);
    asked.focus = '';
    if (!f) return;
    $('#panel').scrollIntoView({ block: 'nearest' });
    f.focus();
  });

  // ---- what is chosen
  function cells() { return Array.from(document.querySelectorAll('button.m-cell')); }
  function cell(row, day) { return document.querySelector('button.m-cell[data-row="' + row + '"][data-cell="' + day + '"]'); }
  function mark() {
    cells().forEach(function (c) { c.classList.remove('chosen'); c.tabIndex = -1; });
    if (chosen && chosen.row) {
      var lo = Math.min(chosen.day, chosen.to), hi = Math.max(chosen.day, chosen.to);
      cells().forEach(function (c) { if (c.dataset.row === chosen.row && c.dataset.cell >= lo && c.dataset.cell <= hi) c.classList.add('chosen'); });
    }
    var on = chosen && chosen.row && cell(chosen.row, chosen.to) || cells()[0];
    if (on) on.tabIndex = 0;
    return on;
  }
  function choose(row, day, to, focus) {
    chosen = { row: row, day: Number(day), to: Number(to) };
    var on = mark();
    if (focus && on) on.focus();
  }
  function openCell(focus) {
    if (!chosen || !chosen.row) return;
    var lo = Math.min(chosen.day, chosen.to), hi = Math.max(chosen.day, chosen.to), first = chosen.day;
    if (!cell(chosen.row, lo)) lo = first;
    panel('/cell?movement=' + encodeURIComponent(chosen.row) + '&day=' + lo + '&to=' + hi, focus);
  }
  // The row above or below, and the nearest cell of it; the next cell of the row.
  function step(from, dx, dy) {
    var all = cells(), row = from.dataset.row, day = Number(from.dataset.cell);
    if (dx) {
      var mine = all.filter(function (c) { return c.dataset.row === row; }).sort(function (a, b) { return a.dataset.cell - b.dataset.cell; });
      return mine[mine.indexOf(from) + dx];
    }
    var rows = Array.from(new Set(all.map(function (c) { return c.dataset.row; }))), next = rows[rows.indexOf(row) + dy];
    return all.filter(function (c) { return c.dataset.row === next; }).sort(function (a, b) { return Math.abs(a.dataset.cell - day) - Math.abs(b.dataset.cell - day); })[0];
  }

  var from = null; // a row being painted along by the mouse
  document.addEventListener('pointerdown', function (e) {
    var c = e.target.closest('button.m-cell');
    if (c && e.pointerType === 'mouse') { from = c; choose(c.dataset.row, e.shiftKey && chosen && chosen.row === c.dataset.row ? chosen.day : c.dataset.cell, c.dataset.cell, false); }
  });
  document.addEventListener('pointerover', function (e) {
    var c = from && e.target.closest && e.target.closest('button.m-cell');
    if (c && c.dataset.row === from.dataset.row) choose(c.dataset.row, chosen.day, c.dataset.cell, false);
  });
  document.addEventListener('pointerup', function (e) {
    var was = from;
    from = null;
    if (was && e.target.closest('button.m-cell') !== was) openCell(); // where it ends on the cell it began on, a click follows
  });
  document.addEventListener('click', function (e) {
    var c = e.target.closest('button.m-cell');
    if (c) {
      if (!chosen || chosen.row !== c.dataset.row || chosen.to !== Number(c.dataset.cell)) choose(c.dataset.row, c.dataset.cell, c.dataset.cell, true);
      openCell(e.detail ? '' : 'select, input:not([type=hidden])'); // by a key, into the panel
      return;
    }
    var o = e.target.closest('[data-open]');
    if (o) { chosen = { open: o.dataset.open }; mark(); panel('/day?day=' + o.dataset.open); return; }
    var light = e.target.closest('[data-light]');
    if (light) {
      var day = document.querySelector('.day[data-day="' + light.dataset.light + '"]');
      document.querySelectorAll('.day.lit').forEach(function (d) { d.classList.remove('lit'); });
      if (day) { day.classList.add('lit'); day.scrollIntoView({ block: 'center' }); day.querySelector('[data-open]').focus(); }
      return;
    }
    if (e.target.closest('[data-shut]')) { shut(); return; }
    var b = e.target.closest('[data-sop]');
    if (b) edit({ op: b.dataset.sop });
  });
  function back() {
    var on = chosen && (chosen.row ? cell(chosen.row, chosen.to) || cell(chosen.row, chosen.day) : document.querySelector('[data-open="' + chosen.open + '"]'));
    if (on) on.focus();
  }

  // ---- forms of the board: each button says what it does
  document.addEventListener('submit', function (e) {
    var form = e.target;
    if (!form.classList.contains('board-form')) return;
    e.preventDefault();
    var values = {}, b = e.submitter;
    new FormData(form, b).forEach(function (v, k) { values[k] = v; });
    if (b && b.dataset.set) new URLSearchParams(b.dataset.set).forEach(function (v, k) { values[k] = v; });
    if (!values.op) return;
    if (b && b.dataset.preview !== undefined) { show(values); return; }
    var rev = $('#days').dataset.rev;
    edit(values).then(function () {
      if ($('#days').dataset.rev === rev) return; // it was refused: what was typed stays
      if (form.dataset.reset !== undefined) form.reset();
      if (!form.closest('#panel')) return;
      if (chosen && chosen.row && cell(chosen.row, chosen.day) && form.dataset.panel === 'cell') { openCell(); back(); } else if (chosen && chosen.open && form.dataset.panel === 'day') { panel('/day?day=' + chosen.open); back(); } else shut();
    });
  });

  document.addEventListener('keydown', function (e) {
    var c = e.target.closest && e.target.closest('button.m-cell');
    if (c) {
      var d = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] }[e.key], next = d && step(c, d[0], d[1]);
      if (d) {
        e.preventDefault();
        if (next) { if (e.shiftKey && d[0] && chosen && chosen.row === c.dataset.row) choose(c.dataset.row, chosen.day, next.dataset.cell, true); else choose(next.dataset.row, next.dataset.cell, next.dataset.cell, true); }
      } else if (/^p$/i.test(e.key) && !e.ctrlKey && !e.metaKey) { e.preventDefault(); edit({ op: 'pin', what: 'row', day: c.dataset.cell, movement: c.dataset.row, off: c.classList.contains('pinned') ? 'on' : '' }); }
      else if (e.key === 'Delete') { e.preventDefault(); edit({ op: 'take-out', day: c.dataset.cell, movement: c.dataset.row }); }
    }
    if ((e.ctrlKey || e.metaKey) && /^[zZy]$/.test(e.key) && !/^(INPUT|SELECT|TEXTAREA)$/.test(e.target.tagName)) { e.preventDefault(); edit({ op: e.key === 'y' || e.shiftKey ? 'redo' : 'undo' }); }
    if (e.key === 'Escape' && (asked || $('#panel').firstChild)) shut();
    if (e.key === 'Enter' && e.target.dataset && e.target.dataset.shead !== undefined) e.target.blur();
  });
  document.addEventListener('change', function (e) {
    var d = e.target.dataset;
    if (d.shead !== undefined && e.target.value !== d.was) { var v = { op: 'head' }; v[e.target.name] = e.target.value; edit(v); }
  });

  function wire() {
    document.querySelectorAll('.week-days').forEach(function (w) {
      if (w.sortable) return;
      w.sortable = Sortable.create(w, {
        handle: '.handle', draggable: '.day', group: 'days', animation: 0, delay: 120, delayOnTouchOnly: true,
        onEnd: function (e) {
          var order = Array.from(document.querySelectorAll('.day')), to = order.indexOf(e.item) + 1, day = Number(e.item.dataset.day);
          if (to !== day) edit({ op: 'shift', day: String(day), to: String(to) }).then(function () { if (order.length) htmx.trigger('#over', 'changed'); });
        },
      });
    });
    mark();
  }
  // The history is asked for when it is opened, and again after each change while it is open.
  var box = $('#historybox');
  function history() { if (box.open) htmx.ajax('GET', at() + '/history', { source: box, target: '#history', swap: 'innerHTML' }); }
  box.addEventListener('toggle', history);
  document.addEventListener('htmx:beforeSwap', function (e) { if (e.detail.target.id === 'days') held = document.activeElement && document.activeElement.closest && document.activeElement.closest('#days') ? document.activeElement : null; });
  document.addEventListener('htmx:afterSwap', function (e) {
    if (e.detail.target.id !== 'days') return;
    wire(); history(); htmx.trigger('#over', 'changed');
    var was = held; // the focus stays where it was
    held = null;
    if (!was) return;
    var same = was.id ? document.getElementById(was.id) : was.dataset.row ? cell(was.dataset.row, was.dataset.cell) || cells().filter(function (c) { return c.dataset.row === was.dataset.row; })[0] : was.dataset.open ? document.querySelector('[data-open="' + was.dataset.open + '"]') : was.dataset.sop ? document.querySelector('[data-sop="' + was.dataset.sop + '"]') : null;
    if (same) same.focus();
  });
  wire();
})();
