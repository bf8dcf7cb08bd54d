// What is typed into a form survives a reload or a crash: it is kept in this browser until the server
// has it, at most two days, and is thrown away at signing out. Passwords and files are not kept.
(function () {
  'use strict';
  var PRE = 'wavekine.draft ', DAYS = 2 * 24 * 3600 * 1000;
  function forms() { return Array.from(document.querySelectorAll('form[data-keep], form[data-draft]')); }
  // The revision a form was made from is no part of what it is: a draft outlives somebody else's change.
  function key(form) {
    var hidden = Array.from(form.querySelectorAll('input[type=hidden]:not([name=rev]):not([name=looked])')).map(function (i) { return i.name + '=' + i.value; }).join('&');
    return PRE + location.pathname + ' ' + (form.getAttribute('action') || form.id) + ' ' + hidden;
  }
  function fields(form) {
    return Array.from(form.elements).filter(function (f) { return (f.name || f.id) && !/password/.test(f.autocomplete) && /^(INPUT|TEXTAREA|SELECT)$/.test(f.tagName) && !/^(hidden|password|file|submit|button|checkbox|radio)$/.test(f.type); });
  }
  // was is what the server gave the field, so that a draft never lies over a newer value.
  function was(f) { if (f.tagName !== 'SELECT') return f.defaultValue; var o = Array.from(f.options).find(function (o) { return o.defaultSelected; }) || f.options[0]; return o ? o.value : ''; }
  function keep(form) {
    var d = { at: Date.now(), v: {} }, any = false;
    fields(form).forEach(function (f) { if (f.value !== was(f)) { d.v[f.name || f.id] = [was(f), f.value]; any = true; } });
    try { if (any) localStorage.setItem(key(form), JSON.stringify(d)); else localStorage.removeItem(key(form)); } catch (err) { /* full or forbidden: only the reload is at risk */ }
  }
  function drop(form) { localStorage.removeItem(key(form)); }
  function restore(form) {
    var d;
    try { d = JSON.parse(localStorage.getItem(key(form))); } catch (err) { d = null; }
    if (!d) return;
    if (!d.v || Date.now() - d.at > DAYS) { drop(form); return; }
    var back = [];
    fields(form).forEach(function (f) {
      var v = d.v[f.name || f.id];
      if (v && v[0] === was(f)) { f.value = v[1]; back.push(f); }
    });
    if (back.length === 0) { drop(form); return; }
    // what the server reads of a field as it is typed, it reads of what came back
    setTimeout(function () { back.forEach(function (f) { if (f.hasAttribute('hx-get')) f.dispatchEvent(new Event('input', { bubbles: true })); }); }, 100);
    var box = form.closest('details');
    if (box) box.open = true;
    var note = document.createElement('p'), b = document.createElement('button');
    note.className = 'small look-ink draft-note'; note.setAttribute('role', 'status');
    note.textContent = 'Typed before and not stored yet. ';
    b.type = 'button'; b.className = 'bare small'; b.textContent = 'Drop it';
    b.addEventListener('click', function () { back.forEach(function (f) { f.value = was(f); }); drop(form); note.remove(); });
    note.append(b); form.append(note);
  }
  document.addEventListener('input', function (e) { var form = e.target.form; if (form && (form.dataset.keep !== undefined || form.dataset.draft !== undefined)) keep(form); });
  document.addEventListener('submit', function (e) {
    if (e.target.getAttribute('action') !== '/signout') return;
    Object.keys(localStorage).forEach(function (k) { if (k.indexOf(PRE) === 0) localStorage.removeItem(k); });
  });
  window.wavekineDrafts = { drop: drop, keep: keep };
  forms().forEach(restore);
})();
