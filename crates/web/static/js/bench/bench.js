// The bench: the design at true scale, its views, the wipe between two of them, the tool in hand.
import * as built from './built.js';
import * as draw from './draw.js';
import { listen } from './gestures.js';
import * as crosshair from './crosshair.js';
import { isTyping, nameOf, wayOf } from '../keys.js';
import { glider } from './glide.js';
import { Layer } from './layer.js';
import * as overlays from './overlays.js';
import { loupe } from './loupe.js';
import * as missing from './missing.js';
import { Places, spaceOf } from './places.js';
import * as sheetview from './sheetview.js';
import { loadImage, missingOf } from './results.js';
import { RULER, measure, rulers } from './rulers.js';
import { TRUE_SCALE, fit, toMm } from './transform.js';
import { see } from './sight.js';

const VIEWS = ['artwork', 'cleaned', 'solid', 'outlines', 'wireframe', 'strayed', 'missed'];

/**
 * @param {HTMLElement} element
 * @returns {() => void} takes the bench off again
 */
export function mount(element) {
  const find = (selector) => element.querySelector(selector);
  const canvas = find('canvas');
  const screen = canvas.getContext('2d');
  const handle = find('.wipe');
  const job = element.dataset.job;
  const unit = element.dataset.unit;
  const state = {
    width: Number(element.dataset.width), height: Number(element.dataset.height),
    view: 'outlines', over: 'artwork', wipe: 0.5, fade: 1, pens: true, peek: false, fitted: true,
    transform: null, space: '', artwork: null, solid: null, solidKey: '', missed: null, missedKey: '', cleaned: null, cleanedKey: '', squared: null, squaredKey: '', frame: '',
    design: null, remembered: null, rememberedKey: '', built: null, builtKey: '', marks: [], preview: null, sheet: null, pointed: null, crosshair: null, grid: 0, pointer: null, moving: false, loupe: false, tool: null, before: null,
  };
  const painted = ['outlines', 'wireframe', 'strayed'];
  const off = new AbortController();
  let loading = new AbortController();
  let waiting = false;

  const layer = new Layer();
  const places = new Places(job);
  const glide = glider((view) => { Object.assign(state, { moving: true, fitted: false, transform: view }); again(); });
  // Counts what changed other than by moving the bench or by the tool in hand.
  let changes = 0;
  let resting = null;

  function redraw() {
    changes += 1;
    again();
  }

  function again() {
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

  function paintView(context, name, c, px) {
    const image = (img) => {
      // Pixels are shown as they are once they are large enough to be looked at one by one.
      context.imageSmoothingEnabled = state.width / img.naturalWidth < 3 * px;
      context.imageSmoothingQuality = 'high';
      context.drawImage(img, 0, 0, state.width, state.height);
    };
    // The artwork lies where its outlines lie, whatever was cropped or turned since.
    const artwork = () => {
      if (state.squared) image(state.squared);
      if (!state.artwork || !state.frame) return;
      context.save();
      const frame = state.frame.split(' ').map(Number);
      context.transform(...frame);
      context.imageSmoothingEnabled = Math.hypot(frame[0], frame[1]) < 3 * px;
      context.imageSmoothingQuality = 'high';
      context.drawImage(state.artwork, 0, 0);
      context.restore();
    };
    const cleaned = () => (state.cleaned ? image(state.cleaned) : artwork());
    if (name === 'artwork') artwork();
    if (name === 'cleaned') cleaned();
    if (name === 'covered') {
      cleaned();
      if (state.design) draw.covered(context, state.design, px, c);
    }
    if (name === 'solid' && state.solid) image(state.solid);
    if (name === 'missed' && state.design) {
      missing.outlines(context, state.design, px, c);
      if (state.missed) image(state.missed);
    }
    if (built.isBuilt(name) && state.built) built.paint(context, state.built, name, { ...state, unit }, px, c);
    if (name === 'sheet' && state.sheet) sheetview.paint(context, state.sheet, px, c, state.pointed);
    if (name === 'remembered' && state.remembered) draw.outlines(context, state.remembered, px, c, state.pens);
    if (painted.includes(name)) {
      if (state.fade < 1) {
        context.globalAlpha = 1 - state.fade;
        cleaned();
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
    if (state.space !== spaceOf(state.view)) {
      // Each space has a place of its own.
      state.space = spaceOf(state.view);
      state.transform = places.of(state.space, { width: w, height: h }) ?? state.transform;
      state.fitted = !places.has(state.space);
    }
    if (state.fitted) {
      const box = sheetview.extent(state.view, state.sheet) ?? built.extent(state.built, state.view, state.width, state.height);
      const inner = fit(box.w, box.h, w - RULER, h - RULER);
      state.transform = { ...inner, x: inner.x + RULER - box.x * inner.scale, y: inner.y + RULER - box.y * inner.scale };
    }
    const t = state.transform;
    const c = colours();
    const px = 1 / t.scale;
    screen.setTransform(ratio, 0, 0, ratio, 0, 0);
    screen.fillStyle = c.ground;
    screen.fillRect(0, 0, w, h);
    const split = t.x + state.wipe * state.width * t.scale;
    const there = state.over !== 'remembered' || state.remembered;
    const wiping = state.over && there && state.over !== state.view && !state.peek;
    const shownView = state.peek ? 'artwork' : state.view;
    const scaled = (context, left, right, name) => {
      context.save();
      context.beginPath();
      context.rect(left, 0, right - left, h);
      context.clip();
      context.translate(t.x, t.y);
      context.scale(t.scale, t.scale);
      context.fillStyle = c.stock;
      if (!['stock', 'sheet'].includes(name)) context.fillRect(0, 0, state.width, state.height);
      paintView(context, name, c, px);
      if (state.grid) overlays.grid(context, state.grid, seen.seen, px, c);
      context.restore();
    };
    const still = (context) => {
      context.fillStyle = c.ground;
      context.fillRect(0, 0, w, h);
      if (!wiping) scaled(context, 0, w, shownView);
      else {
        scaled(context, 0, split, state.over);
        scaled(context, split, w, state.view);
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
      if (state.tool?.still) held(context, (own) => state.tool.still(own, px, seen));
      if (state.preview) held(context, (own) => { if (onStock()) own.transform(...onStock()); overlays.preview(own, state.preview, px); });
      if (state.marks.length) overlays.marks(context, state.marks, (at) => { const [x, y] = overlays.placed(at, onStock()); return [t.x + x * t.scale, t.y + y * t.scale]; });
    };
    const seen = { width: state.width, height: state.height, seen: [...toMm(t, 0, 0), ...toMm(t, w, h)] };
    const held = (context, work) => {
      context.save();
      context.translate(t.x, t.y);
      context.scale(t.scale, t.scale);
      work(context);
      context.restore();
    };
    const key = [changes, state.wipe, state.peek].join(' ');
    const nodes = state.design?.nodes ?? 0;
    const drafted = layer.show(screen, { width: w, height: h, ratio, key, at: t, nodes, moving: state.moving }, still);
    if (drafted) {
      clearTimeout(resting);
      resting = setTimeout(() => { state.moving = false; again(); }, 90);
    }
    const shown = unit === 'in' ? `${(state.width / 25.4).toFixed(3)} in` : `${state.width.toFixed(1)} mm`;
    if (state.crosshair) crosshair.paint(screen, state.crosshair);
    if (state.tool?.paint) held(screen, (own) => state.tool.paint(own, px, seen));
    if ((state.loupe || state.tool?.loupe?.()) && state.pointer) {
      const picture = state.squared ?? state.cleaned;
      const ofPicture = picture ? state.width / picture.naturalWidth : px;
      const pxMm = state.frame ? Math.hypot(...state.frame.split(' ').slice(0, 2).map(Number)) : ofPicture;
      const left = wiping && state.pointer[0] < split;
      loupe(screen, state.pointer, toMm(t, ...state.pointer), { width: w, height: h }, pxMm, c, state, (own) => paintView(screen, left ? state.over : shownView, c, own));
    }
    if (state.view === 'strayed' && !state.peek && state.design) {
      draw.strayedLegend(screen, state.design, RULER + 16, RULER + 26, unit, c);
    }
    const toScreen = ([x, y]) => [t.x + x * t.scale, t.y + y * t.scale];
    if (painted.includes(state.view) && !state.peek && state.design) {
      missing.leftOut(screen, state.design, toScreen, c);
    }
    if (state.view === 'missed' && !state.peek && state.design) {
      missing.places(screen, state.design.missed, toScreen, c);
      missing.legend(screen, state.design, RULER + 16, RULER + 26, c);
    }
    if (!['stock', 'apart', 'sheet'].includes(shownView)) measure(screen, t, state.width, state.height, shown, c);
    rulers(screen, t, w, h, unit, c);
    find('.pens').hidden = state.view !== 'outlines' || !state.design?.strokes.length;
    handle.hidden = !wiping;
    handle.style.left = `${Math.min(w - 20, Math.max(RULER + 20, split))}px`;
    handle.style.top = `${Math.min(h - 20, Math.max(RULER + 20, t.y + state.height * t.scale - 14))}px`;
    handle.setAttribute('aria-valuenow', String(Math.round(state.wipe * 100)));
    // Where the piece lies: for the tools, and for whoever has to find a place of it on the screen.
    see(canvas, t);
    const view = `${t.scale} ${t.x} ${t.y}`;
    if (canvas.dataset.view !== view) {
      canvas.dataset.view = view;
      places.keep(state.space, state, { width: w, height: h });
      element.dispatchEvent(new Event('moved'));
    }
    tell();
  }

  function tell() {
    const zoom = `${Math.round((state.transform.scale / TRUE_SCALE) * 100)} %`;
    if (!state.pointer) { find('.where').textContent = zoom; return; }
    const [x, y] = toMm(state.transform, ...state.pointer).map((mm) => (unit === 'in' ? (mm / 25.4).toFixed(2) : mm.toFixed(1)));
    find('.where').textContent = `x ${x}  y ${y} ${unit}  ·  ${zoom}`;
  }

  /** From the design to the stock, where that is what is seen. */
  const onStock = () => (state.view === 'stock' && !state.peek ? state.built?.stock?.map : null);
  const looksAt = (name) => state.view === name || state.over === name;

  /** Fetches what a result draws; the old one stays until the new one is there. */
  async function load(key) {
    loading.abort();
    loading = new AbortController();
    const { signal } = loading;
    const { frame } = element.dataset;
    try {
      const next = await missingOf(state, { ...element.dataset, key }, looksAt, screen, signal);
      if (signal.aborted) return;
      Object.assign(state, next, { frame, width: Number(element.dataset.width), height: Number(element.dataset.height) });
      element.dataset.shown = key;
      element.dataset.built = state.builtKey;
      element.dataset.missed = state.missedKey;
      tellMissed();
      redraw();
      element.dispatchEvent(new Event('drawn'));
    } catch {
      if (!signal.aborted) document.getElementById('problem-notice').textContent = 'The outlines could not be loaded; reload the page.';
    }
  }

  const reload = () => load(element.dataset.key);

  function choose(view) {
    state.view = view;
    for (const b of element.querySelectorAll('button[data-view]')) b.setAttribute('aria-pressed', String(b.dataset.view === view));
    if (looksAt('solid') && state.solidKey !== element.dataset.solid) reload();
    if (looksAt('missed') && state.missedKey !== element.dataset.key) reload();
    if (built.isBuilt(view) && state.builtKey !== element.dataset.key) reload();
    tellMissed();
    redraw();
  }

  /** What the letters of the view *missed* say, for those who hear the page. */
  function tellMissed() {
    const told = state.view === 'missed' && state.design ? missing.words(state.design).map(([, text]) => text) : [];
    canvas.setAttribute('aria-description', told.join(', '));
  }

  const on = (target, name, listener, options = {}) => target.addEventListener(name, listener, { signal: off.signal, ...options });

  const { zoom, place } = listen(canvas, state, { redraw: again, tell: () => tell(), glide }, off.signal);
  crosshair.listen(canvas, state, { redraw: again, unit }, off.signal);
  const middle = () => state.pointer ?? [canvas.clientWidth / 2, canvas.clientHeight / 2];

  // The tool in hand, and the view that an open line asks for.
  on(element, 'take', ({ detail }) => {
    Object.assign(state, { tool: detail, crosshair: null });
    canvas.style.cursor = detail?.cursor ?? '';
    redraw();
  });
  on(element, 'look', ({ detail }) => {
    if (detail) state.before ??= [state.view, state.over];
    const [view, over] = detail ? [detail, ''] : (state.before ?? [state.view, state.over]);
    if (!detail) state.before = null;
    state.over = over;
    find('[data-over]').value = over;
    choose(view);
  });
  on(element, 'again', redraw);
  on(element, 'tick', again);
  on(element, 'sheet', ({ detail }) => { Object.assign(state, { sheet: detail, pointed: null }); redraw(); });
  on(element, 'pointed', ({ detail }) => { state.pointed = detail; redraw(); });
  // What lies over every view.
  on(element, 'marks', ({ detail }) => { state.marks = detail; redraw(); });
  on(element, 'preview', ({ detail }) => { state.preview = detail ? new Path2D(detail) : null; redraw(); });
  on(element, 'grid', ({ detail }) => { state.grid = detail; redraw(); });
  on(element, 'zoom-to', ({ detail: at }) => {
    const [x, y] = overlays.placed(at, onStock());
    const scale = Math.max(state.transform.scale, TRUE_SCALE * 6);
    glide(state.transform, { scale, x: (canvas.clientWidth + RULER) / 2 - x * scale, y: (canvas.clientHeight + RULER) / 2 - y * scale });
  });

  // The wipe.
  const wipeTo = (fraction) => { state.wipe = Math.min(1, Math.max(0, fraction)); again(); };
  on(handle, 'pointerdown', (event) => handle.setPointerCapture(event.pointerId));
  on(handle, 'pointermove', (event) => {
    if (handle.hasPointerCapture(event.pointerId)) wipeTo(toMm(state.transform, ...place(event))[0] / state.width);
  });
  on(handle, 'keydown', (event) => {
    if (nameOf(event, 'wipe') !== 'move') return;
    event.preventDefault();
    wipeTo(state.wipe + 0.01 * wayOf(event)[0] * (event.shiftKey ? 10 : 1));
  });

  // The view bar.
  for (const button of element.querySelectorAll('button[data-view]')) on(button, 'click', () => choose(button.dataset.view));
  on(find('[data-over]'), 'change', (event) => { state.over = event.target.value; choose(state.view); });
  on(find('[data-fade]'), 'input', (event) => { state.fade = Number(event.target.value) / 100; redraw(); });
  on(find('[data-pens]'), 'change', (event) => { state.pens = event.target.checked; redraw(); });
  on(find('[data-fit]'), 'click', () => { state.fitted = true; redraw(); });
  const look = (now) => {
    state.loupe = now;
    find('[data-loupe]').setAttribute('aria-pressed', String(now));
    redraw();
  };
  on(find('[data-loupe]'), 'click', () => look(!state.loupe));
  const peek = (now) => { state.peek = now; redraw(); };
  on(find('[data-peek]'), 'pointerdown', () => peek(true));
  for (const name of ['pointerup', 'pointerleave']) on(find('[data-peek]'), name, () => peek(false));
  on(document, 'keydown', (event) => {
    const name = isTyping(event) ? null : nameOf(event, 'view');
    if (name === 'artwork' && !event.repeat) peek(true);
    if (name === 'next') choose(VIEWS[(VIEWS.indexOf(state.view) + 1) % VIEWS.length]);
    if (name === 'fit') { state.fitted = true; redraw(); }
    if (name === 'loupe') look(!state.loupe);
    if (name === 'put-down' && state.tool) element.dispatchEvent(new Event('down-tools'));
    if (name === 'nearer') zoom(1.25, middle());
    if (name === 'farther') zoom(0.8, middle());
    if (name === 'pan') {
      event.preventDefault();
      const [x, y] = wayOf(event);
      const t = state.transform;
      glide(t, { ...t, x: t.x - 80 * x, y: t.y - 80 * y });
    }
  });
  on(document, 'keyup', (event) => { if (event.key.toLowerCase() === 'a') peek(false); });
  on(window, 'blur', () => peek(false));
  on(window, 'pagehide', () => places.store());

  // A step that is set beside what is now is wiped over it.
  on(document, 'click', ({ target }) => {
    if (!target.closest?.('[data-compare]')) return;
    state.over = find('[data-over]').value = 'remembered';
    if (built.isBuilt(state.view) || state.view === 'sheet') choose('outlines');
  });
  on(document, 'traced', ({ detail }) => {
    Object.assign(element.dataset, { key: detail.key, solid: detail.solid, cleaned: detail.cleaned, frame: detail.frame, remembered: detail.remembered, width: detail.width, height: detail.height });
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
