import { expect, test } from 'vitest';

import type { Report } from '../api/client';
import { renamedInFormula, withFigureRenamed } from './renaming';

const REPORT = {
  kalendor: 1,
  kind: 'report',
  title: 'Net',
  source: 'Net',
  figures: [
    { name: 'Net', take: 'sum', of: 'Net', where: 'Net > 0' },
    { name: 'Change', compare: 'Net', with: { figure: 'Net' }, as: 'percent' },
    { name: 'Rate', formula: 'Net / "Net" + NET * 2 + COALESCE(net, 0)' },
    { name: 'Share', share: 'Net' },
    { name: 'Run', running: 'Net' },
    { name: 'Move', moving: 'Net', periods: 2 },
    { name: 'Rank', rank: 'Net' },
  ],
  down: [{ category: 'Net', top: 3, by: 'Net', order: { by: 'Net', desc: true } }],
  across: [{ category: 'b', order: { by: 'Net' } }],
  keep: [{ level: 'Net', where: "Net > 10 AND note <> 'Net'" }],
  controls: [{ figure: 'Net', expect: '1' }],
  notes: [{ text: 'Net', figure: 'Net' }],
  cadence: { limits: [{ figure: 'Net', against: 'year_earlier', percent: 5 }] },
  layout: { widths: { Net: 9, '': 4 } },
  silenced: [{ keep: { level: 'Net', where: 'net < 5' } }],
} as unknown as Report;

test("a figure's new name is followed wherever its old one is meant, and nowhere else", () => {
  expect(withFigureRenamed(REPORT, 'Net', 'Net sales')).toMatchObject({
    figures: [
      { of: 'Net', where: 'Net > 0' },
      { compare: 'Net sales', with: { figure: 'Net sales' } },
      { formula: '"Net sales" / "Net sales" + "Net sales" * 2 + COALESCE("Net sales", 0)' },
      { share: 'Net sales' },
      { running: 'Net sales' },
      { moving: 'Net sales' },
      { rank: 'Net sales' },
    ],
    down: [{ category: 'Net', top: 3, by: 'Net sales', order: { by: 'Net sales', desc: true } }],
    across: [{ order: { by: 'Net sales' } }],
    keep: [{ level: 'Net', where: '"Net sales" > 10 AND note <> \'Net\'' }],
    controls: [{ figure: 'Net sales' }],
    notes: [{ text: 'Net', figure: 'Net sales' }],
    cadence: { limits: [{ figure: 'Net sales' }] },
    layout: { widths: { 'Net sales': 9, '': 4 } },
    silenced: [{ keep: { where: '"Net sales" < 5' } }],
  });
});

test.each([
  ['a.b', 'a.b'],
  ['abs(abs)', 'abs("x y")'],
  ["'abs' || abs", '\'abs\' || "x y"'],
  ['"say ""abs""" + abs', '"say ""abs""" + "x y"'],
])('only the name itself is followed in %s', (formula, want) => {
  expect(renamedInFormula(formula, 'abs', 'x y')).toBe(want);
});
