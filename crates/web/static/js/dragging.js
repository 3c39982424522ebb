// One thing of a list dragged onto another.

/**
 * @param {HTMLElement} list
 * @param {string} selector what can be dragged, and dropped onto
 * @param {(dragged: HTMLElement, onto: HTMLElement) => void} dropped
 * @returns {() => void} takes the listeners off
 */
export function dragOnto(list, selector, dropped) {
  let dragged = null;
  const of = (event) => event.target.closest?.(selector);
  const over = (item) => {
    for (const other of list.querySelectorAll('.over')) other.classList.remove('over');
    if (item && item !== dragged) item.classList.add('over');
  };
  const on = {
    dragstart(event) {
      dragged = of(event);
      event.dataTransfer.effectAllowed = 'move';
      event.dataTransfer.setData('text/plain', dragged?.textContent.trim() ?? '');
    },
    dragover(event) {
      const item = of(event);
      if (!dragged || !item) return;
      event.preventDefault();
      over(item);
    },
    dragend() { dragged = null; over(null); },
    drop(event) {
      const onto = of(event);
      if (!dragged || !onto) return;
      event.preventDefault();
      over(null);
      if (onto !== dragged) dropped(dragged, onto);
      dragged = null;
    },
  };
  for (const [name, listener] of Object.entries(on)) list.addEventListener(name, listener);
  return () => { for (const [name, listener] of Object.entries(on)) list.removeEventListener(name, listener); };
}
