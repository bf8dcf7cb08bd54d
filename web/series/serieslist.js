// What is being typed into a field of the brief stays, whatever comes from the server for the others meanwhile.
(function () {
  'use strict';
  document.addEventListener('htmx:oobBeforeSwap', function (e) {
    var at = document.activeElement;
    if (!at || !at.id || !at.closest('#brief-fields')) return;
    var same = e.detail.fragment.querySelector('#' + at.id);
    if (same) same.setAttribute('value', at.value);
  });
})();
