// The format of the files under the ticket: chosen once, it stays that of the job while the window is open.

/**
 * @param {HTMLElement} element the button and its list of formats
 * @returns {() => void} takes the listener off
 */
export function mount(element) {
  /** @type {HTMLAnchorElement} */
  const link = element.querySelector('a');
  /** @type {HTMLSelectElement} */
  const list = element.querySelector('select');
  const key = `format of job ${element.dataset.job}`;
  const show = () => {
    link.href = list.value;
    link.querySelector('span').textContent = `Download ${list.selectedOptions[0].text}`;
  };
  const kept = [...list.options].find((option) => option.text === sessionStorage.getItem(key));
  if (kept) kept.selected = true;
  show();
  const chosen = () => {
    sessionStorage.setItem(key, list.selectedOptions[0].text);
    show();
  };
  list.addEventListener('change', chosen);
  return () => list.removeEventListener('change', chosen);
}
