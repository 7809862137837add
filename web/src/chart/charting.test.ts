import { expect, test } from 'vitest';

import { drawn, ticksOver } from './charting';

const NUMBERS = {
  lines: ['a', 'b'],
  series: ['x', 'y'],
  values: [
    [1, 3],
    [2, -2],
  ],
  texts: [
    ['1', '3'],
    ['2', '(2)'],
  ],
};
const bars = (...[kind, upright, more]: [string, boolean, object?]) =>
  drawn({ ...NUMBERS, ...more } as never, kind as never, upright, { width: 1180, height: 400 });
const width = (found: ReturnType<typeof bars>, k: number) => found.bars[k]?.width ?? NaN;
const x = (found: ReturnType<typeof bars>, k: number) => found.bars[k]?.x ?? NaN;

test('a chart has a bar for each number', () => {
  const found = bars('bars', false);
  expect(found.bars.map((bar) => bar.title)).toEqual(['a, x: 1', 'a, y: 3', 'b, x: 2', 'b, y: (2)']);
  expect(found.bars[3]?.negative).toBe(true);
  expect(width(found, 1)).toBeCloseTo(3 * width(found, 0));
});

test('few lying bars bear their numbers', () => {
  expect(bars('bars', false).notes?.map((note) => note.text)).toEqual(['1', '3', '2', '(2)']);
  const many = {
    lines: Array(40).fill('a'),
    values: Array(40).fill([1, 2]),
    texts: Array(40).fill(['1', '2']),
  };
  expect(bars('bars', false, many).notes).toEqual([]);
});

test('shares fill the whole', () => {
  const found = bars('stacked', false);
  expect(width(found, 0) + width(found, 1)).toBeCloseTo(width(found, 2) + width(found, 3));
});

test('ages stand beside each other, a credit to the other side', () => {
  const values = [
    [2, -1],
    [4, 4],
  ];
  const found = bars('ages', false, { values });
  expect(found.bars.map((bar) => bar.series)).toEqual([0, 1, 0, 1]);
  expect(x(found, 1) + width(found, 1)).toBeCloseTo(x(found, 0));
  expect(x(found, 2) + width(found, 2)).toBeCloseTo(x(found, 3));
  expect(width(found, 2)).toBeCloseTo(2 * width(found, 0));
});

test('upright ages say their part of the whole', () => {
  const values = [
    [2, 1],
    [4, 3],
  ];
  const found = bars('ages', true, { values });
  expect(found.bars.map((bar) => bar.series)).toEqual([0, 1]);
  expect((found.notes ?? []).map((note) => note.text)).toEqual(['25.0%', '75.0%']);
});

test('a bridge leads from the first to the last', () => {
  expect(bars('bridge', true).names.map((name) => name.label)).toEqual(['x', 'a', 'b', 'y']);
  expect(ticksOver(0, 10)).toEqual([0, 2, 4, 6, 8, 10]);
});

test('nothing of a narrow chart stands outside it', () => {
  for (const way of ['bars', 'stacked', 'bridge'] as const)
    for (const upright of [true, false]) {
      const { bars, width } = drawn(NUMBERS as never, way, upright, { width: 330, height: 300 });
      expect(bars.every((bar) => bar.x >= 0 && bar.x + bar.width <= width)).toBe(true);
    }
});
