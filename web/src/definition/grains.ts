import type { PeriodEntry } from '../api/client';

/** Calendar grains from the coarsest to the finest; the last two need a column with times of day. */
export const GRAINS = ['year', 'half', 'quarter', 'month', 'week', 'day', 'hour', 'minute'] as const;
/** Grains that merge the same part of every year, month, week or day. */
export const MERGING = [
  'quarter_of_year',
  'month_of_year',
  'week_of_year',
  'day_of_month',
  'day_of_week',
  'hour_of_day',
] as const;
export type Plain = (typeof GRAINS)[number];
export type Grain = Plain | (typeof MERGING)[number];

const CLOCK = GRAINS.indexOf('hour');

/** The position of a grain among the calendar ones; −1 for any other. */
export const rank = (grain: unknown) => GRAINS.indexOf(grain as Plain);

/** The grains available for a column: those finer than a day if it has times. */
export const grainsFor = (clock: boolean): readonly Plain[] => (clock ? GRAINS : GRAINS.slice(0, CLOCK));

/** The innermost grain, which makes the lines or columns. */
export const finest = (entry: PeriodEntry) => entry.grains[entry.grains.length - 1];

/** The entry by another grain: it replaces the innermost, and those outside it that are not coarser go; a merging one stands
 * alone. */
export function byGrain(entry: PeriodEntry, grain: Grain): PeriodEntry {
  const outer = rank(grain) < 0 ? [] : entry.grains.filter((g) => rank(g) >= 0 && rank(g) < rank(grain));
  const kept = outer.filter((g) => g !== finest(entry));
  return { ...entry, grains: [...kept, grain], levels: null };
}

/** The entry with a coarser grain around its innermost added, or removed if present. */
export function withOuter(entry: PeriodEntry, grain: Plain): PeriodEntry {
  const has = entry.grains.includes(grain);
  const grains = has ? entry.grains.filter((g) => g !== grain) : [...entry.grains, grain];
  return { ...entry, grains: [...grains].sort((a, b) => rank(a) - rank(b)), levels: null };
}

/** The entry with its innermost grain a step coarser or finer; null if there is none. */
export function stepped(entry: PeriodEntry, by: 1 | -1, clock: boolean): PeriodEntry | null {
  const at = rank(finest(entry));
  const next = grainsFor(clock)[at + by];
  return at < 0 || !next ? null : byGrain(entry, next);
}
