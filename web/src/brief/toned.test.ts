import { expect, test } from 'vitest';

import { toned } from './toned';

const FIGURE = { start: 0, end: 3, tone: 'figure' };
const UNKNOWN = { start: 7, end: 14, tone: 'unknown' };

test.each([
  [[], [['net by refunds, x', '']]],
  [
    [FIGURE, UNKNOWN],
    [
      ['net', 'figure'],
      [' by ', ''],
      ['refunds', 'unknown'],
      [', x', ''],
    ],
  ],
  [
    [UNKNOWN, { start: 4, end: 17, tone: 'condition' }],
    [
      ['net ', ''],
      ['by ', 'condition'],
      ['refunds', 'unknown'],
      [', x', 'condition'],
    ],
  ],
  [
    [{ start: 15, end: 40, tone: 'tree' }],
    [
      ['net by refunds,', ''],
      [' x', 'tree'],
    ],
  ],
])('words take the tone of what they became: %j', (heard, want) => {
  expect(toned('net by refunds, x', heard as never)).toEqual(want);
});
