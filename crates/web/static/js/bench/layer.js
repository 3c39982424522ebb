// What does not move while the pointer does, drawn once and shown again until something of it changes.

/** A design of more nodes than this is shown as it was while the bench moves, and drawn afterwards. */
const HEAVY = 3000;

export class Layer {
  constructor() {
    this.canvas = document.createElement('canvas');
    this.key = '';
    this.at = null;
  }

  /**
   * Shows the layer on a canvas of its size.
   * @param {CanvasRenderingContext2D} target
   * @param {{width: number, height: number, ratio: number, key: string, at: object, nodes: number, moving: boolean}} now
   * `key` names all that is drawn but where the bench lies, which is `at`
   * @param {(c: CanvasRenderingContext2D) => void} paint
   * @returns {boolean} whether it is only moved for now, and has to be drawn when the bench rests
   */
  show(target, { width, height, ratio, key, at, nodes, moving }, paint) {
    const same = this.key === key;
    const there = same && ['scale', 'x', 'y'].every((k) => this.at[k] === at[k]);
    const drafted = same && !there && moving && nodes > HEAVY;
    if (!there && !drafted) {
      Object.assign(this.canvas, { width: Math.round(width * ratio), height: Math.round(height * ratio) });
      const c = this.canvas.getContext('2d');
      c.setTransform(ratio, 0, 0, ratio, 0, 0);
      paint(c);
      Object.assign(this, { key, at: { ...at } });
    }
    const k = at.scale / this.at.scale;
    target.setTransform(ratio, 0, 0, ratio, 0, 0);
    target.drawImage(this.canvas, at.x - this.at.x * k, at.y - this.at.y * k, width * k, height * k);
    return drafted;
  }
}
