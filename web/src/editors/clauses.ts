import type { Clause, ColumnView } from '../api/client';

export type Kind = Clause['kind'];

/** A column as conditions see it. */
export const kindOf = (columns: ColumnView[], name: string): Kind => {
  const found = columns.find((column) => column.name === name);
  if (found?.kind === 'yes_no') return 'yes_no';
  if (found?.kind === 'date' || found?.kind === 'datetime') return 'date';
  return found?.role === 'number' || ['whole', 'decimal', 'approximate'].includes(found?.kind ?? '')
    ? 'number'
    : 'text';
};

/** Whether a test compares with a list of values. */
export const isList = (test: string) => test === 'among' || test === 'not among';

/** How many values a test needs. */
export const needs = (test: string): number =>
  test === 'between' || test === 'last' ? 2 : ['blank', 'filled', 'yes', 'no'].includes(test) ? 0 : 1;

/** Whether a clause is complete. */
export const isWhole = ({ column, test, values }: Clause): boolean =>
  column !== '' &&
  (isList(test)
    ? values.length > 0
    : values.length >= needs(test) && values.slice(0, needs(test)).every((value) => value.trim() !== ''));
