import type { WaitingView } from '../api/client';

export type Join = WaitingView['join'];

const NAMES: Record<Join, string> = {
  add: 'Add all',
  replace_months: 'Replace the months it is about',
  replace_dates: 'Replace the days it spans',
  replace_all: 'Replace everything',
  update: 'Replace records with the same key',
};
export const JOINS = Object.entries(NAMES) as [Join, string][];

/** A way of joining as it is called; with the months that it is about, where they are known. */
export const nameOfWay = (join: Join, about = ''): string =>
  join === 'replace_months' && about
    ? `Replace ${about}, add the rest`
    : join === 'replace_dates' && about
      ? `Replace the days ${about}`
      : NAMES[join];
