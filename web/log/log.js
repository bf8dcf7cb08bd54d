// What was led on this browser and is not with the server: waiting, or refused with the reason. A note can be put
// right here and the class sent again; nothing is thrown away without being asked.
(function () {
  'use strict';
  var place = document.getElementById('waiting');
  function el(tag, text, cls) { var e = document.createElement(tag); if (text) e.textContent = text; if (cls) e.className = cls; return e; }
  function button(text, title, on) { var b = el('button', text, 'btn tiny'); b.type = 'button'; b.append(Object.assign(el('span', ' ' + title, 'sr'))); b.addEventListener('click', on); return b; }
  function id() { var b = new Uint8Array(12); crypto.getRandomValues(b); return Array.from(b, function (x) { return x.toString(16).padStart(2, '0'); }).join(''); }
  function when(run) { return new Date(run.started).toLocaleString('en-GB', { weekday: 'short', day: 'numeric', month: 'short', hour: '2-digit', minute: '2-digit' }); }
  function download(run) {
    var a = el('a'); a.href = URL.createObjectURL(new Blob([JSON.stringify(run, null, 2)], { type: 'application/json' }));
    a.download = 'led-class.json'; a.click(); setTimeout(function () { URL.revokeObjectURL(a.href); }, 1000);
  }
  function again(run, fresh) { wavekine.drop(run.id); if (fresh) run.id = id(); wavekine.keep(run).then(function (r) { if (r.state === 'saved') location.reload(); else show(); }); }

  function refused(key, r) {
    var li = el('li'), run = r.run || {};
    li.append(el('h3', (run.title || 'A class') + ', ' + when(run)), el('p', 'The server refused it: ' + r.says + '.', 'stop-ink'));
    (run.events || []).forEach(function (e, i) {
      if (e.does !== 'note') return;
      var label = el('label', 'Note '), input = el('input'); // eslint-disable-line
      input.value = e.text; input.maxLength = 500; input.size = 50; input.id = 'note-' + key + '-' + i;
      input.addEventListener('input', function () { e.text = input.value; var all = wavekine.refused(); if (all[key]) { all[key].run = run; wavekine.write('wavekine.refused', all); } });
      label.append(input); li.append(label);
    });
    var p = el('p');
    p.append(button('Send again', run.title, function () { again(run); }));
    if (r.status === 409) p.append(' ', button('Send as a class of its own', run.title, function () { again(run, true); }));
    p.append(' ', button('Download', run.title, function () { download(run); }), ' ', button('Throw away', run.title, function () { if (confirm('Throw away ' + (run.title || 'this class') + '? It is nowhere else.')) { wavekine.drop(key); show(); } }));
    li.append(p);
    return li;
  }
  function show() {
    var box = wavekine.outbox(), no = wavekine.refused(), ul = el('ul', '', 'lines');
    Object.keys(no).forEach(function (k) { if (!no[k].run || !no[k].run.teacher || no[k].run.teacher === wavekine.me) ul.append(refused(k, no[k])); });
    Object.keys(box).forEach(function (k) {
      var li = el('li'), own = !box[k].teacher || box[k].teacher === wavekine.me;
      li.append(el('h3', (own ? box[k].title : 'A class led by another teacher') + ', ' + when(box[k])), el('p', own ? 'Waits for the server, and is sent by itself.' : 'Is sent when they sign in on this browser.', 'muted'));
      ul.append(li);
    });
    place.hidden = !ul.children.length;
    place.replaceChildren(el('h2', 'Not saved yet'), ul);
  }
  document.addEventListener('wavekine:sent', function (e) { if (e.detail.ok) location.reload(); else show(); });
  show();
})();
