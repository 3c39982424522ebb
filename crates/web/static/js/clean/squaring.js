// Squaring up: what was found is offered by number, corners are pointed at and moved. The program computes all of it.
import { find } from '../ask.js';

/** @typedef {[number, number]} Point a place in mm */
/** @typedef {{action: {corners: Point[]}, then: object[], said: string}} Offer */

const INK = '#17786b';
/** How near a press has to be, in pixels of the screen; a finger needs more. */
const REACH = { mouse: 14, pen: 16, touch: 26 };

/**
 * @param {string} job
 * @param {{offers: HTMLElement, problem: () => HTMLElement, again: () => void,
 *   taken: (offer: Offer, index: number | null) => void}} page
 */
export function squaring(job, { offers, problem, again, taken }) {
  /** @type {Offer[]} */
  let found = [];
  /** @type {Point[]} */
  let placed = [];
  let dragged = -1;
  let pointed = -1;
  let busy = false;
  /** The step whose corners are moved; none while new ones are pointed at. @type {number | null} */
  let index = null;
  let shown = 1;

  const away = (a, b) => Math.hypot(a[0] - b[0], a[1] - b[1]);
  // Each on a side of its own: what lies within another has the same middle.
  const badge = ({ action: { corners } }, n) => [0, 1].map((c) => (corners[n % 4][c] + corners[(n + 1) % 4][c]) / 2);
  const take = (n) => { if (found[n]) taken(found[n], null); };

  function offer(all) {
    found = all ?? [];
    offers.hidden = found.length === 0;
    offers.replaceChildren(...found.map((one, n) => {
      const button = document.createElement('button');
      button.type = 'button';
      button.className = 'tool';
      button.textContent = `${n + 1} · ${one.said}`;
      button.title = 'Square this up';
      button.addEventListener('click', (event) => { event.stopPropagation(); take(n); });
      const point = (on) => () => { pointed = on ? n : -1; again(); };
      for (const [name, on] of /** @type {[string, boolean][]} */ ([['pointerenter', true], ['focus', true], ['pointerleave', false], ['blur', false]])) button.addEventListener(name, point(on));
      return button;
    }));
    offers.dataset.count = String(found.length);
    again();
  }

  async function confirm() {
    if (placed.length < 4 || busy) return;
    busy = true;
    const corners = placed.flat().join(',');
    const got = await find(job, { corners, draw: index === null ? 'true' : 'false' }, problem(), 'square');
    busy = false;
    if (got) taken(got, index);
    else if (index === null) { placed = []; again(); }
  }

  async function begin() {
    if (index === null) { offer(await find(job, {}, problem(), 'squares')); return; }
    placed = (await find(job, {}, problem(), `steps/${index}/corners`)) ?? [];
    again();
  }

  function drawn(at, reach) {
    const all = index === null ? found.flatMap((one) => one.action.corners) : [];
    const near = all.filter((p) => away(p, at) < reach);
    return near.sort((a, b) => away(a, at) - away(b, at))[0] ?? at;
  }

  function ring(c, corners) {
    const path = new Path2D();
    corners.forEach(([x, y], n) => (n ? path.lineTo(x, y) : path.moveTo(x, y)));
    if (corners.length === 4) path.closePath();
    c.stroke(path);
  }

  function tool(step) {
    index = step;
    placed = [];
    dragged = -1;
    begin();
    return {
      cursor: 'crosshair',
      drags: true,
      loupe: () => dragged >= 0,
      down(at, event) {
        const reach = (REACH[event?.pointerType] ?? REACH.mouse) * shown;
        const held = placed.findIndex((p) => away(p, at) < reach);
        if (held >= 0) { dragged = held; return; }
        const number = found.findIndex((one, n) => away(badge(one, n), at) < reach);
        if (number >= 0 && !placed.length) { pointed = number; return; }
        if (placed.length < 4) {
          placed.push(drawn(at, reach));
          dragged = placed.length - 1;
        }
      },
      move(at) { if (dragged >= 0) placed[dragged] = drawn(at, REACH.mouse * shown); },
      up() {
        if (pointed >= 0 && dragged < 0) { take(pointed); pointed = -1; return; }
        dragged = -1;
        // Moved ones wait until they are taken.
        if (index === null) confirm();
      },
      cancel() { dragged = -1; },
      paint(c, px) {
        shown = px;
        c.lineJoin = 'round';
        found.forEach((one, n) => {
          const chosen = n === pointed;
          for (const [colour, width] of [['#fff', 4], [INK, chosen ? 3 : 1.6]]) {
            c.strokeStyle = colour;
            c.lineWidth = Number(width) * px;
            ring(c, one.action.corners);
          }
          const [x, y] = badge(one, n);
          c.fillStyle = chosen ? INK : '#fff';
          c.strokeStyle = INK;
          c.lineWidth = 1.5 * px;
          c.beginPath();
          c.arc(x, y, 13 * px, 0, 7);
          c.fill();
          c.stroke();
          c.fillStyle = chosen ? '#fff' : INK;
          c.font = `600 ${14 * px}px sans-serif`;
          c.textAlign = 'center';
          c.textBaseline = 'middle';
          c.fillText(String(n + 1), x, y);
        });
        for (const [colour, width] of [['#fff', 4], [INK, 2]]) {
          c.strokeStyle = colour;
          c.lineWidth = Number(width) * px;
          if (placed.length > 1) ring(c, placed);
          for (const [x, y] of placed) {
            c.beginPath();
            c.arc(x, y, 7 * px, 0, 7);
            c.stroke();
          }
        }
      },
    };
  }

  return { tool, take: confirm, end: () => { offer([]); placed = []; } };
}
