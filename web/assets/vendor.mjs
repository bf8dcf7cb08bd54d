// Copies the pinned browser files from node_modules into ../static and writes MANIFEST.json (name,
// package, version, licence, sha256). Run after `npm ci`; the result is committed, so that
// `go build` needs no npm. `node vendor.mjs --check` fails when a committed file differs.
import { createHash } from 'node:crypto'
import { readFileSync, writeFileSync, mkdirSync } from 'node:fs'
import { dirname, join } from 'node:path'
const check = process.argv.includes('--check')
const files = [
  ['../static/js/htmx.min.js', 'htmx.org', 'dist/htmx.min.js'],
  ['../static/js/idiomorph-ext.min.js', 'idiomorph', 'dist/idiomorph-ext.min.js'],
  ['../static/js/Sortable.min.js', 'sortablejs', 'Sortable.min.js'],
  ['../static/fonts/hanken-grotesk-latin-wght-normal.woff2', '@fontsource-variable/hanken-grotesk', 'files/hanken-grotesk-latin-wght-normal.woff2'],
  ['../static/fonts/newsreader-latin-wght-normal.woff2', '@fontsource-variable/newsreader', 'files/newsreader-latin-wght-normal.woff2'],
  ['../static/fonts/newsreader-latin-wght-italic.woff2', '@fontsource-variable/newsreader', 'files/newsreader-latin-wght-italic.woff2'],
  ['../browsertest/testdata/axe.min.js', 'axe-core', 'axe.min.js'],
  ['../licences/npm-htmx.org.txt', 'htmx.org', 'LICENSE'],
  ['../licences/npm-idiomorph.txt', 'idiomorph', 'LICENSE'],
  ['../licences/npm-sortablejs.txt', 'sortablejs', 'LICENSE'],
  ['../licences/npm-hanken-grotesk.txt', '@fontsource-variable/hanken-grotesk', 'LICENSE'],
  ['../licences/npm-newsreader.txt', '@fontsource-variable/newsreader', 'LICENSE'],
  ['../licences/npm-tailwindcss.txt', 'tailwindcss', 'LICENSE'],
  ['../browsertest/testdata/axe-core-licence.txt', 'axe-core', 'LICENSE'],
]
let bad = 0
const manifest = files.map(([to, pkg, path]) => {
  const meta = JSON.parse(readFileSync(join('node_modules', pkg, 'package.json')))
  const body = readFileSync(join('node_modules', pkg, path))
  if (check) { if (!body.equals(readFileSync(to))) { console.error('differs:', to); bad++ } } else { mkdirSync(dirname(to), { recursive: true }); writeFileSync(to, body) }
  return { name: to.replace('../', ''), package: pkg, version: meta.version, license: meta.license, sha256: createHash('sha256').update(body).digest('hex') }
})
const text = JSON.stringify(manifest, null, 2) + '\n'
if (check) { if (readFileSync('MANIFEST.json', 'utf8') !== text) { console.error('differs: MANIFEST.json'); bad++ } } else writeFileSync('MANIFEST.json', text)
process.exit(bad ? 1 : 0)
