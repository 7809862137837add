import { expect, test } from 'vitest';

import { bytes } from './bytes';

test('sizes are said in the unit that fits', () => {
  expect([0, 1, 999, 1000, 12_430, 264_667_451, 2_150_000_000].map(bytes)).toEqual([
    '0 bytes',
    '1 bytes',
    '999 bytes',
    '1.0 KB',
    '12.4 KB',
    '265 MB',
    '2.1 GB',
  ]);
});
