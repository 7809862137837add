import type { ReportLine } from '../../api/client';

export type Order = 'title' | 'opened' | 'source';
export const ORDERS: [Order, string][] = [
  ['title', 'by title'],
  ['opened', 'last opened first'],
  ['source', 'by source'],
];

/** Reports under headings: by source one for each, else all under none. `opened` says when each was opened here last, as text that
 * sorts; empty where it never was. */
export function ordered(
  reports: ReportLine[],
  order: Order,
  opened: (id: number) => string,
): { heading: string; reports: ReportLine[] }[] {
  if (order === 'opened') {
    const at = new Map(reports.map((one) => [one.id, opened(one.id)]));
    const latest = [...reports].sort((a, b) => (at.get(b.id) ?? '').localeCompare(at.get(a.id) ?? ''));
    return [{ heading: '', reports: latest }];
  }
  if (order === 'title') return [{ heading: '', reports }];
  const sources = [...new Set(reports.map((one) => one.source))].sort((a, b) => a.localeCompare(b));
  return sources.map((source) => ({
    heading: source,
    reports: reports.filter((one) => one.source === source),
  }));
}

/** The first so many reports of all, under their headings. */
export function first(groups: ReturnType<typeof ordered>, most: number): ReturnType<typeof ordered> {
  let left = most;
  return groups.flatMap((group) => {
    const reports = group.reports.slice(0, left);
    left -= reports.length;
    return reports.length ? [{ ...group, reports }] : [];
  });
}
