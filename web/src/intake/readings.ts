import type { ColumnReading } from '../api/client';

type Known = NonNullable<ColumnReading['type']> | 'percent';

/** The ways in which a column can be read, and what they are called. */
export const READINGS: [Known, string][] = [
  ['text', 'text'],
  ['whole', 'whole number'],
  ['decimal', 'number with places'],
  ['percent', 'percentage'],
  ['approximate', 'approximate number'],
  ['date', 'date'],
  ['datetime', 'date and time'],
  ['time', 'time of day'],
  ['yes_no', 'yes or no'],
];

export const readingOf = (type: string): ColumnReading =>
  type === 'percent' ? { type: 'decimal', percent: true } : { type: type as ColumnReading['type'] };
