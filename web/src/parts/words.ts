import { notation, noted } from './notation';

const MONTHS = ['Jan', 'Feb', 'Mar', 'Apr', 'May', 'Jun', 'Jul', 'Aug', 'Sep', 'Oct', 'Nov', 'Dec'];

export const MONTHS_IN_FULL = [
  'January',
  'February',
  'March',
  'April',
  'May',
  'June',
  'July',
  'August',
  'September',
  'October',
  'November',
  'December',
];

/** `Jul 2026` as `July 2026`; other periods as they are. */
export const inFull = (label: string) =>
  label.replace(/^([A-Z][a-z]{2}) (\d{4})$/, (all, month: string, year: string) => {
    const at = MONTHS.indexOf(month);
    return at < 0 ? all : `${MONTHS_IN_FULL[at]} ${year}`;
  });

/** 12345 as `12,345`. */
export const count = (n: number, places = 3) =>
  noted(n.toLocaleString('en-GB', { maximumFractionDigits: places }));

/** `1 record`, `2 records`. */
export const counted = (n: number, one: string, many = `${one}s`) => `${count(n)} ${n === 1 ? one : many}`;

/** `2026-07-31` as `31 Jul 2026`, or in the order that the workspace has. */
export function day(iso: string | null | undefined): string {
  if (!iso) return '';
  const [year, month, date] = iso.slice(0, 10).split('-');
  const named = MONTHS[Number(month) - 1];
  if (notation().dates === 'year') return `${year}-${month}-${date}`;
  return notation().dates === 'month'
    ? `${named} ${Number(date)}, ${year}`
    : `${Number(date)} ${named} ${year}`;
}

const dayFirst = () => ['mixed', 'day'].includes(notation().dates);

/** Two days as a span, the year said once where it is the same. */
export function span(first: string | null | undefined, last: string | null | undefined): string {
  if (!first || !last) return '';
  if (first === last) return day(first);
  const sameYear = first.slice(0, 4) === last.slice(0, 4) && dayFirst();
  const from = sameYear ? day(first).replace(` ${first.slice(0, 4)}`, '') : day(first);
  return `${from} – ${day(last)}`;
}

/** Words as a list: `a, b and c`. */
export function listed(words: string[], last = 'and'): string {
  if (words.length < 2) return words.join('');
  return `${words.slice(0, -1).join(', ')} ${last} ${words[words.length - 1]}`;
}

export const capital = (text: string) => text.charAt(0).toUpperCase() + text.slice(1);

const KIND_WORDS: Record<string, string> = {
  whole: 'whole number',
  approximate: 'approximate number',
  datetime: 'date and time',
  yes_no: 'yes or no',
};

/** How a column was read, in words. */
export const kindWords = (kind: string, places: number) =>
  kind === 'decimal' ? `number, ${counted(places, 'place')}` : (KIND_WORDS[kind] ?? kind);

/** An amount, digit for digit, with thousands separated; nothing where there is none. */
export const money = (text: string) => {
  const [whole = '', rest] = text.split('.');
  return noted(whole.replace(/\B(?=(\d{3})+$)/g, ',') + (rest ? `.${rest}` : ''));
};
