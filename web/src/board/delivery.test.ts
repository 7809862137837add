import { expect, test } from 'vitest';

import { fromLines } from './delivery';

test.each([
  [
    'a@x.example\nb@x.example = Inner Sound\n\n',
    [
      ['a@x.example', null],
      ['b@x.example', 'Inner Sound'],
    ],
  ],
  [' a@x.example =  North = South ', [['a@x.example', 'North = South']]],
  ['', []],
  ['\n \n', []],
  ['a@x.example =', [['a@x.example', null]]],
])('receivers are written one a line: %j', (text, want) => {
  expect(fromLines(text).map((one) => [one.address, one.member])).toEqual(want);
});
