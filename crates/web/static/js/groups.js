// Groups of controls within a line: one is seen at a time, chosen by a press or by the arrows. It stays chosen
// when the ticket is drawn anew, and after a reload.

/** @param {HTMLElement} tab @returns {?HTMLElement} what it shows */
const panelOf = (tab) => document.getElementById(tab.getAttribute('aria-controls'));

/**
 * Shows the group that an element lies in, so that it can be seen and reached.
 * @param {?Element} element
 */
export function reveal(element) {
  const panel = element?.closest('[data-group]');
  if (panel?.hasAttribute('hidden')) document.getElementById(panel.getAttribute('aria-labelledby')).click();
}

/**
 * @param {HTMLElement} list
 * @returns {() => void} takes the listeners off
 */
export function mount(list) {
  const shelf = `group-${list.dataset.of}`;
  /** @type {HTMLElement[]} */
  const tabs = [...list.querySelectorAll('[role="tab"]')];
  const off = new AbortController();
  const on = (target, name, listener) => target.addEventListener(name, listener, { signal: off.signal });

  const choose = (tab) => {
    for (const own of tabs) {
      own.setAttribute('aria-selected', String(own === tab));
      own.tabIndex = own === tab ? 0 : -1;
      panelOf(own).hidden = own !== tab;
    }
    sessionStorage.setItem(shelf, tab.dataset.to);
    list.setAttribute('data-chosen', tab.dataset.to);
    list.dispatchEvent(new CustomEvent('chosen', { bubbles: true, detail: tab.dataset.to }));
  };
  on(list, 'click', ({ target }) => {
    const tab = target.closest('[role="tab"]');
    if (tab) choose(tab);
  });
  on(list, 'keydown', (event) => {
    const at = tabs.indexOf(event.target);
    const to = { ArrowRight: at + 1, ArrowDown: at + 1, ArrowLeft: at - 1, ArrowUp: at - 1, Home: 0, End: -1 }[event.key];
    if (at < 0 || to === undefined) return;
    event.preventDefault();
    event.stopPropagation();
    const tab = tabs.at(to % tabs.length);
    choose(tab);
    tab.focus();
  });
  const kept = sessionStorage.getItem(shelf);
  choose(tabs.find((tab) => tab.dataset.to === kept) ?? tabs[0]);
  return () => off.abort();
}
