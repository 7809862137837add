import { describe, expect, test } from 'vitest';

import { levelLabels, outline } from './outline';

const LABELS = ['A', 'a1', 'a2', 'A', 'B', 'b1', 'B', 'Total'];
const ROWS = {
  line: [1, 3, 4, 1, 2, 5, 2, 0],
  depth: [1, 2, 2, 1, 1, 2, 1, 0],
  role: ['heading', 'leaf', 'leaf', 'subtotal', 'heading', 'leaf', 'subtotal', 'grand'],
  label: LABELS,
  special: Array(8).fill(0),
  value: Array(8).fill(null),
  entry: Array(8).fill(0),
  name: LABELS,
};
const sheet = (more: object = {}) => ({ rows: ROWS, down: [{ name: 'x' }, { name: 'y' }], ...more }) as never;

describe('groups open to a level or by hand', () => {
  test.each([
    [9, {}, LABELS],
    [1, {}, ['A', 'B', 'Total']],
    [0, {}, ['Total']],
    [1, { B: true }, ['A', 'B', 'b1', 'B', 'Total']],
    [9, { A: false }, ['A', 'B', 'b1', 'B', 'Total']],
  ])('depth %i, by hand %j', (depth, byHand, want) => {
    const rows = outline(sheet(), { depth, byHand });
    expect(rows.map((row) => row.label)).toEqual(want);
    expect(rows.every((row) => row.filled || !['closed', 'leaf', 'grand'].includes(row.role))).toBe(true);
  });
});

test('records and space stand among the rows without being listed', () => {
  const listed = { columns: ['on'], numeric: [false], widths: [9], records: [0, 3, 0, 0, 0, 2, 0, 0] };
  const role = ['heading', 'heading', 'leaf', 'subtotal', 'heading', 'heading', 'subtotal', 'grand'];
  const found = outline(sheet({ rows: { ...ROWS, role }, listed }), { depth: 9, byHand: {} }, false);
  expect(found.map((row) => row.records)).toEqual([0, 3, 0, 0, 0, 2, 0, 0]);
});

test.each([
  [{ path: 'A\x1fa2', depth: 2, label: 'a2' }, { path: 'A\x1fa1', depth: 2 }, false, ['', 'a2']],
  [{ path: 'A\x1fa2', depth: 2, label: 'a2' }, { path: 'A\x1fa1', depth: 2 }, true, ['A', 'a2']],
  [{ path: 'B\x1fa1', depth: 2, label: 'a1' }, { path: 'A\x1fa1', depth: 2 }, false, ['B', 'a1']],
  [{ path: 'A', depth: 1, label: 'A total' }, { path: 'A\x1fa1', depth: 2 }, false, ['A total', '']],
  [{ path: '', depth: 0, label: 'Total' }, { path: 'A', depth: 1 }, false, ['Total', '']],
])('labels stand once or on each line: %j after %j', (row, before, each, want) => {
  expect(levelLabels(row as never, before as never, 2, each)).toEqual(want);
});
