// The loupe: a square of the bench at eight screen pixels for one of the artwork.

const SIDE = 168;
const TIMES = 8;

/**
 * @param {CanvasRenderingContext2D} c in px of the screen
 * @param {[number, number]} at the pointer, px
 * @param {[number, number]} mm the same on the piece
 * @param {{width: number, height: number}} stage size of the bench, px
 * @param {number} pxMm width of a pixel of the artwork, mm
 * @param {{ink: string, stock: string, ground: string}} colours
 * @param {{width: number, height: number}} piece size of the piece, mm
 * @param {(px: number) => void} paint draws the view in mm, `px` mm being a pixel of the screen
 */
export function loupe(c, at, mm, stage, pxMm, colours, piece, paint) {
  const beside = (v, room) => (v + 24 + SIDE < room ? v + 24 : v - 24 - SIDE);
  const [x, y] = [beside(at[0], stage.width), beside(at[1], stage.height)];
  const scale = TIMES / pxMm;
  c.save();
  c.beginPath();
  c.rect(x, y, SIDE, SIDE);
  c.fillStyle = colours.ground;
  c.fill();
  c.clip();
  c.translate(x + SIDE / 2 - mm[0] * scale, y + SIDE / 2 - mm[1] * scale);
  c.scale(scale, scale);
  c.fillStyle = colours.stock;
  c.fillRect(0, 0, piece.width, piece.height);
  paint(1 / scale);
  c.restore();
  c.save();
  c.strokeStyle = colours.ink;
  c.strokeRect(x + 0.5, y + 0.5, SIDE, SIDE);
  c.beginPath();
  for (const [dx, dy] of [[6, 0], [-6, 0], [0, 6], [0, -6]]) {
    c.moveTo(x + SIDE / 2 + dx / 3, y + SIDE / 2 + dy / 3);
    c.lineTo(x + SIDE / 2 + dx, y + SIDE / 2 + dy);
  }
  c.stroke();
  c.restore();
}
