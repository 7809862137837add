import type { AxisEntry, Report, SheetView } from '../../api/client';
import { withEntry } from '../../definition/change';
import type { Sorted } from '../../sheet/SheetHead';

type Order = NonNullable<AxisEntry['order']>;

/** The entry whose innermost level a click on a heading sorts: the last one down. */
const last = (report: Report) => (report.down ?? []).length - 1;

/** The figure and column at a position among the columns of figures. */
export function figureAt(sheet: SheetView, place: number) {
  const column = sheet.columns[Math.floor(place / sheet.figures.length)];
  const figure = sheet.figures[place % sheet.figures.length];
  return column && figure ? { column, figure: figure.name } : null;
}

const orderBy = (sheet: SheetView, place: number, desc: boolean): Order | null => {
  const found = figureAt(sheet, place);
  if (!found) return null;
  return {
    by: found.figure,
    desc,
    ...(found.column.depth > 0 ? { column: found.column.names } : {}),
  };
};

/** By which column the lines are sorted. */
export function sortedBy(report: Report, sheet: SheetView): Sorted {
  const order = report.down?.[last(report)]?.order;
  if (!order) return { place: null, falling: false };
  if (order === 'label' || order === 'label_desc') return { place: -1, falling: order === 'label_desc' };
  if (typeof order !== 'object' || !('by' in order)) return { place: null, falling: false };
  const at = sheet.columns.findIndex((column) =>
    order.column ? column.names.join('\u001f') === order.column.join('\u001f') : column.depth === 0,
  );
  const figure = sheet.figures.findIndex((f) => f.name === order.by);
  const columnAt = at < 0 && !order.column ? 0 : at;
  if (columnAt < 0 || figure < 0) return { place: null, falling: false };
  return { place: columnAt * sheet.figures.length + figure, falling: order.desc ?? false };
}

/** The report sorted by a column: largest first, on the next click smallest first, then unsorted. */
export function sorted(report: Report, sheet: SheetView, place: number): Report {
  const index = last(report);
  const entry = report.down?.[index];
  if (!entry) return report;
  const now = sortedBy(report, sheet);
  const wanted = place < 0 ? -1 : place;
  const step = now.place !== wanted ? 0 : now.falling === wanted >= 0 ? 1 : 2;
  const order: Order | null =
    step === 2
      ? null
      : wanted < 0
        ? step === 0
          ? 'label'
          : 'label_desc'
        : orderBy(sheet, wanted, step === 0);
  return withEntry(report, 'down', index, { ...entry, order } as AxisEntry);
}
