import type { Report } from '../api/client';
import { plain } from './same';

/** Both changes to a report, mine and theirs, made to the same version of it; null where both changed the same phrase, so that
 * one must be chosen. Lists are merged phrase by phrase, everything else as a whole. */
export function merged(base: Report, mine: Report, theirs: Report): Report | null {
  const parts: Record<string, unknown> = {};
  for (const key of new Set([base, mine, theirs].flatMap((one) => Object.keys(one)))) {
    const [b, m, t] = [base, mine, theirs].map((one) => (one as Record<string, unknown>)[key]);
    const found = part(b, m, t);
    if (found === CONFLICT) return null;
    if (found !== undefined) parts[key] = found;
  }
  return parts as unknown as Report;
}

const CONFLICT = Symbol('conflict');
const alike = (one: unknown, other: unknown) => plain(one) === plain(other);

function part(base: unknown, mine: unknown, theirs: unknown): unknown {
  if (alike(mine, base)) return theirs;
  if (alike(theirs, base) || alike(mine, theirs)) return mine;
  const lists = [base ?? [], mine ?? [], theirs ?? []];
  return lists.every(Array.isArray) ? ofLists(...(lists as [unknown[], unknown[], unknown[]])) : CONFLICT;
}

/** Their list, without the items that I removed and with those that I added, at their positions in mine. */
function ofLists(base: unknown[], mine: unknown[], theirs: unknown[]): unknown {
  const texts = [base, mine, theirs].map((list) => list.map((one) => plain(one) ?? ''));
  const [b, m, t] = texts as [string[], string[], string[]];
  if (texts.some((list) => new Set(list).size < list.length)) return CONFLICT;
  const gone = b.filter((one) => !m.includes(one) || !t.includes(one));
  const came = [m, t].map((list) => list.filter((one) => !b.includes(one)));
  const both = gone.some((one) => !m.includes(one) && !t.includes(one));
  if (both && came.every((list) => list.length > 0)) return CONFLICT;
  const kept = b.filter((one) => !gone.includes(one));
  if ([m, t].some((list) => list.filter((one) => kept.includes(one)).join('\n') !== kept.join('\n')))
    return CONFLICT;
  const result = t.filter((one) => !gone.includes(one));
  m.forEach((one, i) => {
    if (b.includes(one) || result.includes(one)) return;
    const instead = m.includes(b[i] ?? '') ? -1 : t.indexOf(b[i] ?? ''); // where what I changed in place stands in theirs
    const before = m
      .slice(0, i)
      .reverse()
      .find((other) => result.includes(other));
    const after = m.slice(i + 1).find((other) => result.includes(other));
    const beside =
      before !== undefined ? result.indexOf(before) + 1 : after !== undefined ? 0 : result.length;
    result.splice(instead >= 0 ? Math.min(instead, result.length) : beside, 0, one);
  });
  const all = new Map([...base, ...theirs, ...mine].map((one) => [plain(one) ?? '', one]));
  return result.map((one) => all.get(one));
}
