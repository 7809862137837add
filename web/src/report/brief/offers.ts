import {
  get,
  type ColumnView,
  type GroupingLine,
  type Report,
  type SourceLine,
  type SourceView,
} from '../../api/client';
import { freeName } from '../change';
import { withBeside } from '../editors/beside';
import { conditions, ofCategory, ofDate, ofNumber, weighted } from './columnOffers';
import { fromFigures, ofLines } from './figureOffers';
import { quotedName, quotedText } from '../../parts/sql';
import { entryOffers, figureOffer, onlyOffer, type Offer } from './offer';

export type { Offer } from './offer';

/** Every phrase that could be added to a report, what fits best first; `typed` tells which numbers are meant. */
export function offers(
  report: Report,
  columns: ColumnView[],
  groupings: GroupingLine[],
  levels: string[] = [],
  typed = '',
): Offer[] {
  const calendars = groupings.filter((g) => g.kind === 'calendar').map((g) => g.name);
  const trees = groupings.filter((g) => g.kind === 'tree');
  const entries = [...(report.down ?? []), ...(report.across ?? [])];
  const period = entries.find((e) => 'period' in e);
  const own = (period && 'period' in period ? period.calendar : report.window?.calendar) ?? null;
  const used = new Set(entries.flatMap((e) => ('category' in e && !e.tree ? [e.category] : [])));
  const figure = report.figures[0]?.name ?? '';
  const list: Offer[] = [...fromFigures(report)];
  list.push(
    figureOffer('count of records', 'number how many rows', 54, (r) => ({
      name: freeName(r, 'Records'),
      take: 'count',
    })),
  );
  for (const tree of trees)
    for (const column of columns.filter((c) => c.role === 'category' && !c.warning))
      list.push(
        ...entryOffers(
          `${tree.name} of ${column.name.replaceAll('_', ' ')}`,
          { category: column.name, tree: tree.name },
          {
            hint: tree.levels.join(' › '),
            tone: 'tree',
            words: `group hierarchy ${tree.levels.join(' ')}`,
            weight: 62,
            on: { kind: 'tree', column: column.name, name: tree.name },
          },
          ['down'],
        ),
      );
  for (const column of columns) {
    if (column.role === 'period') list.push(...ofDate(column, [null, ...calendars], own, typed));
    else if (column.role === 'number') list.push(...ofNumber(column, typed));
    else
      list.push(
        ...ofCategory(column, typed, figure).filter((o) => !used.has(column.name) || o.tone === 'figure'),
      );
    list.push(...conditions(column));
  }
  list.push(...weighted(columns.filter((c) => c.role === 'number')));
  list.push(...ofLines(report, levels));
  return list.sort((a, b) => b.weight - a.weight);
}

/** Conditions that a column of few values is one of them. */
export const valueOffers = (values: { column: string; value: string }[]): Offer[] =>
  values.map(({ column, value }) =>
    onlyOffer(
      `only where ${column.replaceAll('_', ' ')} is ${value}`,
      `filter ${value}`,
      44,
      `${quotedName(column)} = ${quotedText(value)}`,
    ),
  );

/** Other sources that could stand beside the report's own. */
export function besideOffers(report: Report, columns: ColumnView[], sources: SourceLine[]): Offer[] {
  const there = [report.source, ...(report.beside ?? []).map((b) => b.source)];
  return sources
    .filter((s) => !there.includes(s.name))
    .map((s) => ({
      text: `beside ${s.name}, as a plan beside what came`,
      hint: `${s.records.toLocaleString('en')} records`,
      tone: 'condition',
      words: 'plan budget compare second source',
      weight: 8,
      add: async (now) => {
        const { columns: theirs } = await get<SourceView>(`/sources/${s.id}`);
        return withBeside(now, s.name, columns, theirs);
      },
    }));
}

/** The kinds and columns whose groupings the offers would use, each once. */
export function groundOf(list: Offer[]): ['tree' | 'calendar', string][] {
  const keys = new Set(list.flatMap((o) => (o.on ? [`${o.on.kind} ${o.on.column}`] : [])));
  return [...keys].map((key) => {
    const at = key.indexOf(' ');
    return [key.slice(0, at) as 'tree', key.slice(at + 1)];
  });
}

/** How well an offer answers a word: at the beginning of one of its own best, then of its everyday names; 0 not at all. */
function answers(offer: Offer, word: string): number {
  const own = ` ${offer.text.toLowerCase()}`;
  const also = ` ${offer.words.toLowerCase()} ${offer.hint.toLowerCase()}`;
  if (own.includes(` ${word} `) || own.endsWith(` ${word}`)) return 4;
  if (own.includes(` ${word}`)) return 3;
  if (also.includes(` ${word}`)) return 2;
  return own.includes(word) ? 1 : 0;
}

/** Offers that answer every word that was typed, the best first. */
export function matching(list: Offer[], typed: string): Offer[] {
  const words = typed
    .toLowerCase()
    .split(/[\s,]+/)
    .filter(Boolean);
  if (words.length === 0) return list;
  return list
    .map((offer) => ({ offer, found: words.map((word) => answers(offer, word)) }))
    .filter(({ found }) => found.every((n) => n > 0))
    .sort((a, b) => score(b) - score(a))
    .map(({ offer }) => offer);
}

const score = ({ offer, found }: { offer: Offer; found: number[] }) =>
  found.reduce((sum, n) => sum + n * 40, 0) / found.length + offer.weight;
