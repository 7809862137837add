import { expect, test } from 'vitest';

import type { Figure, Report } from '../api/client';
import { shifted, turned, withFigure, withLine, without } from './change';

const SUM = { name: 'Net fare', take: 'sum', of: 'net' } as Figure;
const REPORT: Report = { kalendor: 1, kind: 'report', title: 'R', source: 'S', figures: [SUM] };
const AREAS = { category: 'route', tree: 'Sea areas', levels: ['Sea area', 'Route'] };
const phrase = (kind: string) => ({ kind, index: 0, text: '', tone: 'tree' }) as never;

test('figures follow a figure that is renamed', () => {
  const change = { name: 'Change', compare: 'Net fare', with: 'year_earlier', as: 'percent' } as Figure;
  const ratio = { name: 'Ratio', formula: '"Net fare" / "Tickets"' } as Figure;
  const after = withFigure({ ...REPORT, figures: [SUM, change, ratio] }, 0, { ...SUM, name: 'Fare' });
  expect(after.figures[1]).toMatchObject({ compare: 'Fare' });
  expect(after.figures[2]).toMatchObject({ formula: '"Fare" / "Tickets"' });
});

test('an entry turns from down to across, and phrases move', () => {
  const report = { ...REPORT, down: [AREAS, { category: 'fare' }] } as Report;
  expect(turned(report, 'down', 0)).toMatchObject({ down: [{ category: 'fare' }], across: [AREAS] });
  expect(shifted(report, phrase('down'), 1).down).toEqual([{ category: 'fare' }, AREAS]);
  expect(without(report, phrase('down')).down).toEqual([{ category: 'fare' }]);
});

test('a source beside goes with all that rests on it', () => {
  const figures = [
    SUM,
    { name: 'Plan', take: 'sum', of: 'planned', source: 'Plan' },
    { name: 'Off plan', compare: 'Net fare', with: { figure: 'Plan' }, as: 'percent' },
    { name: 'Twice', formula: '"Off plan" * 2' },
  ] as Figure[];
  const report: Report = { ...REPORT, figures, beside: [{ source: 'Plan', match: { a: 'b' } }] };
  expect(without(report, phrase('beside'))).toMatchObject({ figures: [SUM], beside: [] });
});

test('a line is made of chosen lines', () => {
  const chosen = { labels: ['Sales', 'The "cost"'], last: 'Sales' };
  const once = withLine(REPORT, 'Account', chosen);
  expect(once.lines?.[0]).toEqual({
    name: 'Sales less The "cost"',
    level: 'Account',
    formula: '"Sales" - "The ""cost"""',
    after: 'Sales',
  });
  expect(withLine(once, 'Account', chosen).lines?.[1]?.name).toBe('Sales less The "cost" 2');
});
