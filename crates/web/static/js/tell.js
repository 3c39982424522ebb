// What happened, for those who hear the page.

/** @param {string} words */
export function tell(words) {
  const region = document.getElementById('announce');
  if (region && region.textContent !== words) region.textContent = words;
}
