// The Size line: the design on its stock, a known length drawn on the artwork, a grid, and the checks.
import { ask, find as lookUp, take } from '../ask.js';
import { millimetres } from '../lengths.js';

const GRID = 'inky-grid';

function measureTool(done) {
  let from = null;
  let to = null;
  return {
    cursor: 'crosshair',
    drags: true,
    down(at) { [from, to] = [at, at]; },
    move(at) { to = at; },
    up(at) { to = at; done([...from, ...to]); },
    cancel() { from = null; },
    settled() {},
    paint(c, own) {
      if (!from) return;
      for (const { colour, width } of [{ colour: '#fffdf7', width: 4 }, { colour: '#17786b', width: 2 }]) {
        c.strokeStyle = colour;
        c.lineWidth = width * own;
        c.beginPath();
        c.moveTo(...from);
        c.lineTo(...to);
        c.stroke();
      }
    },
  };
}

/** Moves the design on its stock. */
function moveTool(place, size, moved) {
  let from = null;
  let to = null;
  const at = () => [place[0] + to[0] - from[0], place[1] + to[1] - from[1]];
  return {
    cursor: 'move',
    down(now) {
      const inside = now[0] >= place[0] && now[0] <= place[0] + size[0] && now[1] >= place[1] && now[1] <= place[1] + size[1];
      [from, to] = inside ? [now, now] : [null, null];
    },
    move(now) { to = now; },
    up(now) {
      if (from && Math.hypot(now[0] - from[0], now[1] - from[1]) > 0.5) { to = now; moved(at()); }
      from = null;
    },
    cancel() { from = null; },
    settled() {},
    paint(c, px) {
      if (!from) return;
      c.strokeStyle = '#17786b';
      c.lineWidth = 2 * px;
      c.setLineDash([5 * px, 3 * px]);
      c.strokeRect(...at(), ...size);
      c.setLineDash([]);
    },
  };
}

/**
 * @param {HTMLElement} element
 * @returns {() => void} takes marks and tools off the bench again
 */
export function mount(element) {
  const bench = document.getElementById('bench');
  const find = (selector) => element.querySelector(selector);
  const { job, unit } = element.dataset;
  const off = new AbortController();
  const on = (target, name, listener) => target.addEventListener(name, listener, { signal: off.signal });
  const send = (name, detail) => bench.dispatchEvent(new CustomEvent(name, { detail }));
  const perUnit = unit === 'in' ? 25.4 : 1;
  let measuring = false;
  let chosen = null;

  // Marks of the checks.
  const marks = () => [...element.querySelectorAll('[data-mark]')].map((b) => ({
    n: b.dataset.mark, x: Number(b.dataset.x), y: Number(b.dataset.y), severity: b.dataset.severity, on: b === chosen,
  }));
  const look = (view) => send('look', view);

  // A look at a remedy before it is done: while it is pointed at or focused.
  let asked = null;
  const remedy = async (button) => {
    if (asked === button) return;
    asked = button;
    send('preview', null);
    find('#remedy-told').textContent = '';
    if (!button) return;
    const { remedy: what, kind, layer, place = '' } = button.dataset;
    const got = await lookUp(job, { remedy: what, kind, layer, place }, find('#problem-checks'), 'remedy').catch(() => null);
    if (asked !== button || !got) return;
    send('preview', got.d);
    // Beside the button, in its own row: nothing below moves while one points at it.
    const told = find('#remedy-told');
    told.textContent = got.told;
    told.title = got.told;
    button.parentElement.append(told);
    element.dataset.looked = what;
  };
  for (const name of ['pointerover', 'focusin']) on(element, name, ({ target }) => { const b = target.closest('[data-remedy]'); if (b) remedy(b); });
  on(element, 'pointerout', ({ target, relatedTarget }) => {
    const b = target.closest('[data-remedy]');
    if (b && !b.contains(relatedTarget) && b !== document.activeElement) remedy(null);
  });
  on(element, 'focusout', ({ target }) => { if (target.closest('[data-remedy]')) remedy(null); });

  on(element, 'click', ({ target }) => {
    const button = target.closest('button');
    if (!button) return;
    if (button.dataset.x) {
      // A place that is chosen is the one that its remedies are for; chosen again, all are.
      chosen = chosen === button ? null : button;
      for (const own of element.querySelectorAll('[data-remedy]')) {
        const nth = chosen?.closest('li') === own.closest('li') ? chosen?.dataset.nth : undefined;
        own.dataset.place = nth ?? '';
        const scope = own.querySelector('[data-scope]');
        if (scope) scope.textContent = nth ? ' this one' : ' all';
      }
      send('marks', marks());
      send('zoom-to', [Number(button.dataset.x), Number(button.dataset.y)]);
    }
    if (button.dataset.remedy) {
      const { remedy: what, kind, layer, place = '' } = button.dataset;
      send('preview', null);
      ask(`/jobs/${job}/remedy`, { remedy: what, kind, layer, place, line: 'size' });
    }
    if (button.dataset.tool === 'measure') {
      measuring = !measuring;
      button.setAttribute('aria-pressed', String(measuring));
      find('#measured').hidden = !measuring;
      if (measuring) {
        look('artwork');
        take(measureTool((line) => {
          const form = find('#measured');
          form.elements.ends.value = line.map((v) => v.toFixed(4)).join(',');
          form.elements.value.value = (Math.hypot(line[2] - line[0], line[3] - line[1]) / perUnit).toFixed(unit === 'in' ? 3 : 2);
          form.elements.value.select();
        }));
      } else {
        onStock();
      }
    }
  });

  // Stock: a known one is taken at once, another size when it is typed.
  const stock = find('#stock');
  on(stock, 'change', () => {
    const own = stock.value === 'own';
    find('#own-stock').hidden = !own;
    if (own) find('#own-width').focus();
    else window.htmx.trigger(stock, 'chosen');
  });

  // The grid is the reader's own: 10 mm, or one inch.
  const ticked = find('[data-grid]');
  const pitch = find('[data-grid-pitch]');
  const kept = JSON.parse(localStorage.getItem(`${GRID}-${unit}`) ?? 'null') ?? { on: false, pitch: unit === 'in' ? 25.4 : 10 };
  const shown = () => {
    send('grid', kept.on ? kept.pitch : 0);
    localStorage.setItem(`${GRID}-${unit}`, JSON.stringify(kept));
  };
  ticked.checked = kept.on;
  pitch.value = String(Number((kept.pitch / perUnit).toFixed(4)));
  on(ticked, 'change', () => { kept.on = ticked.checked; shown(); });
  on(pitch, 'change', async () => {
    const mm = await millimetres(pitch.value);
    if (mm > 0.05 && mm < 5000) kept.pitch = mm;
    pitch.value = String(Number((kept.pitch / perUnit).toFixed(4)));
    shown();
  });
  shown();

  const figures = (text) => text.split(',').map(Number);
  const { place: lies, box } = element.dataset;
  const onStock = () => {
    look('stock');
    take(lies ? moveTool(figures(lies), figures(box), (to) => ask(`/jobs/${job}/size`, { do: 'place', value: to.map((v) => v.toFixed(3)).join(',') })) : null);
  };
  send('marks', marks());
  onStock();
  return () => {
    off.abort();
    send('marks', []);
    send('preview', null);
    take(null);
    look(null);
  };
}
