// What the bench draws of a result, fetched under its key; what is there already is not fetched again.
import * as built from './built.js';
import * as draw from './draw.js';

/**
 * @param {string} address
 * @param {AbortSignal} [signal]
 * @returns {Promise<HTMLImageElement>}
 */
export function loadImage(address, signal) {
  return new Promise((resolve, reject) => {
    const image = new Image();
    image.onload = () => resolve(image);
    image.onerror = reject;
    signal?.addEventListener('abort', () => { image.src = ''; reject(signal.reason); });
    image.src = address;
  });
}

/**
 * @param {Record<string, any>} state what the bench has, with the keys it was fetched under
 * @param {DOMStringMap & {key: string}} wanted the job and the keys of the result
 * @param {(view: string) => boolean} looksAt whether a view is seen
 * @param {CanvasRenderingContext2D} screen
 * @param {AbortSignal} signal
 * @returns {Promise<Record<string, any>>} what was missing
 */
export async function missingOf(state, wanted, looksAt, screen, signal) {
  const { job, key, solid: solidKey, cleaned: cleanedKey, artwork, remembered: rememberedKey } = wanted;
  const base = `/jobs/${job}/results/${key}`;
  const outlines = async (of) => {
    const answer = await fetch(`/jobs/${job}/results/${of}/outlines.json`, { signal });
    if (!answer.ok) throw new Error(`outlines: ${answer.status}`);
    return draw.prepare(await answer.json(), screen);
  };
  const next = { design: await outlines(key) };
  if (rememberedKey !== state.rememberedKey) {
    Object.assign(next, { remembered: rememberedKey ? await outlines(rememberedKey) : null, rememberedKey });
  }
  if (built.isBuilt(state.view) && state.builtKey !== key) {
    const answer = await fetch(`${base}/layers.json`, { signal });
    if (answer.ok) Object.assign(next, { built: built.prepare(await answer.json()), builtKey: key });
  }
  if (looksAt('solid') && state.solidKey !== solidKey) {
    Object.assign(next, { solid: await loadImage(`${base}/solid.png?${solidKey}`, signal), solidKey });
  }
  if (looksAt('missed') && state.missedKey !== key) {
    const known = next.design.missed;
    Object.assign(next, { missed: known ? await loadImage(`${base}/missed.png`, signal) : null, missedKey: key });
  }
  if (cleanedKey === artwork) Object.assign(next, { cleaned: null, cleanedKey });
  else if (state.cleanedKey !== cleanedKey) {
    Object.assign(next, { cleaned: await loadImage(`${base}/cleaned.png?${cleanedKey}`, signal), cleanedKey });
  }
  // The artwork itself cannot be drawn askew on a canvas: the program shows where it lies.
  const squaredKey = wanted.frame === '' ? cleanedKey : '';
  if (state.squaredKey !== squaredKey) {
    Object.assign(next, { squared: squaredKey ? await loadImage(`${base}/squared.png?${cleanedKey}`, signal) : null, squaredKey });
  }
  return next;
}
