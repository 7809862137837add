import type { ReportLine } from '../../api/client';

export type Order = 'title' | 'opened' | 'source' | 'mark' | 'maker';
const ORDERS: [Order, string][] = [
  ['title', 'by title'],
  ['opened', 'last opened first'],
  ['source', 'by source'],
  ['mark', 'by mark'],
  ['maker', 'by who made it'],
];

export const NO_MARK = 'Without a mark';
export const NOBODY = 'Before anybody signed in';

/** The useful orders of reports: by mark if there are marks, by author if there are several. */
export const ordersOf = (reports: ReportLine[]): [Order, string][] =>
  ORDERS.filter(([order]) => {
    if (order === 'mark') return reports.some((one) => one.marks.length > 0);
    return order !== 'maker' || new Set(reports.map((one) => one.made_by)).size > 1;
  });

type Group = { heading: string; reports: ReportLine[] };

/** Reports grouped under the headings given by `of`; the heading `last` comes last. */
function under(reports: ReportLine[], of: (one: ReportLine) => string[], last = ''): Group[] {
  const groups = new Map<string, ReportLine[]>();
  for (const one of reports)
    for (const heading of of(one)) groups.set(heading, [...(groups.get(heading) ?? []), one]);
  return [...groups]
    .map(([heading, found]) => ({ heading, reports: found }))
    .sort(
      (a, b) => Number(a.heading === last) - Number(b.heading === last) || a.heading.localeCompare(b.heading),
    );
}

/** Reports under headings: of their sources, of one's own marks (a report stands under each), or of who made them; else all
 * under none. `opened` says when each was opened here last, as text that sorts; empty where it never was. */
export function ordered(reports: ReportLine[], order: Order, opened: (id: number) => string): Group[] {
  if (order === 'opened') {
    const at = new Map(reports.map((one) => [one.id, opened(one.id)]));
    const latest = [...reports].sort((a, b) => (at.get(b.id) ?? '').localeCompare(at.get(a.id) ?? ''));
    return [{ heading: '', reports: latest }];
  }
  if (order === 'source') return under(reports, (one) => [one.source]);
  if (order === 'mark') return under(reports, (one) => (one.marks.length ? one.marks : [NO_MARK]), NO_MARK);
  if (order === 'maker') return under(reports, (one) => [one.made_by || NOBODY], NOBODY);
  return [{ heading: '', reports }];
}

/** The first `count` reports, under their headings. */
export function first(groups: Group[], most: number): Group[] {
  let left = most;
  return groups.flatMap((group) => {
    const reports = group.reports.slice(0, left);
    left -= reports.length;
    return reports.length ? [{ ...group, reports }] : [];
  });
}
