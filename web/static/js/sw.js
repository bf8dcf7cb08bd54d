// Leading a class works without the network once its page was loaded: files that carry their hash
// come from the cache, the lead page from the network first and from the cache when there is none.
'use strict';
const FILES = 'wavekine-files', PAGES = 'wavekine-pages', MOVERS = 'wavekine-movers';
self.addEventListener('install', () => self.skipWaiting());
self.addEventListener('activate', (e) => e.waitUntil(self.clients.claim()));

self.addEventListener('message', (e) => {
  if (e.data && e.data.keepMover) {
    e.waitUntil((async () => {
      const pages = await caches.open(MOVERS), files = await caches.open(FILES), k = e.data.keepMover;
      await Promise.all(k.pages.map(async (p) => { const got = await fetch(p).catch(() => null); if (got && got.ok && !got.redirected) await pages.put(p, got); }));
      await Promise.all(k.files.map(async (f) => { if (f && !(await files.match(f, { ignoreVary: true }))) await files.add(f).catch(() => {}); }));
      // what tomorrow's page shows is there too
      await Promise.all(k.pages.map(async (p) => {
        const had = await pages.match(p, { ignoreVary: true });
        const text = had ? await had.text() : '';
        await Promise.all(Array.from(new Set(text.match(/\/figures\/[^"#\\ ]+\.svg\?v=[0-9a-f]+/g) || []), async (f) => { if (!(await files.match(f, { ignoreVary: true }))) await files.add(f).catch(() => {}); }));
      }));
      if (e.source) e.source.postMessage({ kept: true });
    })());
    return;
  }
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
  // A mover's page and its sheet: from the network, or as they were kept; a page that was ended is ended here too.
  if (e.request.mode === 'navigate' && /^\/(m|open)\/[^/]+(\/sheet)?$/.test(url.pathname)) {
    e.respondWith((async () => {
      const cache = await caches.open(MOVERS);
      const kept = async () => await cache.match(e.request, { ignoreVary: true }) || (/\/sheet$/.test(url.pathname) ? undefined : await cache.match(url.pathname, { ignoreVary: true }));
      try {
        const got = await fetch(e.request);
        if (got.ok && !got.redirected) await cache.put(e.request, got.clone());
        if (got.status === 404) await Promise.all((await cache.keys()).filter((r) => new URL(r.url).pathname.split('/')[2] === url.pathname.split('/')[2]).map((r) => cache.delete(r)));
        return got.status >= 500 && (await kept()) || got;
      } catch (err) {
        const had = await kept();
        if (had) return had;
        throw err;
      }
    })());
    return;
  }
  if (e.request.mode === 'navigate' && (/^\/sessions\/[^/]+\/lead$/.test(url.pathname) || /^\/room\/[^/]+$/.test(url.pathname))) {
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
