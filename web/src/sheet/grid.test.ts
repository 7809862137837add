import { expect, test } from 'vitest';

import { led } from './grid';

test.each([
  ['ArrowDown', false, [3, 1]],
  ['ArrowUp', true, [0, 1]],
  ['ArrowRight', true, [2, 5]],
  ['ArrowLeft', false, [2, 0]],
  ['Home', false, [2, -1]],
  ['End', true, [9, 5]],
  ['PageDown', false, [9, 1]],
  ['x', false, null],
] as const)('%s leads about the sheet', (key, whole, want) => {
  expect(led({ row: 2, place: 1 }, key, whole, 10, 6)).toEqual(want && { row: want[0], place: want[1] });
});
