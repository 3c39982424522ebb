// One sprite of the icons in use, from the set's single files.
import { readFileSync } from 'node:fs';
import { join } from 'node:path';

const NAMES = ['arrow-down', 'arrow-left', 'arrow-right', 'arrow-up', 'bookmark', 'chevron-down', 'chevron-up', 'chevrons-left-right', 'circle', 'circle-dot',
  'circle-help', 'circle-plus', 'combine', 'contrast', 'copy', 'crop', 'download', 'eraser', 'eye', 'eye-off',
  'flip-horizontal-2', 'flip-vertical-2', 'grip-vertical', 'group', 'history', 'image-up', 'lasso', 'layers', 'link', 'maximize',
  'minimize', 'mouse-pointer-2', 'paint-bucket', 'paintbrush', 'panel-left', 'panel-right', 'pencil', 'pipette', 'redo-2', 'replace',
  'pause', 'play', 'rotate-ccw', 'rotate-cw', 'ruler', 'scan', 'scissors', 'search', 'send', 'slash', 'sparkles', 'spline', 'square',
  'square-dashed', 'squares-exclude', 'squares-intersect', 'squares-subtract', 'squares-unite', 'sun', 'target',
  'trash-2', 'triangle', 'type', 'undo-2', 'ungroup', 'wand', 'waves', 'x', 'zoom-in'];

const symbols = NAMES.map((name) => {
  const file = readFileSync(join(process.argv[2], `${name}.svg`), 'utf8');
  const inner = file.slice(file.indexOf('>', file.indexOf('<svg')) + 1, file.lastIndexOf('</svg>')).trim();
  return `<symbol id="${name}" viewBox="0 0 24 24" fill="none" stroke="currentColor" stroke-width="2" `
    + `stroke-linecap="round" stroke-linejoin="round">${inner.replace(/\s*\n\s*/g, '')}</symbol>`;
});
process.stdout.write(`<!-- Lucide icons, ISC licence: see LICENCES.md -->\n`
  + `<svg xmlns="http://www.w3.org/2000/svg">\n${symbols.join('\n')}\n</svg>\n`);
