// Time from request to reply while a control moves: median and greatest of ten, ms.
//   node scripts/reference/replies.mjs http://127.0.0.1:8137 2MP.png 12MP.png …
//   node scripts/reference/replies.mjs http://127.0.0.1:8137 --photograph portrait.jpg …
// Brings each picture in as a job of its own on a running server and tries values as the page does.
// `INKY_BENCH_PICTURES=DIR cargo bench --package inky-formats` writes the pictures.
import { readFileSync } from 'node:fs';
import { basename } from 'node:path';

const [server, ...files] = process.argv.slice(2);
const headers = { 'HX-Request': 'true', Origin: server };

async function post(path, fields) {
  const started = performance.now();
  const answer = await fetch(server + path, { method: 'POST', headers, body: new URLSearchParams(fields) });
  await answer.text();
  if (!answer.ok) throw new Error(`${path}: ${answer.status}`);
  return { ms: performance.now() - started, result: answer.headers.get('hx-trigger') };
}

async function bringIn(file) {
  const form = new FormData();
  form.append('file', new Blob([readFileSync(file)]), basename(file));
  const answer = await fetch(`${server}/jobs`, { method: 'POST', headers, body: form });
  return answer.headers.get('location');
}

/** The reply, and the outlines that the bench draws from it. */
async function shown(job, fields) {
  const { ms, result } = await post(`${job}/try`, fields);
  const { key } = JSON.parse(result).traced;
  const started = performance.now();
  await (await fetch(`${server}${job}/results/${key}/outlines.json`)).arrayBuffer();
  return { key, reply: ms, drawn: ms + performance.now() - started };
}

const middle = (list) => [...list].sort((a, b) => a - b)[list.length >> 1];

async function measure(name, job, fields, times = 10) {
  const replies = [];
  for (let n = 0; n < times; n += 1) replies.push(await shown(job, fields(n)));
  // Ten values of which each shows the same would be ten looks into the store.
  if (new Set(replies.map((r) => r.key)).size < times / 2) throw new Error(`${name}: the values change nothing`);
  const [reply, drawn] = ['reply', 'drawn'].map((k) => replies.map((r) => r[k]));
  console.log(`${name.padEnd(34)} ${middle(reply).toFixed(0).padStart(5)} / ${Math.max(...reply).toFixed(0).padStart(5)}   with outlines ${middle(drawn).toFixed(0).padStart(5)}`);
}

/** A photograph as tones, by its surroundings, as a silhouette, in rows and in dots. */
async function photograph(name, job) {
  const ways = {
    'its rim': (n) => ({ changed: 'rim_width', mode: 'mono', local: 'on', rim: 'band', rim_width: `${0.5 + n / 20}mm` }),
    tones: (n) => ({ changed: 'even', mode: 'tones', tones: '4', even: String(10 + 5 * n) }),
    'number of tones': (n) => ({ changed: 'tones', mode: 'tones', tones: String(2 + (n % 5)), even: String(n) }),
    'a level by hand': (n) => ({ changed: 'level1', mode: 'tones', tones: '4', levels: 'hand', level1: String(20 + n), level2: '45', level3: '70' }),
    silhouette: (n) => ({ changed: 'narrowest', mode: 'silhouette', narrowest: `${1 + n / 20}mm` }),
    rows: (n) => ({ changed: 'pitch', mode: 'rows', pitch: `${0.9 + n / 50}mm` }),
    dots: (n) => ({ changed: 'pitch', mode: 'dots', pitch: `${1.4 + n / 50}mm` }),
  };
  const choose = async (fields) => {
    const page = await (await fetch(`${server}${job}/inks`)).text();
    const revision = /name="revision" value="(\d+)"/.exec(page)[1];
    await post(`${job}/choose`, { revision, line: 'inks', ...fields });
  };
  await choose({ changed: 'mode', mode: 'mono' });
  await measure(`${name}, by surroundings`, job, () => ({ line: 'inks', changed: 'local', mode: 'mono', local: 'on' }), 1);
  await choose({ changed: 'local', mode: 'mono', local: 'on' });
  for (const [way, fields] of Object.entries(ways)) {
    await choose({ ...fields(0), changed: 'mode' });
    if (fields(0).rim) await choose({ ...fields(0), changed: 'rim' });
    await measure(`${name}, ${way}`, job, (n) => ({ line: 'inks', ...fields(n) }));
  }
}

for (const file of files.filter((f) => f !== '--photograph')) {
  const job = await bringIn(file);
  await fetch(`${server}${job}/trace`);
  const name = basename(file).replace(/\.\w+$/, '');
  if (files.includes('--photograph')) {
    await photograph(name, job);
    continue;
  }
  await measure(`${name}, tolerance`, job, (n) => ({ line: 'trace', changed: 'tolerance', tolerance: `${0.03 + n / 500}mm` }));
  await measure(`${name}, smallest part`, job, (n) => ({ line: 'trace', changed: 'min_part', min_part: `${0.2 + n / 20}mm2` }));
  await measure(`${name}, number of inks`, job, (n) => ({ line: 'inks', changed: 'count', count: String(3 + n) }));
  await measure(`${name}, threshold`, job, (n) => ({ line: 'inks', changed: 'threshold', threshold: String(30 + 3 * n) }));
}
