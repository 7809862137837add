import { describe, expect, test } from 'vitest';

import type { BoardView } from '../api/client';
import { firstOf, moved } from './picking';

const crossing = (last_day: string, state: string, more: object = {}) => ({
  last_day,
  state,
  edition: state === 'issued' || state === 'restated' ? 1 : null,
  moved: null,
  ...more,
});
const board = (...rows: [number, ...object[][]][]) =>
  ({ rows: rows.map(([id, ...cells]) => ({ id, cells })) }) as unknown as BoardView;
const at = (report: number, lastDay: string) => ({ report, lastDay });
const [JULY, JUNE, MAY] = ['2026-07-31', '2026-06-30', '2026-05-31'];

describe('what is looked at first', () => {
  test.each([
    ['late before due', board([1, [crossing(JULY, 'due')]], [2, [crossing(JULY, 'late')]]), at(2, JULY)],
    [
      'due before waiting',
      board([1, [crossing(JULY, 'waiting')]], [2, [crossing(JULY, 'due')]]),
      at(2, JULY),
    ],
    [
      'what has moved',
      board([1, [crossing(JUNE, 'issued', { moved: true })], [crossing(JULY, 'issued')]]),
      at(1, JUNE),
    ],
    ['else the last one', board([1, [crossing(JUNE, 'issued')], [crossing(JULY, 'issued')]]), at(1, JULY)],
    ['nothing that is past', board([1, [crossing(JULY, 'past')]]), null],
    ['nothing where there is none', board(), null],
  ])('%s', (_, rows, want) => expect(firstOf(rows)).toEqual(want));
});

test('keys lead over empty crossings and stop at the edge', () => {
  const weeks = [crossing('2026-07-05', 'issued'), crossing('2026-07-12', 'issued')];
  const rows = board(
    [1, [crossing(MAY, 'issued')], [], [crossing(JULY, 'due')]],
    [2, [], weeks, [crossing(JULY, 'late')]],
  );
  expect(moved(rows, at(1, MAY), 0, 1)).toEqual(at(1, JULY));
  expect(moved(rows, at(1, JULY), 0, 1)).toEqual(at(1, JULY));
  expect(moved(rows, at(1, JULY), 1, 0)).toEqual(at(2, JULY));
  expect(moved(rows, at(2, JULY), 0, -1)).toEqual(at(2, '2026-07-12'));
  expect(moved(rows, at(2, '2026-07-12'), -1, 0)).toEqual(at(2, '2026-07-12'));
  expect(moved(rows, at(9, JULY), 0, 1)).toEqual(at(9, JULY));
});
