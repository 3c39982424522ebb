// Presses every control of the open line, group by group, and tells after which of them the focus fell to the
// page or what was scrolled jumped. Run by `reach.rs`; its last argument is what it answers to.
const done = arguments[arguments.length - 1];
(async () => {
  const pause = (ms) => new Promise((later) => { setTimeout(later, ms); });
  const idle = async () => {
    for (let quiet = 0, n = 0; quiet < 3 && n < 400; n += 1) {
      await pause(25);
      quiet = document.querySelector('.htmx-request, .htmx-settling, .htmx-swapping') ? 0 : quiet + 1;
    }
  };
  const body = () => document.getElementById('line-body');
  const chosen = (tab) => document.getElementById(tab)?.getAttribute('aria-selected') === 'true';
  // A whole roll of copies is laid, and a search for a tighter sheet goes on, for longer than a walk.
  const LONG = '#fill-sheet, #nest';
  const controls = (shared) => [...body().querySelectorAll('button, input:not([type=hidden]), select, summary')].filter((e) =>
    !e.disabled && e.checkVisibility() && !['file', 'color'].includes(e.type) && e.getAttribute('role') !== 'tab' && !e.matches(LONG) && (shared || e.closest('[data-group]')));
  const told = (e) => `${e.tagName} ${e.id} ${e.name ?? ''} ${e.textContent.trim().slice(0, 30)}`;
  const press = (e) => {
    const changed = () => e.dispatchEvent(new Event('change', { bubbles: true }));
    if (e.tagName === 'SELECT') { e.selectedIndex = (e.selectedIndex + 1) % e.options.length; changed(); }
    else if (e.type === 'range') { e.value = String(Number(e.value) + Number(e.step || 1)); e.dispatchEvent(new Event('input', { bubbles: true })); changed(); }
    else if (e.tagName === 'INPUT' && !['checkbox', 'radio'].includes(e.type)) changed();
    else e.click();
  };
  const lost = [];
  let count = 0;
  const tabs = [...body().querySelectorAll('[role=tab]')].map((t) => t.id);
  for (const [turn, tab] of (tabs.length ? tabs : [null]).entries()) {
    const choose = async () => { if (tab && !chosen(tab)) { document.getElementById(tab).click(); await idle(); } };
    await choose();
    for (let n = 0; n < controls(turn === 0).length; n += 1) {
      await choose();
      const control = controls(turn === 0)[n];
      if (!control) break;
      control.focus();
      if (document.activeElement !== control) continue;
      const [what, top] = [told(control), body().scrollTop];
      count += 1;
      press(control);
      await idle();
      if (!document.activeElement?.closest('#ticket, #bench')) lost.push(`${tab} ${what}`);
      // A list that grew shorter cannot stay scrolled as far.
      const where = Math.min(top, body().scrollHeight - body().clientHeight);
      if (Math.abs(body().scrollTop - where) > 60) lost.push(`jumped from ${top} to ${body().scrollTop}: ${tab} ${what}`);
    }
  }
  return { count, lost };
})().then(done, (error) => done({ count: 0, lost: [String(error)] }));
