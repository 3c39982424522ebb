// Places on a picture that are dragged or moved by keys: the corners of a sheet, and where a flaw lies.

// Steps of the arrow keys, in px of the screen.
const STEP = { small: 1, large: 10 };
const WAYS = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] };
// How large a mark is, px of the screen.
const MARK = 8;

/**
 * @param {HTMLElement} element around the picture and its fields
 * @returns {() => void} takes the listeners off
 */
export function mount(element) {
  const svg = /** @type {SVGSVGElement} */ (element.querySelector('svg'));
  const { width, height } = svg.viewBox.baseVal;
  const perUnit = Number(element.dataset.mmPerUnit);
  /** How much of the picture a px of the screen is. */
  const scale = () => 1 / (svg.getScreenCTM()?.a || 1);
  /** @type {?SVGCircleElement} */
  let held = null;

  const spots = () => /** @type {NodeListOf<SVGCircleElement>} */ (svg.querySelectorAll('.spot'));
  const put = (spot, x, y) => {
    spot.setAttribute('cx', String(Math.min(Math.max(x, 0), width)));
    spot.setAttribute('cy', String(Math.min(Math.max(y, 0), height)));
    tell(spot);
  };
  const at = (spot) => [spot.cx.baseVal.value, spot.cy.baseVal.value];

  /** Writes the place of a mark into the fields that belong to it. */
  const tell = (spot) => {
    const [x, y] = at(spot);
    spot.setAttribute('aria-valuetext', `${x.toFixed(0)}, ${y.toFixed(0)}`);
    if (spot.dataset.corner === undefined) {
      const write = (id, mm) => {
        const field = /** @type {?HTMLInputElement} */ (document.getElementById(id));
        if (field) field.value = (mm / perUnit).toFixed(perUnit > 1 ? 3 : 1);
      };
      write(spot.dataset.x, x);
      write(spot.dataset.y, y);
      return;
    }
    const all = [...spots()].map(at);
    svg.querySelector('polygon')?.setAttribute('points', all.map((p) => p.join(',')).join(' '));
    const corners = /** @type {HTMLInputElement} */ (document.getElementById('odd-corners'));
    corners.value = all.flat().map((v) => v.toFixed(2)).join(',');
  };

  const place = (event) => {
    const { x, y } = new DOMPoint(event.clientX, event.clientY).matrixTransform(svg.getScreenCTM()?.inverse());
    return [x, y];
  };
  const begin = (event) => {
    if (event.button !== 0) return;
    const [x, y] = place(event);
    const away = (spot) => Math.hypot(at(spot)[0] - x, at(spot)[1] - y);
    [held] = [...spots()].sort((a, b) => away(a) - away(b));
    if (!held) return;
    event.preventDefault();
    held.focus();
    svg.setPointerCapture(event.pointerId);
    put(held, x, y);
  };
  const drag = (event) => {
    if (held) put(held, ...place(event));
  };
  const end = () => { held = null; };
  const key = (event) => {
    const way = WAYS[event.key];
    const spot = /** @type {SVGCircleElement} */ (event.target);
    if (!way || !spot.classList.contains('spot')) return;
    event.preventDefault();
    const by = scale() * (event.shiftKey ? STEP.large : STEP.small);
    const [x, y] = at(spot);
    put(spot, x + way[0] * by, y + way[1] * by);
  };
  /** Marks look alike however large the picture is. */
  const sized = () => spots().forEach((spot) => spot.setAttribute('r', String(MARK * scale())));
  const watching = new ResizeObserver(sized);
  watching.observe(svg);
  const all = { pointerdown: begin, pointermove: drag, pointerup: end, pointercancel: end, keydown: key };
  for (const [name, listener] of Object.entries(all)) svg.addEventListener(name, listener);
  return () => {
    watching.disconnect();
    for (const [name, listener] of Object.entries(all)) svg.removeEventListener(name, listener);
  };
}
