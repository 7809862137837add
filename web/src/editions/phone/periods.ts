import type { SheetView } from '../../api/client';

/** A column to choose: its position among the columns, and its label. */
export interface Period {
  at: number;
  label: string;
}

/**
 * The columns in the order in which they are asked for: the latest first, the totals over all after them. A year's total
 * stands before its months.
 */
export function periods(sheet: SheetView): Period[] {
  const all = sheet.columns.map((column, at) => ({
    at,
    label: column.labels.join(' · '),
    role: column.role,
  }));
  const grand = all.filter((one) => one.role === 'grand');
  const others = all.filter((one) => one.role !== 'grand');
  const dated = sheet.across[0]?.kind === 'period';
  return [...(dated ? others.reverse() : others), ...grand].map(({ at, label }) => ({ at, label }));
}

/** The period shown first: the latest that is not a total and has a value in the grand total's line. */
export function first(sheet: SheetView, among: Period[]): number {
  const line = sheet.rows.line[sheet.rows.line.length - 1] ?? 0;
  const texts = sheet.cells[line] ?? [];
  const width = sheet.figures.length;
  const found = among.findIndex(({ at }) => {
    const own = texts.slice((at - sheet.first) * width, (at - sheet.first + 1) * width);
    return sheet.columns[at]?.role === 'leaf' && (own.length === 0 || own.some((text) => text !== ''));
  });
  return Math.max(0, found);
}
