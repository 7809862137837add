import fc from 'fast-check';
import { expect, test } from 'vitest';

import type { PeriodEntry } from '../api/client';
import { byGrain, finest, GRAINS, MERGING, rank, stepped, withOuter, type Grain, type Plain } from './grains';

const entry = (...grains: Grain[]): PeriodEntry => ({ period: 'sold on', grains }) as PeriodEntry;
const grain = fc.constantFrom<Grain>(...GRAINS, ...MERGING);
const plain = fc.constantFrom<Plain>(...GRAINS);

/** Any entry that can come of choosing: what is chosen one after another. */
const chosen = fc
  .array(fc.oneof(fc.record({ by: grain }), fc.record({ outer: plain })), { maxLength: 8 })
  .map((steps) =>
    steps.reduce((now, step) => {
      if ('by' in step) return byGrain(now, step.by);
      const last = rank(finest(now));
      return last > rank(step.outer) ? withOuter(now, step.outer) : now;
    }, entry('month')),
  );

test('a grain replaces the one before and keeps those around it', () => {
  expect(byGrain(entry('month'), 'quarter').grains).toEqual(['quarter']);
  expect(byGrain(entry('year', 'month'), 'day').grains).toEqual(['year', 'day']);
  expect(byGrain(entry('year', 'quarter', 'month'), 'quarter').grains).toEqual(['year', 'quarter']);
  expect(byGrain(entry('year', 'month'), 'hour_of_day').grains).toEqual(['hour_of_day']);
  expect(byGrain(entry('hour_of_day'), 'month').grains).toEqual(['month']);
});

test('steps go to minutes where there are times, and to days where there are none', () => {
  expect(stepped(entry('day'), 1, true)?.grains).toEqual(['hour']);
  expect(stepped(entry('hour'), 1, true)?.grains).toEqual(['minute']);
  expect(stepped(entry('day'), 1, false)).toBeNull();
  expect(stepped(entry('year'), -1, true)).toBeNull();
});

test('whatever is chosen, grains go from coarse to fine, each once, and a merging one stands alone', () => {
  fc.assert(
    fc.property(chosen, ({ grains }) => {
      expect(grains.length).toBeGreaterThan(0);
      expect(new Set(grains).size).toBe(grains.length);
      const ranks = grains.map(rank);
      if (ranks.includes(-1)) expect(grains.length).toBe(1);
      expect(ranks).toEqual([...ranks].sort((a, b) => a - b));
    }),
  );
});

test('a step finer and back is no step, where nothing around it was lost', () => {
  fc.assert(
    fc.property(chosen, (one) => {
      const finer = stepped(one, 1, true);
      if (!finer) return;
      expect(stepped(finer, -1, true)?.grains).toEqual(one.grains);
    }),
  );
});
