// Leading a class works without the network once its page was loaded: files that carry their hash
// come from the cache, the lead page from the network first and from the cache when there is none.
'use strict';
const FILES = 'wavekine-files', PAGES = 'wavekine-pages';
self.addEventListener('install', () => self.skipWaiting());
self.addEventListener('activate', (e) => e.waitUntil(self.clients.claim()));

self.addEventListener('message', (e) => {
  if (!e.data || !e.data.keep) return;
  e.waitUntil((async () => {
    const pages = await caches.open(PAGES), files = await caches.open(FILES);
    await pages.add(e.data.keep.page).catch(() => {});
    await Promise.all(e.data.keep.files.map(async (f) => { if (!(await files.match(f))) await files.add(f).catch(() => {}); }));
    if (e.source) e.source.postMessage({ kept: true });
  })());
});

self.addEventListener('fetch', (e) => {
  const url = new URL(e.request.url);
  if (e.request.method !== 'GET' || url.origin !== location.origin) return;
  if (url.pathname.startsWith('/static/') || url.pathname.startsWith('/figures/')) {
    e.respondWith((async () => {
      const cache = await caches.open(FILES);
      const had = await cache.match(e.request, { ignoreVary: true });
      if (had) return had;
      const got = await fetch(e.request);
      if (got.ok) cache.put(e.request, got.clone());
      return got;
    })());
    return;
  }
  if (e.request.mode === 'navigate' && /^\/sessions\/[^/]+\/lead$/.test(url.pathname)) {
    e.respondWith((async () => {
      const cache = await caches.open(PAGES);
      const kept = () => cache.match(e.request, { ignoreVary: true });
      try {
        const got = await fetch(e.request);
        if (got.ok && !got.redirected) cache.put(e.request, got.clone());
        return got.status >= 500 && (await kept()) || got; // a database away is a network away
      } catch (err) {
        const had = await kept();
        if (had) return had;
        throw err;
      }
    })());
  }
});
