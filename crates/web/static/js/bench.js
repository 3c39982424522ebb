// The bench: the design at true scale, its views, the wipe between two of them, zoom and pan.
import * as draw from './draw.js';
import { isTyping } from './keys.js';
import { RULER, measure, rulers } from './rulers.js';
import { TRUE_SCALE, fit, toMm, zoomAt } from './transform.js';

const VIEWS = ['artwork', 'solid', 'outlines', 'wireframe', 'strayed'];
const MARGIN = 64;

function loadImage(address, signal) {
  return new Promise((resolve, reject) => {
    const image = new Image();
    image.onload = () => resolve(image);
    image.onerror = reject;
    signal?.addEventListener('abort', () => { image.src = ''; reject(signal.reason); });
    image.src = address;
  });
}

/**
 * @param {HTMLElement} element
 * @returns {() => void} takes the bench off again
 */
export function mount(element) {
  const find = (selector) => element.querySelector(selector);
  const canvas = find('canvas');
  const context = canvas.getContext('2d');
  const handle = find('.wipe');
  const job = element.dataset.job;
  const unit = element.dataset.unit;
  const state = {
    width: Number(element.dataset.width), height: Number(element.dataset.height),
    view: 'outlines', over: 'artwork', wipe: 0.5, fade: 1, pens: true, peek: false, fitted: true,
    transform: null, artwork: null, solid: null, solidKey: '', design: null, pointer: null,
  };
  const off = new AbortController();
  let loading = new AbortController();
  let waiting = false;

  function redraw() {
    if (waiting) return;
    waiting = true;
    requestAnimationFrame(() => { waiting = false; paint(); });
  }

  function colours() {
    const style = getComputedStyle(element);
    const value = (name) => style.getPropertyValue(name).trim();
    return {
      ground: value('--ground'), ruler: value('--ruler'), soft: value('--ink-2'), ink: value('--ink'),
      stock: value('--stock'), cut: value('--cut'), halo: value('--halo'), accent: '#17786b', dots: value('--dots'),
    };
  }

  function paintView(name, c, px) {
    const image = (img) => {
      // Pixels are shown as they are once they are large enough to be looked at one by one.
      context.imageSmoothingEnabled = state.width / img.naturalWidth < 3 * px;
      context.imageSmoothingQuality = 'high';
      context.drawImage(img, 0, 0, state.width, state.height);
    };
    if (name === 'artwork' && state.artwork) image(state.artwork);
    if (name === 'solid' && state.solid) image(state.solid);
    if (name === 'outlines' || name === 'wireframe' || name === 'strayed') {
      if (state.artwork && state.fade < 1) {
        context.globalAlpha = 1 - state.fade;
        image(state.artwork);
        context.globalAlpha = 1;
      }
      if (state.design) draw[name](context, state.design, px, c, state.pens);
    }
  }

  function paint() {
    const ratio = window.devicePixelRatio || 1;
    const { clientWidth: w, clientHeight: h } = canvas;
    if (!w || !h) return;
    if (canvas.width !== Math.round(w * ratio) || canvas.height !== Math.round(h * ratio)) {
      canvas.width = Math.round(w * ratio);
      canvas.height = Math.round(h * ratio);
    }
    if (state.fitted) {
      const inner = fit(state.width, state.height, w - RULER, h - RULER, Math.min(MARGIN, w / 10, h / 10));
      state.transform = { ...inner, x: inner.x + RULER, y: inner.y + RULER };
    }
    const t = state.transform;
    const c = colours();
    const px = 1 / t.scale;
    context.setTransform(ratio, 0, 0, ratio, 0, 0);
    context.fillStyle = c.ground;
    context.fillRect(0, 0, w, h);
    const split = t.x + state.wipe * state.width * t.scale;
    const wiping = state.over && state.over !== state.view && !state.peek;
    const scaled = (left, right, name) => {
      context.save();
      context.beginPath();
      context.rect(left, 0, right - left, h);
      context.clip();
      context.translate(t.x, t.y);
      context.scale(t.scale, t.scale);
      context.fillStyle = c.stock;
      context.fillRect(0, 0, state.width, state.height);
      paintView(name, c, px);
      context.restore();
    };
    if (state.peek) scaled(0, w, 'artwork');
    else if (!wiping) scaled(0, w, state.view);
    else {
      scaled(0, split, state.over);
      scaled(split, w, state.view);
      const [top, bottom] = [t.y - 18, t.y + state.height * t.scale + 6];
      context.strokeStyle = c.accent;
      context.lineWidth = 1.5;
      context.beginPath();
      context.moveTo(split, top);
      context.lineTo(split, bottom);
      context.stroke();
      context.font = '11.5px "Public Sans", sans-serif';
      context.fillStyle = c.soft;
      context.fillText(state.view, split + 8, top + 8);
      context.fillText(state.over, split - 8 - context.measureText(state.over).width, top + 8);
    }
    const shown = unit === 'in' ? `${(state.width / 25.4).toFixed(3)} in` : `${state.width.toFixed(1)} mm`;
    if (state.view === 'strayed' && !state.peek && state.design) {
      draw.strayedLegend(context, state.design, RULER + 16, h - 34, unit, c);
    }
    measure(context, t, state.width, state.height, shown, c);
    rulers(context, t, w, h, unit, c);
    find('.pens').hidden = state.view !== 'outlines' || !state.design?.strokes.length;
    handle.hidden = !wiping;
    handle.style.left = `${Math.min(w - 20, Math.max(RULER + 20, split))}px`;
    handle.style.top = `${Math.min(h - 20, Math.max(RULER + 20, t.y + state.height * t.scale - 14))}px`;
    handle.setAttribute('aria-valuenow', String(Math.round(state.wipe * 100)));
    tell();
  }

  function tell() {
    const zoom = `${Math.round((state.transform.scale / TRUE_SCALE) * 100)} %`;
    if (!state.pointer) { find('.where').textContent = zoom; return; }
    const [x, y] = toMm(state.transform, ...state.pointer).map((mm) => (unit === 'in' ? (mm / 25.4).toFixed(2) : mm.toFixed(1)));
    find('.where').textContent = `x ${x}  y ${y} ${unit}  ·  ${zoom}`;
  }

  const needsSolid = () => state.view === 'solid' || state.over === 'solid';

  /** Fetches what a result draws; the old one stays until the new one is there. */
  async function load(key, solidKey) {
    loading.abort();
    loading = new AbortController();
    const { signal } = loading;
    const base = `/jobs/${job}/results/${key}`;
    try {
      const answer = await fetch(`${base}/outlines.json`, { signal });
      if (!answer.ok) throw new Error(`outlines: ${answer.status}`);
      const design = draw.prepare(await answer.json(), context);
      const solid = needsSolid() && state.solidKey !== solidKey ? await loadImage(`${base}/solid.png?${solidKey}`, signal) : null;
      if (signal.aborted) return;
      Object.assign(state, { design, width: Number(element.dataset.width), height: Number(element.dataset.height) });
      if (solid) Object.assign(state, { solid, solidKey });
      element.dataset.shown = key;
      redraw();
    } catch (error) {
      if (!signal.aborted) document.getElementById('problem-notice').textContent = 'The outlines could not be loaded; reload the page.';
    }
  }

  const reload = () => load(element.dataset.key, element.dataset.solid);

  function choose(view) {
    state.view = view;
    for (const b of element.querySelectorAll('[data-view]')) b.setAttribute('aria-pressed', String(b.dataset.view === view));
    if (needsSolid() && state.solidKey !== element.dataset.solid) reload();
    redraw();
  }

  function zoom(factor, at) {
    const [x, y] = at ?? [canvas.clientWidth / 2, canvas.clientHeight / 2];
    state.transform = zoomAt(state.transform, factor, x, y);
    state.fitted = false;
    redraw();
  }

  function place(event) {
    const box = canvas.getBoundingClientRect();
    return [event.clientX - box.left, event.clientY - box.top];
  }

  const on = (target, name, listener, options = {}) => target.addEventListener(name, listener, { signal: off.signal, ...options });

  // Zoom to the cursor, pan by drag or by two fingers.
  const fingers = new Map();
  on(canvas, 'wheel', (event) => {
    event.preventDefault();
    if (event.shiftKey) {
      state.transform = { ...state.transform, x: state.transform.x - event.deltaY };
      state.fitted = false;
      redraw();
    } else zoom(Math.exp(-event.deltaY * (event.ctrlKey ? 0.01 : 0.0015)), place(event));
  }, { passive: false });
  on(canvas, 'pointerdown', (event) => {
    canvas.setPointerCapture(event.pointerId);
    fingers.set(event.pointerId, place(event));
  });
  on(canvas, 'pointermove', (event) => {
    const at = place(event);
    state.pointer = at;
    const before = fingers.get(event.pointerId);
    if (before) {
      const others = [...fingers].filter(([id]) => id !== event.pointerId).map(([, p]) => p);
      const t = state.transform;
      state.transform = { ...t, x: t.x + (at[0] - before[0]) / (others.length + 1), y: t.y + (at[1] - before[1]) / (others.length + 1) };
      state.fitted = false;
      if (others.length === 1) {
        const gap = (p) => Math.hypot(p[0] - others[0][0], p[1] - others[0][1]) || 1;
        state.transform = zoomAt(state.transform, gap(at) / gap(before), (at[0] + others[0][0]) / 2, (at[1] + others[0][1]) / 2);
      }
      fingers.set(event.pointerId, at);
      redraw();
    } else tell();
  });
  for (const name of ['pointerup', 'pointercancel']) on(canvas, name, (event) => fingers.delete(event.pointerId));
  on(canvas, 'pointerleave', () => { state.pointer = null; tell(); });

  // The wipe.
  const wipeTo = (fraction) => { state.wipe = Math.min(1, Math.max(0, fraction)); redraw(); };
  on(handle, 'pointerdown', (event) => handle.setPointerCapture(event.pointerId));
  on(handle, 'pointermove', (event) => {
    if (handle.hasPointerCapture(event.pointerId)) wipeTo(toMm(state.transform, ...place(event))[0] / state.width);
  });
  on(handle, 'keydown', (event) => {
    const by = { ArrowLeft: -0.01, ArrowRight: 0.01 }[event.key];
    if (by) { event.preventDefault(); wipeTo(state.wipe + by * (event.shiftKey ? 10 : 1)); }
  });

  // The view bar.
  for (const button of element.querySelectorAll('[data-view]')) on(button, 'click', () => choose(button.dataset.view));
  on(find('[data-over]'), 'change', (event) => { state.over = event.target.value; choose(state.view); });
  on(find('[data-fade]'), 'input', (event) => { state.fade = Number(event.target.value) / 100; redraw(); });
  on(find('[data-pens]'), 'change', (event) => { state.pens = event.target.checked; redraw(); });
  on(find('[data-fit]'), 'click', () => { state.fitted = true; redraw(); });
  const peek = (now) => { state.peek = now; redraw(); };
  on(find('[data-peek]'), 'pointerdown', () => peek(true));
  for (const name of ['pointerup', 'pointerleave']) on(find('[data-peek]'), name, () => peek(false));
  on(document, 'keydown', (event) => {
    if (isTyping(event) || event.ctrlKey || event.metaKey || event.altKey) return;
    const key = event.key.toLowerCase();
    if (key === 'a' && !event.repeat) peek(true);
    if (key === 'v') choose(VIEWS[(VIEWS.indexOf(state.view) + 1) % VIEWS.length]);
    if (key === '0') { state.fitted = true; redraw(); }
    if (key === '+' || key === '=') zoom(1.25, state.pointer);
    if (key === '-') zoom(0.8, state.pointer);
    if (key === ' ' && event.target === canvas) event.preventDefault();
  });
  on(document, 'keyup', (event) => { if (event.key.toLowerCase() === 'a') peek(false); });
  on(window, 'blur', () => peek(false));

  on(document, 'traced', ({ detail }) => {
    Object.assign(element.dataset, { key: detail.key, solid: detail.solid, width: detail.width, height: detail.height });
    reload();
  });
  const resized = new ResizeObserver(redraw);
  resized.observe(canvas);
  const dim = window.matchMedia('(prefers-color-scheme: dark)');
  on(dim, 'change', redraw);
  loadImage(`/jobs/${job}/artwork/${element.dataset.artwork}.png`).then((image) => { state.artwork = image; redraw(); }, () => {});
  document.fonts?.ready.then(redraw);
  reload();
  redraw();
  return () => { off.abort(); loading.abort(); resized.disconnect(); };
}
