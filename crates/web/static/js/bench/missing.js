// The view *missed*: where outlines and artwork disagree, told by colour, by letter and by shape.

const LOST = '#b3261e';
const ADDED = '#245cb8';
/** Places that get a letter; the others keep their colour. */
const MOST = 40;

/** Faint outlines under what differs. `px` is one screen pixel in mm. */
export function outlines(c, design, px, colours) {
  c.strokeStyle = colours.soft;
  c.globalAlpha = 0.5;
  c.lineWidth = px;
  for (const s of design.wires) c.stroke(s.whole);
  c.globalAlpha = 1;
}

/** A letter on a plate: square for what was lost, round for what was added. */
function plate(c, lost, x, y, colours) {
  c.fillStyle = lost ? LOST : ADDED;
  c.beginPath();
  if (lost) c.rect(x - 8, y - 8, 16, 16);
  else c.arc(x, y, 9, 0, 7);
  c.fill();
  c.strokeStyle = colours.halo;
  c.lineWidth = 1.5;
  c.stroke();
  c.fillStyle = '#fffdf7';
  c.textAlign = 'center';
  c.fillText(lost ? 'L' : 'A', x, y + 4);
  c.textAlign = 'start';
}

/** The greatest places, ringed and lettered, in screen pixels. */
export function places(c, missed, toScreen, colours) {
  c.font = '600 11px "Public Sans", sans-serif';
  for (const { at, lost, whole } of (missed ?? []).slice(0, MOST)) {
    const [x, y] = toScreen(at);
    c.strokeStyle = lost ? LOST : ADDED;
    c.lineWidth = whole ? 2.5 : 1.5;
    c.setLineDash(whole ? [] : [4, 3]);
    c.beginPath();
    c.arc(x, y, 13, 0, 7);
    c.stroke();
    c.setLineDash([]);
    plate(c, lost, x + 16, y - 16, colours);
  }
}

/** Parts that were left out altogether, which are marked in every view of the outlines. */
export function leftOut(c, design, toScreen, colours) {
  places(c, (design.missed ?? []).filter((place) => place.whole), toScreen, colours);
}

/** What is told of a design, as words. */
export function words({ missed }) {
  if (!missed) return [['', 'not compared: lines or edits']];
  if (!missed.length) return [['', 'nothing is missed: outlines and artwork agree']];
  const count = (of) => missed.filter(of).length;
  const lost = count((p) => p.lost);
  const out = count((p) => p.whole);
  return [
    ['L', `ink lost: ${lost}${out ? `, ${out} left out altogether` : ''}`],
    ['A', `ink added: ${missed.length - lost}`],
  ];
}

/** What the letters mean, at a place of the canvas in screen pixels. */
export function legend(c, design, x, y, colours) {
  const told = words(design);
  c.font = '11.5px "Public Sans", sans-serif';
  const widths = told.map(([letter, text]) => c.measureText(text).width + (letter ? 38 : 16));
  c.fillStyle = colours.halo;
  c.globalAlpha = 0.85;
  c.fillRect(x - 8, y - 14, widths.reduce((a, b) => a + b, 8), 28);
  c.globalAlpha = 1;
  told.forEach(([letter, text], n) => {
    const left = x + widths.slice(0, n).reduce((a, b) => a + b, 0);
    c.font = '600 11px "Public Sans", sans-serif';
    if (letter) plate(c, letter === 'L', left + 8, y, colours);
    c.font = '11.5px "Public Sans", sans-serif';
    c.fillStyle = colours.ink;
    c.fillText(text, left + (letter ? 22 : 0), y + 4);
  });
}
