import { afterEach, describe, expect, test } from 'vitest';

import { COMMON, fromField, inField, writeIn, writeInOwn } from './notation';
import { plainNumber } from './numbers';
import { count, counted, day, money, span } from './words';

afterEach(() => {
  writeInOwn({ ...COMMON });
});

describe('notation', () => {
  test.each([
    [',', '.', '1.234.567,50', '12.345'],
    [',', '\u00a0', '1\u00a0234\u00a0567,50', '12\u00a0345'],
    ['.', '’', '1’234’567.50', '12’345'],
    [',', '', '1234567,50', '12345'],
  ] as const)('decimal %j and thousands %j', (decimal, thousands, amount, records) => {
    writeInOwn({ decimal, thousands, dates: 'mixed' });
    expect(money('1234567.50')).toBe(amount);
    expect(counted(12345, 'record')).toBe(`${records} records`);
    expect(fromField(amount)).toBe('1234567.50');
    expect(fromField(inField('-1234.5'))).toBe('-1234.5');
    expect(plainNumber(`(${amount})`)).toBe('-1234567.50');
  });

  test('the order of a date', () => {
    const said = (dates: typeof COMMON.dates) => {
      writeInOwn({ ...COMMON, dates });
      return [day('2026-07-31'), span('2026-07-01', '2026-07-31')];
    };
    expect(said('mixed')).toEqual(['31 Jul 2026', '1 Jul – 31 Jul 2026']);
    expect(said('month')).toEqual(['Jul 31, 2026', 'Jul 1, 2026 – Jul 31, 2026']);
    expect(said('year')).toEqual(['2026-07-31', '2026-07-01 – 2026-07-31']);
  });

  test('an edition is shown as it was issued, what comes after it as the workspace has it', () => {
    writeInOwn({ decimal: ',', thousands: '.', dates: 'day' });
    writeIn(COMMON);
    expect(count(1234.5)).toBe('1,234.5');
    writeIn(undefined);
    expect(count(1234.5)).toBe('1.234,5');
  });
});
