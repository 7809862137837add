import type { Fetching } from '../api/client';

/** How often a query may be asked by itself, and what that is called. */
export const EVERY: [string, string][] = [
  ['', 'on request'],
  ['hour', 'every hour'],
  ['day', 'every day'],
  ['week', 'every Monday'],
  ['month', 'on the first of each month'],
];

/** How often a query is asked, in words: `every day at 06:00`. */
export function asked({ every, at }: Fetching): string {
  const words = EVERY.find(([name]) => name === (every ?? ''))?.[1] ?? '';
  return every && every !== 'hour' ? `${words} at ${at}` : words;
}
