// Time of an edit on designs of 5,000 and 20,000 nodes: median and greatest of twenty, ms.
//   node scripts/reference/edits.mjs http://127.0.0.1:8137
// Brings in an SVG of wavy blobs as a job, moves one of them as the page does, and fetches what the
// bench draws from the answer.
const [server] = process.argv.slice(2);
const headers = { 'HX-Request': 'true', Origin: server };

/** An SVG of so many nodes, eight to a blob. */
function blobs(nodes) {
  const side = Math.ceil(Math.sqrt(nodes / 8));
  const paths = [];
  for (let n = 0; n < nodes / 8; n += 1) {
    const [x, y] = [2 + (n % side) * 4, 2 + Math.floor(n / side) * 4];
    const at = (k) => {
      const [angle, r] = [(Math.PI * k) / 4, k % 2 ? 1.2 : 1.6];
      return { p: [x + r * Math.cos(angle), y + r * Math.sin(angle)], v: [-0.45 * Math.sin(angle), 0.45 * Math.cos(angle)] };
    };
    let d = `M${at(0).p}`;
    for (let k = 0; k < 8; k += 1) {
      const [a, b] = [at(k), at(k + 1)];
      d += `C${[a.p[0] + a.v[0], a.p[1] + a.v[1], b.p[0] - b.v[0], b.p[1] - b.v[1], ...b.p].map((v) => v.toFixed(4))}`;
    }
    paths.push(`<path d="${d}Z"/>`);
  }
  const mm = side * 4;
  return `<svg xmlns="http://www.w3.org/2000/svg" width="${mm}mm" height="${mm}mm" viewBox="0 0 ${mm} ${mm}">${paths.join('')}</svg>`;
}

const middle = (list) => [...list].sort((a, b) => a - b)[list.length >> 1];

for (const nodes of [5000, 20000]) {
  const form = new FormData();
  form.append('file', new Blob([blobs(nodes)]), `${nodes}-nodes.svg`);
  const job = (await fetch(`${server}/jobs`, { method: 'POST', headers, body: form })).headers.get('location');
  const page = await (await fetch(`${server}${job}/tidy`)).text();
  let revision = Number(/id="revision"[^>]*value="(\d+)"/.exec(page)[1]);
  const times = { reply: [], drawn: [] };
  for (let n = 0; n < 20; n += 1) {
    const edit = JSON.stringify({ edit: 'move', items: [n], map: [1, 0, 0, 1, 0.1, 0.1] });
    const started = performance.now();
    const answer = await fetch(`${server}${job}/edit`, { method: 'POST', headers, body: new URLSearchParams({ revision, edit }) });
    const text = await answer.text();
    if (!answer.ok) throw new Error(text);
    times.reply.push(performance.now() - started);
    revision = Number(/id="revision"[^>]*value="(\d+)"/.exec(text)[1]);
    const { key } = JSON.parse(answer.headers.get('hx-trigger')).traced;
    await Promise.all(['outlines', 'items'].map(async (what) => (await fetch(`${server}${job}/results/${key}/${what}.json`)).arrayBuffer()));
    times.drawn.push(performance.now() - started);
  }
  const told = (list) => `${middle(list).toFixed(0)} / ${Math.max(...list).toFixed(0)}`;
  console.log(`${nodes} nodes (${job}): reply ${told(times.reply)}, with what is drawn ${told(times.drawn)}`);
}
