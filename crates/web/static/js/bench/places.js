// Where the bench lies over each space (the piece, its stock, layers set apart, the sheet), kept when lines
// change and after a reload.

const SPACES = { stock: 'stock', apart: 'apart', sheet: 'sheet' };

/** @param {string} view @returns {string} the space in which it is drawn */
export const spaceOf = (view) => SPACES[view] ?? 'piece';

/** @typedef {{scale: number, x: number, y: number}} Place px per mm, and the mm in the middle of the bench */

/** Places by space; a space without one is fitted. */
export class Places {
  /** @param {string} job */
  constructor(job) {
    this.shelf = `places-${job}`;
    /** @type {Record<string, Place>} */
    this.all = JSON.parse(sessionStorage.getItem(this.shelf) ?? '{}');
  }

  /**
   * @param {string} space
   * @param {{transform: import('./transform.js').View, fitted: boolean}} state
   * @param {{width: number, height: number}} stage px
   */
  keep(space, { transform: t, fitted }, { width, height }) {
    if (fitted) delete this.all[space];
    else this.all[space] = { scale: t.scale, x: (width / 2 - t.x) / t.scale, y: (height / 2 - t.y) / t.scale };
  }

  /** Keeps them for the next time the page is opened. */
  store() { sessionStorage.setItem(this.shelf, JSON.stringify(this.all)); }

  /** @param {string} space */
  has(space) { return space in this.all; }

  /**
   * @param {string} space
   * @param {{width: number, height: number}} stage px
   * @returns {?import('./transform.js').View} `null` where it is fitted
   */
  of(space, { width, height }) {
    const p = this.all[space];
    return p ? { scale: p.scale, x: width / 2 - p.x * p.scale, y: height / 2 - p.y * p.scale } : null;
  }
}
