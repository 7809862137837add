import * as fc from 'fast-check';
import { expect, test } from 'vitest';

import type { Report } from '../api/client';
import { merged } from './merging';

type Doc = { title: string; as_of: string | null; only: string[]; figures: { name: string; take: string }[] };
const ONLY = ['a > 1', 'b > 2', 'c > 3', 'd > 4'];
const FIGURES = ['Net', 'Gross', 'Records', 'Share'].map((name) => ({ name, take: 'count' }));
const TITLES = ['One', 'Two', 'Three'];
const DAYS = [null, '2026-07-31', '2026-08-31'];
const BASE: Doc = { title: 'One', as_of: null, only: [], figures: [{ name: 'Net', take: 'count' }] };

const CHANGES = fc.array(fc.tuple(fc.constantFrom('set', 'add', 'drop'), fc.boolean(), fc.nat({ max: 3 })), {
  maxLength: 4,
});
type Changes = [string, boolean, number][];

const same = (one: unknown, other: unknown) => JSON.stringify(one) === JSON.stringify(other);
const join = (one: Doc, mine: Doc, theirs: Doc) =>
  merged(one as unknown as Report, mine as unknown as Report, theirs as unknown as Report) as Doc | null;

function changed(document: Doc, steps: Changes): Doc {
  const made = structuredClone(document);
  for (const [step, first, n] of steps) {
    const list = (first ? made.only : made.figures) as unknown[];
    const phrase: unknown = first ? ONLY[n] : FIGURES[n];
    const at = list.findIndex((one) => same(one, phrase));
    if (step === 'set' && first) made.title = TITLES[n % 3] ?? '';
    else if (step === 'set') made.as_of = DAYS[n % 3] ?? null;
    else if (step === 'add' && at < 0) list.splice(n % (list.length + 1), 0, phrase);
    else if (step === 'drop' && at >= 0) list.splice(at, 1);
  }
  return made;
}

test('no change is lost, and none is taken for another', () => {
  fc.assert(
    fc.property(CHANGES, CHANGES, CHANGES, (first, mine, theirs) => {
      const base = changed(BASE, first);
      const [one, other] = [changed(base, mine), changed(base, theirs)];
      expect(join(base, base, other)).toEqual(other);
      expect(join(base, one, base)).toEqual(one);
      const both = join(base, one, other);
      const keys = ['title', 'as_of', 'only', 'figures'] as const;
      if (!both) {
        expect(keys.some((key) => !same(one[key], base[key]) && !same(other[key], base[key]))).toBe(true);
        return;
      }
      for (const key of ['title', 'as_of'] as const) {
        const wanted = same(one[key], base[key]) ? other[key] : one[key];
        expect(both[key]).toEqual(wanted);
      }
      for (const key of ['only', 'figures'] as const) {
        const texts = [base, one, other].map((doc) => doc[key].map((phrase) => JSON.stringify(phrase)));
        const [b, m, t] = texts as [string[], string[], string[]];
        const stays = b.filter((text) => m.includes(text) && t.includes(text));
        const came = [...m, ...t].filter((text) => !b.includes(text));
        const found = both[key].map((phrase) => JSON.stringify(phrase));
        expect([...found].sort()).toEqual([...new Set([...stays, ...came])].sort());
      }
    }),
    { numRuns: 500 },
  );
});

test('what both took away for something else is one person’s choice', () => {
  const base = { down: [{ category: 'area' }], figures: [] } as unknown as Report;
  const by = (down: unknown[]) => ({ ...base, down }) as Report;
  const one = by([{ category: 'area', order: 'label' }]);
  expect(merged(base, one, by([{ category: 'area', order: 'label_desc' }]))).toBeNull();
  expect(merged(base, one, one)).toEqual(one);
  const more = by([{ category: 'area' }, { category: 'route' }]);
  expect(merged(base, one, more)?.down).toEqual([
    { category: 'area', order: 'label' },
    { category: 'route' },
  ]);
});
