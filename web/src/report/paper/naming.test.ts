import { expect, test } from 'vitest';

import type { Report } from '../../api/client';
import { namesOfColumn, withoutYear } from './naming';

const report = (across: unknown[]): Report => ({ across, figures: [] }) as unknown as Report;
const months = { period: 'sold on', grains: ['year', 'month'] };

test('a period goes without its year wherever the year stands', () => {
  const labels = ['Apr 2026', 'FY26 Q3', 'FY2025/26 H1', '2026 W05', 'Q2 2026'];
  expect(labels.map(withoutYear)).toEqual(['Apr', 'Q3', 'H1', 'W05', 'Q2']);
  expect(['Monday', '2026', 'Apr', '08:00', '31'].map(withoutYear)).toEqual(Array(5).fill(null));
});

test('each member above a column can be named, a month also in every year', () => {
  const found = namesOfColumn(report([months, { category: 'fare class' }]), ['2026', 'Apr 2026', 'Child']);
  expect(found.map(({ entry, path, every, before }) => [entry, path.length, every, before])).toEqual([
    [0, 1, false, '2026'],
    [0, 2, true, 'Apr'],
    [0, 2, false, 'Apr 2026'],
    [1, 1, false, 'Child'],
  ]);
});

test('ranges are named where their cuts are, and what stands past a tree is left alone', () => {
  expect(namesOfColumn(report([{ bucket: 'fare', cut: [0, 10] }]), ['0 up to 10'])).toEqual([]);
  const tree = { category: 'route', tree: 'Regions' };
  expect(namesOfColumn(report([tree, months]), ['North', 'A', '2026']).map((one) => one.entry)).toEqual([
    0, 0, 0,
  ]);
});
