// One sprite of the icons in use, from the set's single files.
import { readFileSync } from 'node:fs';
import { join } from 'node:path';

const NAMES = ['bookmark', 'chevron-down', 'chevron-up', 'chevrons-left-right', 'circle-dot', 'circle-help', 'copy',
  'contrast', 'crop', 'download', 'eraser', 'eye', 'eye-off', 'flip-horizontal-2', 'flip-vertical-2', 'history',
  'image-up', 'lasso', 'maximize', 'paint-bucket', 'paintbrush', 'pencil', 'pipette', 'printer', 'redo-2', 'replace',
  'rotate-ccw', 'rotate-cw', 'ruler', 'scan', 'search', 'sparkles', 'square-dashed', 'sun', 'target', 'trash-2',
  'undo-2', 'wand', 'x', 'zoom-in'];

const symbols = NAMES.map((name) => {
  const file = readFileSync(join(process.argv[2], `${name}.svg`), 'utf8');
  const inner = file.slice(file.indexOf('>', file.indexOf('<svg')) + 1, file.lastIndexOf('</svg>')).trim();
  return `<symbol id="${name}" viewBox="0 0 24 24" fill="none" stroke="currentColor" stroke-width="2" `
    + `stroke-linecap="round" stroke-linejoin="round">${inner.replace(/\s*\n\s*/g, '')}</symbol>`;
});
process.stdout.write(`<!-- Lucide icons, ISC licence: see LICENCES.md -->\n`
  + `<svg xmlns="http://www.w3.org/2000/svg">\n${symbols.join('\n')}\n</svg>\n`);
