// A slider and its typed field show the same figure; the field is what is sent.
import { nameOf, wayOf } from './keys.js';

/**
 * @param {HTMLElement} element control with a range and a named text field
 * @returns {() => void} takes the listeners off
 */
export function mount(element) {
  const range = element.querySelector('input[type="range"]');
  const field = element.querySelector(`[name="${range.dataset.for}"]`);
  const auto = element.querySelector('[data-auto]');
  const [least, most, step] = ['least', 'most', 'step'].map((k) => Number(range.dataset[k]));
  const log = range.hasAttribute('data-log');
  const STEPS = 200;
  const decimals = Math.max(0, -Math.floor(Math.log10(step) + 1e-9));

  // On a logarithmic slider every step is the same proportion.
  const toValue = (n) => (log ? least * (most / least) ** (n / STEPS) : n);
  const toStep = (v) => (log ? Math.log(Math.max(v, least) / least) / Math.log(most / least) * STEPS : v);
  Object.assign(range, log ? { min: 0, max: STEPS, step: 1 } : { min: least, max: most, step });

  const show = () => {
    const value = Number.parseFloat(field.value.replace(',', '.'));
    if (Number.isFinite(value)) range.value = String(toStep(value));
  };
  const changed = () => auto?.setAttribute('aria-pressed', 'false');
  const fromRange = () => {
    field.value = toValue(Number(range.value)).toFixed(decimals);
    changed();
  };
  const fromField = () => {
    show();
    changed();
  };
  const tenSteps = (event) => {
    if (nameOf(event, 'slider') !== 'ten') return;
    const [x, y] = wayOf(event);
    const by = 10 * (x - y);
    event.preventDefault();
    range.value = String(Number(range.value) + by * Number(range.step || 1));
    range.dispatchEvent(new Event('input', { bubbles: true }));
    range.dispatchEvent(new Event('change', { bubbles: true }));
  };
  const toAuto = () => {
    field.value = 'auto';
    auto.setAttribute('aria-pressed', 'true');
    field.dispatchEvent(new CustomEvent('touched', { bubbles: true }));
    field.dispatchEvent(new Event('change', { bubbles: true }));
  };
  const shown = (event) => {
    show();
    auto?.setAttribute('aria-pressed', String(event.detail));
  };
  show();
  field.addEventListener('shown', shown);
  range.addEventListener('input', fromRange);
  range.addEventListener('keydown', tenSteps);
  field.addEventListener('input', fromField);
  auto?.addEventListener('click', toAuto);
  return () => {
    range.removeEventListener('input', fromRange);
    range.removeEventListener('keydown', tenSteps);
    field.removeEventListener('shown', shown);
    field.removeEventListener('input', fromField);
    auto?.removeEventListener('click', toAuto);
  };
}
