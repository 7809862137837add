import type { SheetView, WhatMoved } from '../api/client';

/** A cell of a sheet by its line and its position among the columns of figures. */
export const movedKey = (line: number, place: number) => `${line}:${place}`;

/** Which cells of a sheet moved so far that it can be seen, what stood and stands there, and the columns' widths with room for
 * both. */
export function marked(
  sheet: Pick<SheetView, 'figures' | 'columns' | 'widths'>,
  cells: WhatMoved['cells'],
): { widths: number[]; marks: [string, { was: string; now: string }][] } {
  const figures = new Map(sheet.figures.map((figure, i) => [figure.name, i]));
  const columns = new Map(sheet.columns.map((column, i) => [column.id, i]));
  const widths = [...sheet.widths];
  const marks: [string, { was: string; now: string }][] = [];
  for (const cell of cells) {
    const column = cell.column === null ? undefined : columns.get(cell.column);
    const figure = figures.get(cell.figure);
    if (cell.line === null || column === undefined || figure === undefined || cell.was === cell.now) continue;
    const place = column * sheet.figures.length + figure;
    marks.push([movedKey(cell.line, place), { was: cell.was, now: cell.now }]);
    widths[place] = Math.max(widths[place] ?? 0, cell.was.length + (cell.now || 'blank').length + 1);
  }
  return { widths, marks };
}
