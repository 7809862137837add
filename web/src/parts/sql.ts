import { listed } from './words';

const RESERVED = new Set(
  'AND OR NOT IN IS NULL LIKE BETWEEN CASE WHEN THEN ELSE END DATE INTERVAL TRUE FALSE AS CAST EXTRACT FROM ON SELECT WHERE ORDER GROUP BY TO FOR ALL ANY SET TABLE VALUES WITH USER LEFT RIGHT FULL JOIN UNION AS_OF'.split(
    ' ',
  ),
);
/** Whether a word means something of its own in SQL. */
export const reserved = (word: string) => RESERVED.has(word.toUpperCase());
const NAME = '"(?:[^"]|"")+"|[A-Za-z_][A-Za-z0-9_]*\\b';

/** A column's name in SQL. */
export const quotedName = (name: string) =>
  /^[A-Za-z_][A-Za-z0-9_]*$/.test(name) && !reserved(name) ? name : `"${name.replaceAll('"', '""')}"`;

/** A text in SQL. */
export const quotedText = (text: string) => `'${text.replaceAll("'", "''")}'`;

const unquoted = (name: string) => (name.startsWith('"') ? name.slice(1, -1).replaceAll('""', '"') : name);

/** The columns that a condition names, for short mention: `status`, or `gross and route`. */
export function columnsOf(condition: string): string {
  const bare = condition.replaceAll(/'(?:[^']|'')*'/g, ' ');
  const names = [...bare.matchAll(new RegExp(`(${NAME})(?!\\s*\\()`, 'g'))].map((m) => m[1] ?? '');
  const columns = names.filter((name) => !reserved(name)).map(unquoted);
  return listed([...new Set(columns)]) || condition;
}
