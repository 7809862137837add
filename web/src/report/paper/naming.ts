import type { Report, SheetView } from '../../api/client';
import type { Row } from '../../sheet/outline';

/** What is called otherwise: a line or a column, by the labels of its own entry from the outermost in. `every`: of a period, that
 * of every year. `before` is what the field begins with. */
export interface Named {
  entry: number;
  path: string[];
  across: boolean;
  every: boolean;
  before: string;
}

const YEAR_LAST = /^(\S.*?) \d{4}$/;
const YEAR_FIRST = /^[^\W\d]*\d{2,4}(?:[/–-]\d{2,4})? (\S.*)$/;

/** A period's label without its year; null if it has none. */
export const withoutYear = (label: string): string | null =>
  (YEAR_LAST.exec(label) ?? YEAR_FIRST.exec(label))?.[1] ?? null;

const BLANK = 3;

/** The names that a line can be given: one, or for a period of a year also one for every year. */
export function namesOfLine(report: Report, sheet: SheetView, row: Row): Named[] {
  const entry = report.down?.[row.entry];
  if (!entry || row.depth === 0) return [];
  const ordinary = row.special === 0 || (row.special === BLANK && !('tree' in entry && entry.tree));
  return ordinary ? named(entry, { entry: row.entry, path: pathIn(sheet, row), across: false }) : [];
}

/** The same for a column and each member above it. */
export function namesOfColumn(report: Report, names: readonly string[]): Named[] {
  return names.flatMap((_, k) => {
    const [entry, from] = entryAt(report, k);
    const found = report.across?.[entry];
    return found ? named(found, { entry, path: names.slice(from, k + 1), across: true }) : [];
  });
}

function named(
  entry: NonNullable<Report['down']>[number],
  place: Pick<Named, 'entry' | 'path' | 'across'>,
): Named[] {
  const before = place.path[place.path.length - 1] ?? '';
  if (!('category' in entry || 'period' in entry) || !before) return [];
  const alone = 'period' in entry ? withoutYear(before) : null;
  const one = { ...place, every: false, before };
  return alone ? [{ ...place, every: true, before: alone }, one] : [one];
}

/** The entry of a level of the columns, and that entry's first level; unknown after a tree. */
function entryAt(report: Report, level: number): [number, number] {
  let from = 0;
  for (const [i, entry] of (report.across ?? []).entries()) {
    const many = 'period' in entry ? entry.grains.length : 'tree' in entry && entry.tree ? Infinity : 1;
    if (level < from + many) return [i, from];
    from += many;
  }
  return [-1, 0];
}

/** A line's labels, outermost level of its own entry first. */
export const pathIn = (sheet: SheetView, row: Row) =>
  row.own.filter((_, k) => sheet.rows.entry.length > 0 && levelEntry(sheet, k) === row.entry);

/** The entry of a level of the lines. */
function levelEntry(sheet: SheetView, level: number): number {
  const at = sheet.rows.depth.indexOf(level + 1);
  return sheet.rows.entry[at] ?? -1;
}
