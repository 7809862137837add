import type { AxisEntry, Figure, Report, SheetView } from '../../api/client';
import { freeName, withEntry } from '../../definition/change';
import { PATH, type Row } from '../../sheet/outline';
import { figureAt } from './sorting';

/** The report with lines hidden; totals still count them. */
export function hiddenLines(report: Report, chosen: Row[]): Report {
  const there = report.out_of_sight?.lines ?? [];
  const more = chosen.filter((row) => row.depth > 0).map((row) => row.own);
  return { ...report, out_of_sight: { ...report.out_of_sight, lines: [...there, ...more] } };
}

/** The report with a column hidden. */
export function hiddenColumn(report: Report, sheet: SheetView, place: number): Report | null {
  const found = figureAt(sheet, place);
  if (!found || found.column.depth === 0) return null;
  const columns = [...(report.out_of_sight?.columns ?? []), found.column.names];
  return { ...report, out_of_sight: { ...report.out_of_sight, columns } };
}

/** The report with all its lines and columns shown. */
export const allInSight = (report: Report): Report => ({ ...report, out_of_sight: {} });

export const someOutOfSight = (report: Report) =>
  (report.out_of_sight?.lines ?? []).length + (report.out_of_sight?.columns ?? []).length > 0;

/** The report with a line moved among its siblings by a number of positions, or null if there is none there. */
export function reordered(report: Report, rows: Row[], row: Row, by: number): Report | null {
  const entry = report.down?.[row.entry];
  if (!entry || row.depth === 0 || row.special !== 0) return null;
  const parent = row.own.slice(0, -1).join(PATH);
  const beside = [
    ...new Map(
      rows
        .filter((r) => r.depth === row.depth && r.special === 0 && r.own.slice(0, -1).join(PATH) === parent)
        .map((r) => [r.own[r.own.length - 1] ?? '', r]),
    ).keys(),
  ];
  const name = row.own[row.own.length - 1] ?? '';
  const from = beside.indexOf(name);
  const to = from + by;
  if (from < 0 || to < 0 || to >= beside.length) return null;
  beside.splice(from, 1);
  beside.splice(to, 0, name);
  const list =
    entry.order && typeof entry.order === 'object' && 'list' in entry.order ? entry.order.list : [];
  const rest = list.filter((label) => !beside.includes(label));
  return withEntry(report, 'down', row.entry, {
    ...entry,
    order: { list: [...beside, ...rest] },
  } as AxisEntry);
}

/** The report with a line moved before another of the same group. */
export function putBefore(report: Report, rows: Row[], row: Row, before: Row): Report | null {
  const names = [
    ...new Set(
      rows
        .filter((r) => r.depth === row.depth && r.special === 0)
        .filter((r) => r.own.slice(0, -1).join(PATH) === row.own.slice(0, -1).join(PATH))
        .map((r) => r.own[r.own.length - 1] ?? ''),
    ),
  ];
  const from = names.indexOf(row.own[row.own.length - 1] ?? '');
  const to = names.indexOf(before.own[before.own.length - 1] ?? '');
  if (from < 0 || to < 0 || from === to) return null;
  return reordered(report, rows, row, (from < to ? to - 1 : to) - from);
}

/** The report with a figure that compares another with the column before. */
export function comparedBefore(report: Report, name: string, how: 'difference' | 'percent'): Report {
  const figure = report.figures.find((f) => f.name === name);
  const wanted = how === 'percent' ? `${name} change` : `${name} difference`;
  const made: Figure = { name: freeName(report, wanted), compare: name, with: 'period_before', as: how };
  const at = figure ? report.figures.indexOf(figure) + 1 : report.figures.length;
  return { ...report, figures: [...report.figures.slice(0, at), made, ...report.figures.slice(at)] };
}

/** The report with a figure hidden; figures that depend on it stay. */
export function hiddenFigure(report: Report, name: string): Report | null {
  if (report.figures.filter((f) => !f.hide).length < 2) return null;
  return { ...report, figures: report.figures.map((f) => (f.name === name ? { ...f, hide: true } : f)) };
}

/** The report with a column of figures at a width in characters; null for its automatic width. */
export function widened(report: Report, figure: string, width: number | null): Report {
  const others = Object.entries(report.layout?.widths ?? {}).filter(([name]) => name !== figure);
  const own: [string, number][] = width === null ? [] : [[figure, Math.max(2, Math.min(400, width))]];
  const widths = Object.fromEntries([...others, ...own]);
  return { ...report, layout: { ...report.layout, widths } };
}
