// One sprite of the icons in use, from the set's single files.
import { readFileSync } from 'node:fs';
import { join } from 'node:path';

const NAMES = ['chevrons-left-right', 'circle-help', 'copy', 'download', 'eye', 'eye-off', 'image-up',
  'pencil', 'printer', 'redo-2', 'search', 'trash-2', 'undo-2'];

const symbols = NAMES.map((name) => {
  const file = readFileSync(join(process.argv[2], `${name}.svg`), 'utf8');
  const inner = file.slice(file.indexOf('>', file.indexOf('<svg')) + 1, file.lastIndexOf('</svg>')).trim();
  return `<symbol id="${name}" viewBox="0 0 24 24" fill="none" stroke="currentColor" stroke-width="2" `
    + `stroke-linecap="round" stroke-linejoin="round">${inner.replace(/\s*\n\s*/g, '')}</symbol>`;
});
process.stdout.write(`<!-- Lucide icons, ISC licence: see LICENCES.md -->\n`
  + `<svg xmlns="http://www.w3.org/2000/svg">\n${symbols.join('\n')}\n</svg>\n`);
