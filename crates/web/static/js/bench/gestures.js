// What fingers and the wheel do on the bench: zoom to the cursor, pan, and work with the tool in hand.
import { isTyping } from '../keys.js';
import { toMm, zoomAt } from './transform.js';

/** @typedef {{cursor?: string, hint?: string, down?: Function, move?: Function, up?: Function, cancel?: Function, hover?: Function, leave?: Function, twice?: Function}} Tool */

/**
 * @param {HTMLCanvasElement} canvas
 * @param {{transform: import('./transform.js').View, fitted: boolean, moving: boolean, loupe: boolean,
 *   pointer: ?[number, number], tool: ?Tool}} state
 * @param {{redraw: () => void, tell: () => void, glide: (from: import('./transform.js').View, to: import('./transform.js').View) => void}} hooks
 * @param {AbortSignal} signal
 */
export function listen(canvas, state, { redraw, tell, glide }, signal) {
  const on = (target, name, listener, options = {}) => target.addEventListener(name, listener, { signal, ...options });
  const fingers = new Map();
  let space = false;
  let working = null;

  /** @returns {[number, number]} px */
  const place = (event) => {
    const box = canvas.getBoundingClientRect();
    return [event.clientX - box.left, event.clientY - box.top];
  };
  const mm = (event) => toMm(state.transform, ...place(event));
  /** A step of zoom, as by a key. */
  const zoom = (factor, at) => glide(state.transform, zoomAt(state.transform, factor, ...at));
  const zoomed = (factor, at) => {
    state.moving = true;
    state.transform = zoomAt(state.transform, factor, ...at);
    state.fitted = false;
    redraw();
  };

  on(canvas, 'wheel', (event) => {
    event.preventDefault();
    if (event.shiftKey) {
      state.transform = { ...state.transform, x: state.transform.x - event.deltaY };
      state.fitted = false;
      redraw();
    } else zoomed(Math.exp(-event.deltaY * (event.ctrlKey ? 0.01 : 0.0015)), place(event));
  }, { passive: false });

  on(canvas, 'pointerdown', (event) => {
    canvas.setPointerCapture(event.pointerId);
    fingers.set(event.pointerId, place(event));
    if (fingers.size > 1 && working) {
      working.cancel?.();
      working = null;
    } else if (state.tool && fingers.size === 1 && event.button === 0 && !space) {
      working = state.tool;
      working.down?.(mm(event), event);
      redraw();
    }
  });
  on(canvas, 'pointermove', (event) => {
    const at = place(event);
    state.pointer = at;
    const before = fingers.get(event.pointerId);
    if (working) {
      // Between two frames a pen reports more places than one.
      for (const part of event.getCoalescedEvents?.() ?? [event]) working.move?.(mm(part), part);
      redraw();
    } else if (before) {
      const others = [...fingers].filter(([id]) => id !== event.pointerId).map(([, p]) => p);
      const t = state.transform;
      state.moving = true;
      state.transform = { ...t, x: t.x + (at[0] - before[0]) / (others.length + 1), y: t.y + (at[1] - before[1]) / (others.length + 1) };
      state.fitted = false;
      if (others.length === 1) {
        const gap = (p) => Math.hypot(p[0] - others[0][0], p[1] - others[0][1]) || 1;
        state.transform = zoomAt(state.transform, gap(at) / gap(before), (at[0] + others[0][0]) / 2, (at[1] + others[0][1]) / 2);
      }
      redraw();
    } else if (state.tool) {
      state.tool.hover?.(mm(event), event);
      redraw();
    } else if (state.loupe) redraw();
    else tell();
    if (before) fingers.set(event.pointerId, at);
  });
  const ended = (event) => {
    fingers.delete(event.pointerId);
    if (!working) return;
    if (event.type === 'pointerup') working.up?.(mm(event), event);
    else working.cancel?.();
    working = null;
    redraw();
  };
  on(canvas, 'dblclick', (event) => {
    state.tool?.twice?.(mm(event), event);
    redraw();
  });
  on(canvas, 'pointerup', ended);
  on(canvas, 'pointercancel', ended);
  on(canvas, 'pointerleave', () => {
    if (working) return;
    state.pointer = null;
    state.tool?.leave?.();
    redraw();
  });
  on(document, 'keydown', (event) => {
    if (event.key !== ' ' || isTyping(event)) return;
    space = true;
    if (event.target === canvas) event.preventDefault();
  });
  on(document, 'keyup', (event) => { if (event.key === ' ') space = false; });
  return { zoom, place };
}
