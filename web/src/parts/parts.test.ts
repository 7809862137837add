import { describe, expect, test } from 'vitest';

import { datesIn } from './dates';
import { plainNumber } from './numbers';
import { columnsOf, quotedName, quotedText } from './sql';
import { counted, inFull, listed, money, span } from './words';

test.each([
  ['1250.50', '1250.50'],
  ['£1,250.50', '1250.50'],
  ['(45.00)', '-45.00'],
  ['45.00-', '-45.00'],
  ['-3', '-3'],
  ['many', ''],
  ['1.2.3', ''],
  ['', ''],
])('totals are typed as people write them: %j', (text, want) => expect(plainNumber(text)).toBe(want));

test.each([
  ['2026-12-25, 2026-01-01\n2026-12-25', ['2026-01-01', '2026-12-25']],
  ['', []],
  ['25/12/2026', null],
  ['2026-13-01', null],
  ['2026-01-01 soon', null],
])('days are written year first: %j', (text, want) => expect(datesIn(text)).toEqual(want));

describe('words', () => {
  test('of money and counts', () => {
    expect(['1234567.50', '-1234', ''].map((text) => money(text))).toEqual(['1,234,567.50', '-1,234', '']);
    expect([counted(1, 'line'), counted(1200, 'line')]).toEqual(['1 line', '1,200 lines']);
    expect(listed(['a', 'b', 'c'])).toBe('a, b and c');
  });
  test('of days', () => {
    expect(span('2026-01-05', '2026-03-01')).toBe('5 Jan – 1 Mar 2026');
    expect(span('2025-01-05', '2026-03-01')).toBe('5 Jan 2025 – 1 Mar 2026');
    expect(span('2026-01-05', '2026-01-05')).toBe('5 Jan 2026');
    expect(['Jul 2026', 'May 2026', 'TY26 Q3', '2026-W27'].map(inFull)).toEqual([
      'July 2026',
      'May 2026',
      'TY26 Q3',
      '2026-W27',
    ]);
  });
});

test('columns of a condition are named for short, names and texts quoted', () => {
  const condition = "fare = 'a by b' AND \"sold on\" IS NOT NULL OR UPPER(fare) = 'X'";
  expect(columnsOf(condition)).toBe('fare and sold on');
  expect([quotedName('order'), quotedText("it's")]).toEqual(['"order"', "'it''s'"]);
});
