// Notes which fields a person touched, so that figures merely shown are never sent as choices,
// and shows what the program makes of the others.

/**
 * @param {HTMLFormElement} form
 * @returns {() => void} takes the listeners off
 */
export function mount(form) {
  const keeper = form.parentElement;
  const list = form.elements.changed;
  const names = (text) => text.split(' ').filter(Boolean);
  let sent = '';

  const touch = (event) => {
    const name = event.target.name || event.target.dataset.for;
    if (!name || name === 'changed') return;
    // Of two sides that follow from each other, the one typed last leads.
    const other = { width: 'height', height: 'width' }[name];
    list.value = [...names(list.value).filter((n) => n !== name && n !== other), name].join(' ');
  };
  // What is being kept is no longer touched; what was not kept is touched again.
  const sending = (event) => {
    if (event.target !== keeper) return;
    // A preview that is still under way would answer later, with less to say.
    window.htmx.trigger(form, 'htmx:abort');
    sent = list.value;
    list.value = '';
  };
  const answered = (event) => {
    if (event.target !== keeper || event.detail.successful) return;
    list.value = [...new Set([...names(sent), ...names(list.value)])].join(' ');
  };
  const traced = (event) => {
    for (const [name, value, automatic] of event.detail.shown ?? []) {
      const field = /** @type {?HTMLInputElement} */ (form.elements.namedItem(name));
      if (!field || names(list.value).includes(name)) continue;
      if (field === document.activeElement && field.value !== 'auto') continue;
      field.value = value;
      field.dispatchEvent(new CustomEvent('shown', { detail: automatic }));
    }
  };
  const touching = ['input', 'change', 'touched'];
  // Before htmx collects the form.
  for (const name of touching) form.addEventListener(name, touch, true);
  keeper.addEventListener('htmx:configRequest', sending);
  keeper.addEventListener('htmx:afterRequest', answered);
  document.addEventListener('traced', traced);
  return () => {
    for (const name of touching) form.removeEventListener(name, touch, true);
    keeper.removeEventListener('htmx:configRequest', sending);
    keeper.removeEventListener('htmx:afterRequest', answered);
    document.removeEventListener('traced', traced);
  };
}
