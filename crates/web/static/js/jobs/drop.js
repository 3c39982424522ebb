// Pictures dropped anywhere on the page, or pasted, go in by the file field.

/**
 * @param {HTMLFormElement} form
 * @returns {() => void} takes the listeners off
 */
export function mount(form) {
  const field = form.querySelector('input[type="file"]');
  const problem = form.querySelector('.problem');
  let inside = 0;

  // The size that pictures arrive in stays as it was chosen last; a figure that is typed is meant.
  const arrival = [...form.querySelectorAll('.arrive input')];
  const kept = JSON.parse(localStorage.getItem('arrival') ?? '{}');
  for (const e of arrival) {
    if (e.type === 'radio') e.checked = kept.arrive ? kept.arrive === e.value : e.checked;
    else if (kept[e.name]) e.value = kept[e.name];
  }
  const keep = ({ target }) => {
    if (!arrival.includes(target)) return;
    if (target.type !== 'radio') {
      const of = target.name.startsWith('fit') ? 'fit' : 'width';
      form.querySelector(`[name=arrive][value=${of}]`).checked = true;
    }
    const chosen = arrival.filter((e) => e.type !== 'radio' || e.checked).map((e) => [e.name, e.value]);
    localStorage.setItem('arrival', JSON.stringify(Object.fromEntries(chosen)));
  };
  form.addEventListener('input', keep);

  const take = (files) => {
    const taken = new DataTransfer();
    for (const file of files) taken.items.add(file);
    if (!taken.files.length) {
      problem.textContent = 'There is no picture in that. Drop or paste a picture file.';
      return;
    }
    field.files = taken.files;
    field.dispatchEvent(new Event('change', { bubbles: true }));
  };
  const hasFiles = (event) => event.dataTransfer?.types.includes('Files');
  const on = {
    dragenter(event) {
      if (!hasFiles(event)) return;
      inside += 1;
      form.classList.add('over');
    },
    dragleave(event) {
      if (!hasFiles(event)) return;
      inside -= 1;
      if (inside <= 0) form.classList.remove('over');
    },
    dragover(event) {
      if (hasFiles(event)) event.preventDefault();
    },
    drop(event) {
      if (!hasFiles(event)) return;
      event.preventDefault();
      inside = 0;
      form.classList.remove('over');
      take(event.dataTransfer.files);
    },
    paste(event) {
      if (event.clipboardData?.files.length) take(event.clipboardData.files);
    },
  };
  // What comes in is named, how far it is told, and it can be stopped.
  /** @type {HTMLProgressElement} */
  const bar = form.querySelector('.drop-busy progress');
  const told = form.querySelector('#arriving');
  const names = () => [...field.files].map((file) => file.name).join(', ');
  const clear = () => {
    problem.replaceChildren();
    bar.removeAttribute('value');
    told.textContent = `Sending ${names()} …`;
  };
  const sent = (event) => {
    const { detail } = event;
    if (!detail.lengthComputable) return;
    if (detail.loaded < detail.total) { bar.value = detail.loaded / detail.total; return; }
    bar.removeAttribute('value');
    told.textContent = `Reading ${names()} …`;
  };
  const stop = ({ target }) => {
    if (!target.closest('[data-stop]')) return;
    window.htmx.trigger(form, 'htmx:abort');
    problem.textContent = 'Stopped. Nothing more comes in; what was read before is in the list.';
  };
  // The same file may be chosen again after a refusal.
  const again = () => { field.value = ''; };
  for (const [name, listener] of Object.entries(on)) document.addEventListener(name, listener);
  form.addEventListener('htmx:beforeRequest', clear);
  form.addEventListener('htmx:xhr:progress', sent);
  form.addEventListener('click', stop);
  form.addEventListener('htmx:afterRequest', again);
  return () => {
    form.removeEventListener('input', keep);
    for (const [name, listener] of Object.entries(on)) document.removeEventListener(name, listener);
    form.removeEventListener('htmx:beforeRequest', clear);
    form.removeEventListener('htmx:xhr:progress', sent);
    form.removeEventListener('click', stop);
    form.removeEventListener('htmx:afterRequest', again);
  };
}
