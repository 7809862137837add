import { expect, test } from 'vitest';

import type { SheetView } from '../../api/client';
import { first, periods } from './periods';

const sheet = (roles: string[], total: string[], kind = 'period') =>
  ({
    across: [{ name: 'year', kind }],
    columns: roles.map((role, id) => ({ id, role, labels: [`c${id}`] })),
    figures: [{ name: 'f' }],
    rows: { line: [1, 0] },
    first: 0,
    cells: { 0: total },
  }) as unknown as SheetView;

test('the latest period stands first, the total over all last', () => {
  const found = periods(sheet(['leaf', 'leaf', 'grand'], ['1', '2', '3']));
  expect(found.map((one) => one.at)).toEqual([1, 0, 2]);
});

test('categories keep their order', () => {
  const found = periods(sheet(['leaf', 'leaf', 'grand'], ['1', '2', '3'], 'category'));
  expect(found.map((one) => one.at)).toEqual([0, 1, 2]);
});

test('a period without a number is not the first one shown', () => {
  const found = sheet(['leaf', 'leaf', 'subtotal', 'grand'], ['1', '', '1', '1']);
  const among = periods(found);
  expect(among.map((one) => one.at)).toEqual([2, 1, 0, 3]);
  expect(among[first(found, among)]?.at).toBe(0);
});
