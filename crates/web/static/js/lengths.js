// Figures as people type them, read by the program: every field understands the same, and is refused in its words.
import { wordsOf } from './ask.js';

/** What was read before, for the unit that the page is in: figures, and why others are none. */
const known = new Map();

/** A figure that was typed is none; its message says why. */
export class Refused extends Error {}

/**
 * @param {string} text
 * @param {'length' | 'area' | 'angle'} of
 * @returns {Promise<number>} mm, mm² or degrees
 * @throws {Refused} where it is no such figure
 */
export async function read(text, of) {
  const key = `${of} ${text.trim()}`;
  if (!known.has(key)) {
    const answer = await fetch(`/figure?${new URLSearchParams({ text: text.trim(), of })}`).catch(() => null);
    if (!answer) {
      document.dispatchEvent(new Event('unanswered'));
      throw new Refused('This figure could not be read: the program does not answer.');
    }
    known.set(key, answer.ok ? (await answer.json()).value : new Refused(await wordsOf(answer)));
  }
  const found = known.get(key);
  if (found instanceof Refused) throw found;
  return found;
}

/**
 * @param {string} text
 * @returns {Promise<number>} mm; NaN where it is no length
 */
export const millimetres = (text) => read(text, 'length').catch(() => NaN);
