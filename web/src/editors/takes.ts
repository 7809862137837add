import type { ColumnView, Taken } from '../api/client';

/** The available takes, in display order. */
export const TAKES = [
  'sum',
  'count',
  'count_values',
  'distinct',
  'mean',
  'median',
  'min',
  'max',
  'stdev',
  'variance',
  'percentile',
  'nth_largest',
  'nth_smallest',
  'weighted_mean',
  'first',
  'last',
  'balance',
  'stdev_pop',
  'variance_pop',
];

const NEEDS_NUMBER = new Set(['sum', 'mean', 'median', 'stdev', 'variance', 'min', 'max']);

/** The columns that a figure's take can be of. */
export const numbersFor = (figure: Taken, columns: ColumnView[]): string[] =>
  columns.filter((c) => !NEEDS_NUMBER.has(figure.take) || c.role === 'number').map((c) => c.name);

/** The figure with another take; of `column` if it had no column. */
export function retaken(figure: Taken, take: string, column: string | undefined): Taken {
  const next = { ...figure, take } as Taken;
  if (take === 'count') delete next.of;
  else next.of ??= column ?? '';
  return next;
}
