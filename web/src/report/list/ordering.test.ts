import { expect, test } from 'vitest';

import type { ReportLine } from '../../api/client';
import { first, NOBODY, NO_MARK, ordered, ordersOf } from './ordering';

const REPORTS = [
  { id: 1, title: 'A', source: 'Sales', marks: ['month-end', 'board'], made_by: 'ida' },
  { id: 2, title: 'B', source: 'Freight', marks: [], made_by: '' },
  { id: 3, title: 'C', source: 'Sales', marks: ['board'], made_by: 'ida' },
] as unknown as ReportLine[];
const opened = (id: number) => ({ 1: '2026-01-02', 3: '2026-02-01' })[id] ?? '';
const ids = (groups: ReturnType<typeof ordered>) =>
  groups.map((group) => [group.heading, ...group.reports.map((one) => one.id)]);

test('reports stand by title, by when they were opened, or under their sources', () => {
  expect(ids(ordered(REPORTS, 'title', opened))).toEqual([['', 1, 2, 3]]);
  expect(ids(ordered(REPORTS, 'opened', opened))).toEqual([['', 3, 1, 2]]);
  expect(ids(ordered(REPORTS, 'source', opened))).toEqual([
    ['Freight', 2],
    ['Sales', 1, 3],
  ]);
});

test('the first so many are taken over all headings', () => {
  const groups = ordered(REPORTS, 'source', opened);
  expect(ids(first(groups, 2))).toEqual([
    ['Freight', 2],
    ['Sales', 1],
  ]);
  expect(ids(first(groups, 1))).toEqual([['Freight', 2]]);
  expect(ids(first(groups, 9))).toEqual(ids(groups));
});

test('a report stands under each of its marks, those without one last; likewise by who made them', () => {
  expect(ids(ordered(REPORTS, 'mark', opened))).toEqual([
    ['board', 1, 3],
    ['month-end', 1],
    [NO_MARK, 2],
  ]);
  expect(ids(ordered(REPORTS, 'maker', opened))).toEqual([
    ['ida', 1, 3],
    [NOBODY, 2],
  ]);
});

test('only orders that tell reports apart are offered', () => {
  const names = (reports: ReportLine[]) => ordersOf(reports).map(([order]) => order);
  expect(names(REPORTS)).toEqual(['title', 'opened', 'source', 'mark', 'maker']);
  expect(names(REPORTS.slice(1, 2))).toEqual(['title', 'opened', 'source']);
});
