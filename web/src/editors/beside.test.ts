import { expect, test } from 'vitest';

import type { Report } from '../api/client';
import { withBeside } from './beside';

test('a source is set beside with a good guess', () => {
  const report = {
    kalendor: 1,
    kind: 'report',
    title: 'R',
    source: 'S',
    figures: [{ name: 'Net fare', take: 'sum', of: 'net' }],
    down: [{ category: 'route' }],
    across: [{ period: 'sold on', grains: ['month'] }],
  } as Report;
  const own = [
    { name: 'sold on', role: 'period' },
    { name: 'route', role: 'category' },
    { name: 'net', role: 'number' },
  ];
  const theirs = [
    { name: 'month', role: 'period' },
    { name: 'Route', role: 'category' },
    { name: 'planned', role: 'number' },
  ];
  const after = withBeside(report, 'Plan', own as never, theirs as never);
  expect(after.beside).toEqual([{ source: 'Plan', match: { route: 'Route', 'sold on': 'month' } }]);
  expect(after.figures.slice(1)).toEqual([
    { name: 'Plan', take: 'sum', of: 'planned', source: 'Plan' },
    { name: 'Off plan', compare: 'Net fare', with: { figure: 'Plan' }, as: 'percent' },
  ]);
});
