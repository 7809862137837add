import type { AxisEntry, ColumnView, Figure, Report } from '../../api/client';
import { freeName } from '../change';
import { capital } from '../../parts/words';
import type { Tone } from './sentence';

/** What a new condition is about: a column of the records, or the lines of a level. */
export type Beginning = { only: string } | { keep: string };

/** A phrase that could be added. `words` are everyday names by which it is found besides its own; `weight` puts what fits
 * first. `begin` says what a condition that starts empty is about, in the place of `add`. */
export interface Offer {
  text: string;
  hint: string;
  tone: Tone;
  words: string;
  weight: number;
  add?: (report: Report) => Report | Promise<Report>;
  begin?: Beginning;
  /** The grouping that it would use on a column, if any. */
  on?: { kind: 'tree' | 'calendar'; column: string; name: string };
}

type Make = (report: Report) => Figure;

/** An offer of a figure. */
export const figureOffer = (
  text: string,
  words: string,
  weight: number,
  make: Make,
  hint = 'figure',
): Offer => ({
  text,
  hint,
  tone: 'figure',
  words,
  weight,
  add: (report) => ({ ...report, figures: [...report.figures, make(report)] }),
});

/** Offers of an entry, across and down. */
export function entryOffers(
  text: string,
  entry: AxisEntry,
  more: Pick<Offer, 'hint' | 'tone' | 'words' | 'weight'> & Partial<Offer>,
  ways: ('down' | 'across')[] = ['down', 'across'],
): Offer[] {
  return ways.map((way, i) => ({
    ...more,
    text: `${way} by ${text}`,
    weight: more.weight - i * 2,
    add: (report: Report) => ({ ...report, [way]: [...(report[way] ?? []), entry] }),
  }));
}

/** A condition that is whole as it is offered. */
export const onlyOffer = (text: string, words: string, weight: number, condition: string): Offer => ({
  text,
  hint: 'condition',
  tone: 'condition',
  words,
  weight,
  add: (report) => ({ ...report, only: [...(report.only ?? []), condition] }),
});

/** A figure of a take, with a name that tells it from others. */
export const taken = (column: ColumnView, take: string, named: string, more: object = {}): Make => {
  const plain = take === 'sum' ? capital(column.name.replaceAll('_', ' ')) : capital(named);
  return (report) => ({ name: freeName(report, plain), take: take as 'sum', of: column.name, ...more });
};

/** `1st`, `2nd`, `3rd`, `4th`. */
export const ordinal = (n: number): string => {
  const tail = n % 100 > 10 && n % 100 < 14 ? 'th' : (['th', 'st', 'nd', 'rd'][n % 10] ?? 'th');
  return `${n}${tail}`;
};
