// The bench's keys, choosing rows, dragging, and the add line. Every change goes to the server and
// comes back as the redrawn bench.
(function () {
  'use strict';
  var $ = function (s, r) { return (r || document).querySelector(s); };
  var $$ = function (s, r) { return Array.from((r || document).querySelectorAll(s)); };
  var bench = function () { return $('#bench'); };
  var url = function (tail) { return '/sessions/' + bench().dataset.id + '/' + tail; };
  var current = ''; // the row one is on
  var chosen = [];
  var queue = Promise.resolve();
  var menu = $('#rowmenu');

  // edit sends one change at a time, each on the revision the one before made.
  function edit(values, focusRow) {
    queue = queue.then(function () {
      wantFocus = focusRow !== false;
      if (!values.rev) values.rev = bench().dataset.rev;
      $('#message').textContent = '';
      return htmx.ajax('POST', url('edit'), { source: '#bench', target: '#bench', swap: 'morph:outerHTML', values: values });
    }).catch(function () { /* said already: the next change is sent all the same */ });
    return queue;
  }
  function tell(says) { var p = document.createElement('p'); p.className = 'says stop'; p.setAttribute('role', 'alert'); p.textContent = says; $('#message').replaceChildren(p); }

  var wantFocus = false;
  function row(path) { return path ? $('.row[data-path="' + path + '"]') : null; }
  function rows() { return $$('.row'); }
  function go(el, focus) {
    if (!el) return;
    current = el.dataset.path;
    rows().forEach(function (r) { r.tabIndex = r === el ? 0 : -1; });
    if (focus !== false) { el.focus({ preventScroll: false }); el.scrollIntoView({ block: 'nearest' }); }
    $$('.w-bar.on').forEach(function (b) { b.classList.remove('on'); });
    $$('.w-bar[data-row="' + current + '"]').forEach(function (b) { b.classList.add('on'); });
    where();
  }
  function where() {
    var r = row(current);
    var here = !r && /\.0\.0$/.test(current) && $('[data-here="' + parseInt(current, 10) + '"]');
    $('#addafter').textContent = r ? 'after row ' + r.querySelector('.n').textContent + ', in ' + r.closest('.section').querySelector('.section-title').value
      : here ? 'in ' + here.dataset.title : '';
  }
  function choose(list) {
    chosen = list.filter(row);
    rows().forEach(function (r) { r.classList.toggle('chosen', chosen.indexOf(r.dataset.path) >= 0); });
    $('#selbar').hidden = chosen.length === 0;
    $('#selcount').textContent = chosen.length + (chosen.length === 1 ? ' row' : ' rows');
  }
  var picked = function () { return chosen.length ? chosen.slice() : [current]; };

  // What stands behind the wave is hidden or shown as it was last.
  function shadow() {
    var no = localStorage.getItem('wavekine.behind') === 'no', b = $('[data-behind]');
    document.documentElement.classList.toggle('no-behind', no);
    if (b) { b.textContent = no ? 'show it' : 'hide it'; b.setAttribute('aria-pressed', String(!no)); }
  }

  // While the wave is out of sight a small one stands at the top of the screen.
  var away = false, seen = new IntersectionObserver(function (es) { away = !es[es.length - 1].isIntersecting; mini(); });
  function mini() {
    var to = $('#wave-mini'), svg = $('.wave-box svg'), box = $('.wave-box');
    if (!to || !svg) return;
    seen.observe(box);
    to.hidden = !away || !svg.querySelector('.w-bar');
    if (to.hidden) { to.replaceChildren(); return; }
    var copy = svg.cloneNode(true);
    copy.setAttribute('viewBox', '0 20 1144 148'); copy.setAttribute('preserveAspectRatio', 'none'); copy.removeAttribute('role'); copy.removeAttribute('aria-label');
    $$('text, title, .w-posture, .w-rail, .w-load, .w-mark', copy).forEach(function (n) { n.remove(); });
    $$('.w-bar', copy).forEach(function (b) { b.classList.replace('w-bar', 'w-mini'); b.dataset.go = b.dataset.row; b.removeAttribute('data-row'); b.removeAttribute('aria-label'); b.setAttribute('tabindex', '-1'); });
    var words = document.createElement('span');
    words.className = 'num small'; words.textContent = $('.clock b').textContent + ($('[name=target]').value ? ' of ' + $('[name=target]').value : '');
    var frame = document.createElement('div');
    frame.append(words, copy);
    to.replaceChildren(frame);
  }

  // ---- after every answer
  function wire() {
    shadow(); mini();
    var first = row(current) || rows()[0];
    if (first) { first.tabIndex = 0; if (!row(current) && !/\.0\.0$/.test(current)) current = ''; }
    $$('ul.rows').forEach(function (ul) {
      if (ul.sortable) return;
      ul.sortable = Sortable.create(ul, {
        group: 'rows', handle: '.handle', draggable: '.row', animation: 0,
        onEnd: function (e) {
          if (e.from === e.to && e.oldDraggableIndex === e.newDraggableIndex) return;
          var to = e.to.dataset.list.split('.'), at = e.newDraggableIndex + 1;
          if (e.from === e.to && e.newDraggableIndex > e.oldDraggableIndex) at++;
          edit({ op: 'move', at: e.item.dataset.path, to: to[0] + '.' + to[1] + '.' + at });
        },
      });
    });
    where();
  }
  // What lies folded below is asked for when it is opened, and again after each change while it is open.
  function fill(d) { if (d.open) htmx.ajax('GET', url(d.dataset.panel), { source: d, target: '#' + d.dataset.panel, swap: 'morph:innerHTML' }); }
  $$('details[data-panel]').forEach(function (d) { d.addEventListener('toggle', function () { fill(d); }); });
  document.addEventListener('htmx:afterSwap', function (e) {
    if (e.detail.target.id !== 'bench' && e.target.id !== 'bench') return;
    wire();
    $$('details[data-panel]').forEach(fill);
    choose([]);
    var at = bench().dataset.at;
    if (at && row(at)) {
      var el = row(at), inAdd = document.activeElement === $('#add');
      go(el, wantFocus && !inAdd);
      if (inAdd) el.scrollIntoView({ block: 'nearest' });
    }
  });

  // ---- changes made in fields
  document.addEventListener('change', function (e) {
    var f = e.target;
    if (!bench().contains(f) || f.value === f.dataset.was) return;
    if (f.name === 'mend') {
      edit({ op: 'mend-line', at: f.closest('.row').dataset.path, line: f.value }, document.activeElement === document.body);
    } else if (f.name === 'dose') {
      var v = { op: 'dose', at: f.closest('.row').dataset.path, dose: f.value };
      if (f.dataset.side) v.side = f.dataset.side;
      edit(v, document.activeElement === document.body);
    } else if (f.closest('[data-options]')) { // handled below
    } else if (f.dataset.head !== undefined) {
      var h = { op: 'head' }; h[f.name] = f.value; edit(h, false);
    } else if (f.dataset.sectionTitle) {
      edit({ op: 'section-rename', section: f.dataset.sectionTitle, title: f.value }, false);
    } else if (f.closest('[data-block-form]')) {
      var form = f.closest('[data-block-form]'), b = { op: 'block', at: form.dataset.blockForm };
      $$('input', form).forEach(function (i) { b[i.name] = i.value; });
      edit(b, false);
    }
  });

  document.addEventListener('change', function (e) {
    var tr = e.target.closest && e.target.closest('[data-options]');
    if (!tr) return;
    edit({ op: 'options', at: tr.dataset.options, options: $$('input:checked', tr).map(function (i) { return i.value; }).join(' '), demo: $('select', tr).value }, false);
  });
  document.addEventListener('click', function (e) {
    var b = e.target.closest && e.target.closest('[data-usual]');
    if (b) edit({ op: 'options', at: b.dataset.usual, usual: '1', demo: $('select', b.closest('tr')).value }, false);
  });
  var pieces = $('#piecesform');
  if (pieces) pieces.addEventListener('submit', function (e) { e.preventDefault(); edit({ op: 'insert', piece: $('#piece').value, after: current }); });

  // The beat is tapped: the median of the last gaps, taken when the tapping stops.
  var taps = [], tapTimer = 0;
  function tap() {
    var now = performance.now();
    if (taps.length && now - taps[taps.length - 1] > 2500) taps = [];
    taps.push(now); if (taps.length > 9) taps.shift();
    clearTimeout(tapTimer);
    if (taps.length < 3) return;
    var gaps = taps.slice(1).map(function (t, i) { return t - taps[i]; }).sort(function (a, b) { return a - b; });
    var bpm = Math.round(60000 / gaps[Math.floor(gaps.length / 2)]);
    var f = $('input[name=bpm]'); f.value = bpm;
    tapTimer = setTimeout(function () { taps = []; edit({ op: 'head', bpm: String(bpm) }, false); }, 1400);
  }

  // A change shown before it is made; Escape or Leave it puts it aside.
  function propose(what) {
    htmx.ajax('GET', url('propose') + '?what=' + what, { source: '#proposed', target: '#proposed', swap: 'innerHTML' }).then(function () { var p = $('#proposal'); if (p) { p.focus({ preventScroll: true }); p.scrollIntoView({ block: 'nearest' }); } });
  }
  function leave() { $('#message').textContent = ''; $('#proposed').textContent = ''; var r = row(current) || rows()[0]; if (r) go(r); }

  function nameOf(r) { return r.querySelector('.name').firstElementChild.textContent.trim(); }

  // ---- what is said of a row, a block or a section, changed in one line of clauses; what is typed is kept until it is stored or left
  var saybox = $('#saybox'), saying = null;
  var sayKey = function () { return 'wavekine.say.' + bench().dataset.id; };
  function put(host) {
    (host.classList.contains('row') ? host : host.parentNode).insertBefore(saybox, host.classList.contains('row') ? null : host.nextSibling);
  }
  function hostOf(s) { return s.op === 'section-words' ? $('[data-section="' + s.to.section + '"] .section-head') : row(s.to.at); }
  function say(op, to, words, what, host) {
    saying = { op: op, to: to, what: what };
    put(host);
    saybox.hidden = false; $('#saywhat').textContent = what; $('#saytold').textContent = '';
    $$('[data-for]', saybox).forEach(function (li) { li.hidden = li.dataset.for !== op; });
    var f = $('#saywords'); f.value = words; f.focus(); f.setSelectionRange(f.value.length, f.value.length);
  }
  function sayLeave() { localStorage.removeItem(sayKey()); saying = null; saybox.hidden = true; document.querySelector('main').append(saybox); var r = row(current); if (r) go(r); }
  $('#saywords').addEventListener('input', function () { if (/\n/.test(this.value)) this.value = this.value.replace(/\s*\n/g, ' ').trim(); localStorage.setItem(sayKey(), JSON.stringify({ op: saying.op, to: saying.to, what: saying.what, words: this.value })); });
  $('#saywords').addEventListener('keydown', function (e) {
    if (e.key === 'Escape') { e.preventDefault(); e.stopPropagation(); sayLeave(); }
    if (e.key === 'Enter' && !e.shiftKey) { e.preventDefault(); saybox.requestSubmit(); }
  });
  saybox.addEventListener('submit', function (e) {
    e.preventDefault();
    if (!saying) return;
    saying.sent = true;
    edit(Object.assign({ op: saying.op, words: $('#saywords').value.replace(/\n/g, ' ') }, saying.to), false);
  });
  document.addEventListener('htmx:beforeSwap', function (e) {
    if (e.detail.target.id !== 'bench' || saybox.hidden) return;
    document.querySelector('main').append(saybox);
    if (saying && saying.sent) { localStorage.removeItem(sayKey()); saying = null; saybox.hidden = true; wantFocus = true; }
  });
  document.addEventListener('htmx:responseError', function () { if (saying) saying.sent = false; });
  document.addEventListener('htmx:afterSwap', function (e) { // what is still being said stays where it was said
    if (!saying || saybox.hidden || e.detail.target.id !== 'bench' && e.target.id !== 'bench') return;
    var host = hostOf(saying);
    if (host) put(host); else sayLeave();
  });
  document.addEventListener('click', function (e) {
    if (e.target.closest('[data-say-leave]')) return sayLeave();
    var b = e.target.closest('[data-say]');
    if (!b) return;
    if (b.dataset.say === 'block-words') say('block-words', { at: b.dataset.at }, b.dataset.words, 'How the rows are done', b.closest('.rule'));
    else say('section-words', { section: b.dataset.section }, b.dataset.words, 'How the section is taught', b.closest('.section-head'));
  });
  // After a reload what was being said is there again.
  function sayAgain() {
    var kept = localStorage.getItem(sayKey());
    if (!kept) return;
    try { kept = JSON.parse(kept); } catch (e) { return; }
    var host = hostOf(kept);
    if (host) say(kept.op, kept.to, kept.words, kept.what, host);
  }

  function act(op, path) {
    var name = row(path) ? nameOf(row(path)) : '';
    switch (op) {
      case 'up': return edit({ op: 'step', at: path, by: '-1' });
      case 'down': return edit({ op: 'step', at: path, by: '1' });
      case 'duplicate': return edit({ op: 'duplicate', at: path });
      case 'delete': return edit({ op: 'delete', at: picked().indexOf(path) >= 0 ? picked().join(' ') : path });
      case 'lock': return edit({ op: 'lock', at: path });
      case 'renew': return edit({ op: 'renew', at: path });
      case 'level-next': {
        var of = $$('.l-on, .l-off', row(path)).length, on = $$('.l-on', row(path)).length;
        return edit({ op: 'level', at: path, level: String(on >= of ? 1 : on + 1) });
      }
      case 'sides-next': return edit({ op: 'sides', at: path, sides: 'next' });
      case 'left-own': case 'right-own': {
        var field = $('input[name=dose]', row(path)), said = prompt(name + ': dose of the ' + op.split('-')[0] + ' side', '6 reps');
        if (said) edit({ op: 'dose', at: path, side: op.split('-')[0], dose: said }); else field.focus();
        return;
      }
      case 'words': return say('words', { at: path }, row(path).dataset.words, 'How ' + name + ' is done and said', row(path));
      case 'block-words': {
        var ul = row(path).closest('ul.rows');
        return say('block-words', { at: path }, ul.dataset.words, 'How the rows are done', ul.previousElementSibling || row(path));
      }
      case 'note': {
        var note = prompt('Note on ' + name, '');
        if (note !== null) edit({ op: 'note', at: path, note: note });
      }
    }
  }

  document.addEventListener('click', function (e) {
    var t = e.target, el;
    if (!menu.hidden && !menu.parentNode.contains(t)) close();
    if ((el = t.closest('[data-menu]'))) {
      if (menu.parentNode === el.parentNode && !menu.hidden) return close();
      close();
      el.parentNode.append(menu); menu.hidden = false; el.setAttribute('aria-expanded', 'true');
      var one = el.closest('.row').dataset.onesided !== undefined;
      $$('[data-when=onesided]', menu).forEach(function (b) { b.hidden = !one; });
      $('button', menu).focus();
    } else if ((el = t.closest('[data-mend]'))) propose('mend&id=' + encodeURIComponent(el.dataset.mend));
    else if ((el = t.closest('[data-go]'))) { e.preventDefault(); go(row(el.dataset.go)); }
    else if ((el = t.closest('[data-propose]'))) propose(el.dataset.propose);
    else if ((el = t.closest('[data-use]'))) edit({ op: 'take', name: el.form.elements.name.defaultValue, movement: el.dataset.use }, false);
    else if ((el = t.closest('[data-take]'))) { var take = { op: el.dataset.take }; if (el.dataset.scope) take.scope = el.dataset.scope; if (el.dataset.mendId) take.mend = el.dataset.mendId; if (el.dataset.to) take.to = el.dataset.to; if (el.dataset.watch) take.watch = el.dataset.watch; edit(take, false); }
    else if ((el = t.closest('[data-aside]'))) aside(el);
    else if ((el = t.closest('[data-unaside]'))) edit({ op: 'unaside', rule: el.dataset.unaside, about: el.dataset.about }, false);
    else if (t.closest('[data-leave]')) leave();
    else if (t.closest('[data-named]')) { var nb = $('#namedbox'), at = t.closest('.row').dataset.path; nb.open = true; fill(nb); nb.scrollIntoView({ block: 'center' }); wantNamed = at; }
    else if (t.closest('[data-behind]')) { localStorage.setItem('wavekine.behind', document.documentElement.classList.contains('no-behind') ? '' : 'no'); shadow(); }
    else if ((el = t.closest('[data-again]'))) { if (saying) saying.sent = true; edit(JSON.parse(el.dataset.again)); }
    else if ((el = t.closest('[data-unwrap]'))) edit({ op: 'unwrap', at: el.dataset.unwrap });
    else if ((el = t.closest('[data-section-delete]'))) edit({ op: 'section-delete', section: el.dataset.sectionDelete }, false);
    else if ((el = t.closest('[data-here]'))) { current = el.dataset.here + '.0.0'; where(); add.focus(); if (add.value) understand(); } // an empty section is where the line goes
    else if ((el = t.closest('[data-sel]'))) sel(el.dataset.sel);
    else if ((el = t.closest('.w-bar'))) { e.preventDefault(); if (!dragged) go(row(el.dataset.row)); }
    else if ((el = t.closest('[data-op]')) && bench().contains(el)) {
      var r = el.closest('.row');
      if (r) { go(r, false); close(); act(el.dataset.op, r.dataset.path); } else edit({ op: el.dataset.op }, false);
    } else if ((el = t.closest('.row')) && !t.closest('a, input, button, label')) {
      if (e.shiftKey && current) {
        var all = rows().map(function (r) { return r.dataset.path; }), a = all.indexOf(current), b = all.indexOf(el.dataset.path);
        choose(all.slice(Math.min(a, b), Math.max(a, b) + 1));
      } else if (e.ctrlKey || e.metaKey) toggle(el.dataset.path);
      else choose([]);
      go(el);
    }
  });
  // One menu serves all rows; it goes back to the page before an answer redraws them.
  function close() {
    var b = menu.previousElementSibling;
    menu.hidden = true;
    if (b && b.dataset.menu !== undefined) b.setAttribute('aria-expanded', 'false');
    document.querySelector('main').append(menu);
    return b;
  }
  document.addEventListener('htmx:beforeSwap', close);
  function aside(el) {
    var why = prompt('Why is this set aside? It comes back when it gets worse. Begin with house: to set its kind aside for every session.', '');
    while (why && why.length > 300) why = prompt('At most 300 characters; these are ' + why.length + '.', why);
    if (!why) return;
    var v = { rule: el.dataset.aside, about: el.dataset.about, amount: el.dataset.amount };
    if (/^house:/i.test(why)) { v.reason = why.replace(/^house:\s*/i, ''); htmx.ajax('POST', '/house/aside', { source: '#message', target: '#message', swap: 'innerHTML', values: v }); return; }
    v.op = 'aside'; v.reason = why;
    edit(v, false);
  }
  function spoken() {
    var out = [], sec = '', block = null, many = picked().map(row).filter(Boolean);
    many.forEach(function (r) {
      var t = r.closest('.section').querySelector('.section-title').value;
      if (t !== sec && (many.length > 1 || sec)) out.push('# ' + t);
      var ul = r.closest('ul.rows'), words = ul.dataset.words;
      if (ul !== block && many.length > 1 && (words !== 'straight' || block && t === sec && block.dataset.words !== 'straight')) out.push('= ' + words);
      sec = t; block = ul;
      out.push(r.dataset.spoken);
    });
    return out.join('\n');
  }
  document.addEventListener('copy', function (e) {
    if (/^(INPUT|TEXTAREA)$/.test(e.target.tagName) || String(getSelection()) || !current && !chosen.length) return;
    e.clipboardData.setData('text/plain', spoken()); e.preventDefault();
  });
  document.addEventListener('paste', function (e) {
    if (/^(INPUT|TEXTAREA)$/.test(e.target.tagName)) return;
    var text = e.clipboardData.getData('text/plain');
    if (!text.trim()) return;
    e.preventDefault();
    $('#pastebox').open = true; $('#pastetext').value = text;
    $('#pastebox').scrollIntoView({ block: 'center' });
    $('#pasteform').requestSubmit();
  });
  function toggle(path) { choose(chosen.indexOf(path) >= 0 ? chosen.filter(function (p) { return p !== path; }) : chosen.concat(path)); }
  function sel(what) {
    if (what === 'none') return choose([]);
    if (what === 'copy') { navigator.clipboard.writeText(spoken()).then(function () { tell('Copied as text.'); }, function () { tell('The browser does not allow copying here: press Ctrl C.'); }); return; }
    if (what === 'keep') {
      var title = prompt('Title of the template', '');
      while (title && title.length > 200) title = prompt('At most 200 characters; these are ' + title.length + '.', title);
      if (title) htmx.ajax('POST', url('template'), { source: '#message', target: '#message', swap: 'innerHTML', values: { title: title, at: picked().join(' ') } });
      return;
    }
    if (what === 'delete') return edit({ op: 'delete', at: picked().join(' ') });
    edit({ op: 'wrap', rule: what, at: picked().join(' ') });
  }
  document.addEventListener('focusin', function (e) {
    var r = e.target.closest && e.target.closest('.row');
    if (r && r.dataset.path !== current) go(r, false);
  });

  // ---- keys
  document.addEventListener('keydown', function (e) {
    if ($('#keys').open) return;
    var t = e.target, mod = e.ctrlKey || e.metaKey, field = /^(INPUT|TEXTAREA|SELECT)$/.test(t.tagName);
    if (mod && !field && (e.key === 'z' || e.key === 'Z' || e.key === 'y')) {
      e.preventDefault();
      return edit({ op: e.key === 'y' || e.shiftKey ? 'redo' : 'undo' });
    }
    if ((t.name === 'dose' || t.name === 'mend') && (e.key === 'Enter' || e.key === 'Escape')) {
      e.preventDefault();
      if (e.key === 'Escape') t.value = t.dataset.was;
      var r = t.closest('.row');
      if (t.value !== t.dataset.was) t.dispatchEvent(new Event('change', { bubbles: true }));
      t.dataset.was = t.value;
      wantFocus = true;
      return go(r);
    }
    if (t.classList.contains('in') && e.key === 'Enter') { e.preventDefault(); return t.blur(); }
    if (t.classList.contains('in') && e.key === 'Escape') { t.value = t.dataset.was; return t.blur(); }
    if (t.closest && t.closest('.menu')) {
      var items = $$('button:not([hidden])', menu), i = items.indexOf(t);
      if (e.key === 'ArrowDown') { e.preventDefault(); items[(i + 1) % items.length].focus(); }
      if (e.key === 'ArrowUp') { e.preventDefault(); items[(i + items.length - 1) % items.length].focus(); }
      if (e.key === 'Escape') { var opener = close(); if (opener) opener.focus(); }
      return;
    }
    if (t.classList.contains('w-bar')) {
      var bars = $$('.w-bar'), n = bars.indexOf(t);
      if (e.key === 'ArrowRight' && bars[n + 1]) { e.preventDefault(); bars[n + 1].focus(); }
      if (e.key === 'ArrowLeft' && bars[n - 1]) { e.preventDefault(); bars[n - 1].focus(); }
      return;
    }
    if (e.key === 'Escape' && $('#proposal')) { e.preventDefault(); return leave(); }
    if (e.key === 'Enter' && t.id === 'proposal') { e.preventDefault(); var take = $('[data-take]'); if (take) take.click(); return; }
    if (field || mod) return;
    if (e.key === 'f' || e.key === 'o') { e.preventDefault(); return propose(e.key === 'f' ? 'fit' : 'order'); }
    if (e.key === 'b') { e.preventDefault(); return tap(); }
    if (e.key === 'm') {
      var first = current && $('.finding [data-go="' + current + '"]'), btn = first ? $('[data-mend]', first.closest('.finding')) : $('[data-mend]');
      if (btn) { e.preventDefault(); return btn.click(); }
    }
    if (e.key === '/' || e.key === 'a') { e.preventDefault(); return $('#add').focus(); }
    var on = t.closest && t.closest('.row');
    if (!on || t !== on) {
      if (t === document.body && (e.key === 'ArrowDown' || e.key === 'ArrowUp') && rows().length) { e.preventDefault(); go(row(current) || rows()[0]); }
      return;
    }
    var list = rows(), at = list.indexOf(on), path = on.dataset.path;
    var done = true;
    switch (e.key) {
      case 'ArrowDown': case 'ArrowUp': {
        var by = e.key === 'ArrowDown' ? 1 : -1;
        if (e.altKey) { act(by > 0 ? 'down' : 'up', path); break; }
        var next = list[at + by];
        if (!next) { if (by > 0) $('#add').focus(); break; }
        if (e.shiftKey) choose(chosen.concat([path, next.dataset.path]).filter(function (p, i, all) { return all.indexOf(p) === i; }));
        go(next); break;
      }
      case ' ': toggle(path); break;
      case 'Enter': { var d = $('input[name=dose], input[name=mend]', on); d.focus(); d.select(); break; }
      case '+': case '=': edit({ op: 'level', at: path, by: '1' }); break;
      case '-': edit({ op: 'level', at: path, by: '-1' }); break;
      case 's': case 'S': act('sides-next', path); break;
      case 'c': case 'C': sel('chain'); break;
      case 'r': case 'R': sel('rounds'); break;
      case 'l': case 'L': sel('flow'); break;
      case 'u': case 'U': sel('build up'); break;
      case 'w': act('words', path); break;
      case 'W': act('block-words', path); break;
      case 'd': case 'D': act('duplicate', path); break;
      case 'n': case 'N': act('note', path); break;
      case 'k': case 'K': act('lock', path); break;
      case 'Delete': case 'Backspace': act('delete', path); break;
      case 'Escape': choose([]); break;
      default: done = false;
    }
    if (done) e.preventDefault();
  });

  // ---- the finger on the wave: what is on at that moment
  var looked = 0, lookAt = -1, lookTimer = 0;
  function moment(e) {
    var svg = e.target.closest && e.target.closest('.wave-box .wave');
    if (!svg || !svg.dataset.whole || from && Math.abs(e.clientX - startX) >= 8) return;
    var b = svg.getBoundingClientRect(), x = (e.clientX - b.left) / b.width * svg.viewBox.baseVal.width, at = Math.floor((x - 8) / (svg.viewBox.baseVal.width - 10) * Number(svg.dataset.whole) / 1000);
    if (at < 0 || at === lookAt) return;
    lookAt = at;
    clearTimeout(lookTimer);
    lookTimer = setTimeout(function () {
      var mine = ++looked;
      fetch('/sessions/' + bench().dataset.id + '/moment?at=' + at, { headers: { 'HX-Request': 'true' } }).then(function (r) { return r.ok && r.status === 200 ? r.text() : ''; }).then(function (t) {
        var box = $('#moment');
        if (mine !== looked || !box) return;
        box.innerHTML = t; box.hidden = !t; // our own words and figure, escaped by the server
      }).catch(function () {});
    }, 90);
  }
  // It goes when the pointer has left both the wave and what is shown of it.
  var momentAway = 0;
  document.addEventListener('pointermove', function (e) {
    var box = $('#moment');
    if (!box || box.hidden) return;
    var on = e.target.closest && e.target.closest('.wave-box, #moment');
    if (on) { clearTimeout(momentAway); momentAway = 0; } else if (!momentAway) momentAway = setTimeout(function () { momentAway = 0; looked++; lookAt = -1; var b = $('#moment'); if (b && !b.contains(document.activeElement)) b.hidden = true; }, 500);
  });
  document.addEventListener('pointermove', moment);
  document.addEventListener('pointerdown', moment);

  // ---- dragging a bar of the wave onto another moves its row there
  var from = null, startX = 0, dragged = false;
  document.addEventListener('pointerdown', function (e) { var b = e.target.closest && e.target.closest('.w-bar'); from = b; startX = e.clientX; dragged = false; if (b) e.preventDefault(); });
  document.addEventListener('dragstart', function (e) { if (e.target.closest && e.target.closest('.w-bar')) e.preventDefault(); });
  document.addEventListener('pointerup', function (e) {
    if (!from) return;
    var start = from; from = null;
    if (Math.abs(e.clientX - startX) < 8) return;
    dragged = true;
    setTimeout(function () { dragged = false; }, 50);
    var best = null, least = Infinity; // the nearest bar along the wave
    $$('.w-bar').forEach(function (b) { var r = b.getBoundingClientRect(), d = e.clientX < r.left ? r.left - e.clientX : e.clientX > r.right ? e.clientX - r.right : 0; if (d < least) { least = d; best = b; } });
    if (!best || best.dataset.row === start.dataset.row) return;
    var to = best.dataset.row.split('.').map(Number);
    if (e.clientX > startX) to[2]++;
    edit({ op: 'move', at: start.dataset.row, to: to.join('.') });
  });

  // ---- the add line
  var add = $('#add'), timer = 0, option = -1;
  var options = function () { return $$('#near [role=option]'); };
  function understand() {
    option = -1;
    htmx.ajax('GET', url('understand') + '?line=' + encodeURIComponent(add.value) + '&after=' + encodeURIComponent(current), { source: add, target: '#understood', swap: 'outerHTML' });
    localStorage.setItem('wavekine.line.' + bench().dataset.id, add.value);
  }
  add.addEventListener('input', function () { clearTimeout(timer); timer = setTimeout(understand, 90); });
  function pick(li) {
    if (li.dataset.piece) { add.value = ''; localStorage.removeItem('wavekine.line.' + bench().dataset.id); edit({ op: 'insert', piece: li.dataset.piece, after: current }, false).then(understand); return; }
    add.value = li.dataset.name + ' ';
    add.focus(); understand();
  }
  document.addEventListener('click', function (e) { var li = e.target.closest('#near [role=option]'); if (li) pick(li); });
  function mark(i) {
    var list = options(); if (!list.length) return false;
    option = (i + list.length) % list.length;
    list.forEach(function (li, k) { li.setAttribute('aria-selected', String(k === option)); });
    add.setAttribute('aria-activedescendant', list[option].id);
    return true;
  }
  add.addEventListener('keydown', function (e) {
    if (e.key === 'ArrowDown') { if (mark(option + 1)) e.preventDefault(); }
    else if (e.key === 'ArrowUp') { e.preventDefault(); if (option > 0) mark(option - 1); else { var list = rows(); go(row(current) || list[list.length - 1]); } }
    else if ((e.key === 'Tab' || e.key === 'Enter') && option >= 0 && options()[option]) { e.preventDefault(); pick(options()[option]); }
    else if (e.key === 'Escape') { if (add.value) { add.value = ''; understand(); } else go(row(current) || rows()[0]); }
  });
  $('#addform').addEventListener('submit', function (e) {
    e.preventDefault();
    var line = add.value;
    if (!line.trim()) return;
    clearTimeout(timer);
    edit({ op: 'add', line: line, after: current }, false).then(function () {
      if ($('#message').textContent === '' && add.value === line) { add.value = ''; understand(); }
    });
  });
  // What was read of a movement is put right: only what differs is said.
  var wantNamed = '';
  document.addEventListener('htmx:afterSwap', function (e) {
    if (e.detail.target.id !== 'named' || !wantNamed) return;
    var f = $('[data-named-row="' + wantNamed + '"] select');
    wantNamed = '';
    if (f) { f.form.scrollIntoView({ block: 'center' }); f.focus({ preventScroll: true }); }
  });
  document.addEventListener('submit', function (e) {
    var form = e.target;
    if (!form.dataset.namedRow) return;
    e.preventDefault();
    var v = { op: 'inline', at: form.dataset.namedRow };
    var all = e.submitter && e.submitter.dataset.all !== undefined;
    $$('input, select', form).forEach(function (i) {
      var was = i.tagName === 'SELECT' ? (Array.from(i.options).find(function (o) { return o.defaultSelected; }) || i.options[0]).value : i.defaultValue;
      if (all || i.value !== was) v[i.name] = i.value;
    });
    if (Object.keys(v).length === 2) return; // nothing was changed
    edit(v, false);
  });
  document.addEventListener('submit', function (e) {
    if (e.target.id !== 'cutform') return;
    e.preventDefault();
    propose('cut&to=' + encodeURIComponent($('#cutto').value || $('#cutto').placeholder));
  });
  document.addEventListener('submit', function (e) {
    if (e.target.dataset.namedRow) return;
    if (!e.target.classList.contains('section-add')) { if (e.target.closest('[data-block-form]')) e.preventDefault(); return; }
    e.preventDefault();
    edit({ op: 'section-add', title: $('#new-section').value }, false);
  });
  $('#pasteform').addEventListener('submit', function (e) {
    e.preventDefault();
    htmx.ajax('POST', url('paste'), { source: '#pasteform', target: '#pasted', swap: 'innerHTML', values: { text: $('#pastetext').value } });
  });
  document.addEventListener('click', function (e) {
    var b = e.target.closest('[data-paste]');
    if (!b) return;
    edit({ op: 'paste', text: b.dataset.paste, after: current }, false).then(function () {
      if ($('#message').textContent !== '') return;
      $('#pastetext').value = b.dataset.rest; // what was not understood is still there
      if (window.wavekineDrafts) wavekineDrafts.keep($('#pasteform'));
      $('#pasted').textContent = '';
    });
  });
  // What was typed survives a reload.
  var kept = localStorage.getItem('wavekine.line.' + bench().dataset.id);
  if (kept) { add.value = kept; understand(); }
  wire();
  sayAgain();
})();
