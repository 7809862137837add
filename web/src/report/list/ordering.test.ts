import { expect, test } from 'vitest';

import type { ReportLine } from '../../api/client';
import { first, ordered } from './ordering';

const REPORTS = [
  { id: 1, title: 'A', source: 'Sales' },
  { id: 2, title: 'B', source: 'Freight' },
  { id: 3, title: 'C', source: 'Sales' },
] as ReportLine[];
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
