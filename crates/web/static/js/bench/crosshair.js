// A tool that points, by keys: arrows move a crosshair over the bench, Enter presses there, and its place is told.
import { nameOf, wayOf } from '../keys.js';
import { tell } from '../tell.js';
import { RULER } from './rulers.js';
import { toMm } from './transform.js';

/** Steps of the arrows, px. */
const STEP = 10;

/** @param {KeyboardEvent} event */
const far = (event) => (event.altKey ? 1 : event.shiftKey ? 5 * STEP : STEP);

/**
 * @param {HTMLCanvasElement} canvas
 * @param {{tool: ?object, transform: import('./transform.js').View, crosshair: ?[number, number]}} state
 * @param {{redraw: () => void, unit: string}} own
 * @param {AbortSignal} signal
 */
export function listen(canvas, state, { redraw, unit }, signal) {
  const on = (target, name, listener) => target.addEventListener(name, listener, { signal });
  const points = () => ['crosshair', 'none'].includes(state.tool?.cursor ?? '');
  let pressedBy = null;
  let telling = 0;

  const mm = () => toMm(state.transform, ...state.crosshair);
  /** As a pointer would tell the tool. */
  const as = (event) => ({ pointerType: 'key', pressure: 1, shiftKey: false, altKey: false, ctrlKey: event.ctrlKey });
  const place = () => {
    const shown = mm().map((v) => (unit === 'in' ? (v / 25.4).toFixed(2) : v.toFixed(1)));
    return `${shown.join(', ')} ${unit}`;
  };
  const let_go = () => {
    pressedBy?.cancel?.();
    pressedBy = null;
    state.crosshair = null;
    redraw();
  };
  on(canvas, 'keydown', (event) => {
    if (!points()) return;
    const { tool } = state;
    const name = nameOf(event, 'tool');
    if (!name) {
      if (event.key !== 'Escape' || !pressedBy) return;
      event.stopPropagation();
      let_go();
      return;
    }
    event.preventDefault();
    event.stopPropagation();
    state.crosshair ??= [(canvas.clientWidth + RULER) / 2, (canvas.clientHeight + RULER) / 2];
    if (name === 'move') {
      const [x, y] = wayOf(event);
      const within = (v, most) => Math.max(RULER, Math.min(v, most - 1));
      const by = far(event);
      state.crosshair = [within(state.crosshair[0] + x * by, canvas.clientWidth), within(state.crosshair[1] + y * by, canvas.clientHeight)];
      if (pressedBy) pressedBy.move?.(mm(), as(event));
      else tool.hover?.(mm(), as(event));
      clearTimeout(telling);
      telling = setTimeout(() => { if (state.crosshair) tell(place()); }, 250);
    }
    if (name === 'press' && pressedBy) {
      const working = pressedBy;
      pressedBy = null;
      working.up?.(mm(), as(event));
      tell(`Ended at ${place()}`);
    } else if (name === 'press') {
      tool.down?.(mm(), as(event));
      if (tool.drags) pressedBy = tool;
      else tool.up?.(mm(), as(event));
      tell(`Pressed at ${place()}`);
    }
    if (name === 'end') tool.twice?.(mm(), as(event));
    redraw();
  });
  on(canvas, 'pointermove', () => { if (state.crosshair && !pressedBy) { state.crosshair = null; redraw(); } });
  on(canvas, 'blur', () => { if (state.crosshair) let_go(); });
}

/** @param {CanvasRenderingContext2D} c @param {[number, number]} at px */
export function paint(c, [x, y]) {
  for (const { colour, width } of [{ colour: '#fffdf7', width: 4 }, { colour: '#17786b', width: 1.6 }]) {
    c.strokeStyle = colour;
    c.lineWidth = width;
    c.beginPath();
    c.moveTo(x - 16, y);
    c.lineTo(x + 16, y);
    c.moveTo(x, y - 16);
    c.lineTo(x, y + 16);
    c.stroke();
  }
}
