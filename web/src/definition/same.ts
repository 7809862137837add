import type { Report } from '../api/client';

/** Whether two documents are equal, with or without defaults spelled out. */
export const same = (one: Report, other: Report): boolean => plain(one) === plain(other);

/** A value as text, without defaults; undefined if nothing is left. */
export function plain(value: unknown): string | undefined {
  if (value === null || value === undefined) return undefined;
  if (typeof value !== 'object') return JSON.stringify(value);
  if (Array.isArray(value)) return value.length ? `[${value.map(plain).join()}]` : undefined;
  const said = Object.entries(value)
    .map(([name, inner]) => [name, plain(inner)] as const)
    .filter((pair) => pair[1] !== undefined)
    .sort(([a], [b]) => (a < b ? -1 : 1));
  return said.length ? `{${said.map(([name, inner]) => `${name}:${inner}`).join()}}` : undefined;
}
