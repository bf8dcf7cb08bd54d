// Days of a series: set, move, copy, clear, drag; every change is saved at once.
(function () {
  'use strict';
  var $ = function (s) { return document.querySelector(s); };
  var busy = Promise.resolve();
  function edit(values) {
    busy = busy.then(function () {
      values.rev = $('#days').dataset.rev;
      $('#message').textContent = '';
      return htmx.ajax('POST', '/series/' + $('#days').dataset.id + '/edit', { source: '#days', target: '#days', swap: 'outerHTML', values: values });
    }).catch(function () {});
    return busy;
  }
  function wire() {
    document.querySelectorAll('.week-days').forEach(function (w) {
      if (w.sortable) return;
      w.sortable = Sortable.create(w, {
        handle: '.handle', draggable: '.day', group: 'days', animation: 0,
        onEnd: function (e) {
          var order = Array.from(document.querySelectorAll('.day')), to = order.indexOf(e.item) + 1, from = Number(e.item.dataset.day);
          if (to !== from) edit({ op: 'move', day: String(from), to: String(to) });
        },
      });
    });
  }
  document.addEventListener('change', function (e) {
    var d = e.target.dataset;
    if (d.shead !== undefined && e.target.value !== d.was) { var v = { op: 'head' }; v[e.target.name] = e.target.value; edit(v); }
    else if (d.sdays !== undefined) edit({ op: 'days', days: e.target.value });
    else if (d.set && e.target.value) edit({ op: 'set', day: d.set, plan: e.target.value });
    else if (d.move && e.target.value) edit({ op: 'move', day: d.move, to: e.target.value });
    else if (d.copy && e.target.value) edit({ op: 'copy', day: d.copy, to: e.target.value });
  });
  document.addEventListener('click', function (e) {
    var b = e.target.closest('[data-sop]');
    if (b) edit({ op: b.dataset.sop, day: b.dataset.n || '' });
    document.querySelectorAll('.day-do[open]').forEach(function (d) { if (!d.contains(e.target)) d.open = false; });
  });
  document.addEventListener('keydown', function (e) {
    if ((e.ctrlKey || e.metaKey) && /^[zZy]$/.test(e.key) && !/^(INPUT|SELECT)$/.test(e.target.tagName)) { e.preventDefault(); edit({ op: e.key === 'y' || e.shiftKey ? 'redo' : 'undo' }); }
    if (e.key === 'Escape') document.querySelectorAll('.day-do[open]').forEach(function (d) { d.open = false; });
    if (e.key === 'Enter' && e.target.dataset && (e.target.dataset.move || e.target.dataset.copy || e.target.dataset.shead !== undefined)) e.target.blur();
  });
  // The history is asked for when it is opened, and again after each change while it is open.
  var box = $('#historybox');
  function history() { if (box.open) htmx.ajax('GET', '/series/' + $('#days').dataset.id + '/history', { source: box, target: '#history', swap: 'innerHTML' }); }
  box.addEventListener('toggle', history);
  document.addEventListener('htmx:afterSwap', function (e) { wire(); if (e.detail.target.id === 'days') history(); });
  wire();
})();
