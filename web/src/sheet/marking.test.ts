import { expect, test } from 'vitest';

import { marked } from './marking';

test('moved cells are marked where the difference can be seen', () => {
  const sheet = {
    figures: [{ name: 'A' }, { name: 'B' }],
    columns: [{ id: 0 }, { id: 4 }],
    widths: [4, 4, 4, 4],
    cells: {},
    rows: {},
  };
  const cells = [
    { figure: 'B', line: 7, column: 4, was: '100.00', now: '1,000.00' },
    { figure: 'A', line: 7, column: 0, was: '0.1%', now: '0.1%' },
    { figure: 'A', line: null, column: null, was: '1', now: '' },
    { figure: 'Gone', line: 7, column: 0, was: '1', now: '2' },
    { figure: 'A', line: 7, column: 99, was: '1', now: '2' },
  ];
  const found = marked(sheet as never, cells as never);
  expect(found.widths).toEqual([4, 4, 4, 15]);
  expect([...found.marks]).toEqual([['7:3', { was: '100.00', now: '1,000.00' }]]);
});
