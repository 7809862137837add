import {
  get,
  type ColumnView,
  type Figure,
  type GroupingLine,
  type Report,
  type SourceLine,
  type SourceView,
} from '../../api/client';
import { withBeside } from '../editors/beside';
import type { Tone } from './brief';
import { quotedName, quotedText, totalsWords } from './brief';
import { freeName } from '../change';
import { capital } from '../../parts/words';

/** A phrase that could be added. */
export interface Offer {
  text: string;
  hint: string;
  tone: Tone;
  add: (report: Report) => Report | Promise<Report>;
  /** The grouping that it would use on a column, if any. */
  on?: { kind: 'tree' | 'calendar'; column: string; name: string };
}

const figure = (make: (report: Report) => Figure) => (report: Report) => ({
  ...report,
  figures: [...report.figures, make(report)],
});
const down = (entry: NonNullable<Report['down']>[number]) => (report: Report) => ({
  ...report,
  down: [...(report.down ?? []), entry],
});
const across = (entry: NonNullable<Report['across']>[number]) => (report: Report) => ({
  ...report,
  across: [...(report.across ?? []), entry],
});

function ofNumber(column: ColumnView): Offer[] {
  const take = (t: string, words: string): Offer => ({
    text: `${words} ${column.name}`,
    hint: 'figure',
    tone: 'figure',
    add: figure((report) => ({
      name: freeName(
        report,
        t === 'sum' ? capital(column.name) : `${capital(words.replace(' of', ''))} ${column.name}`,
      ),
      take: t as 'sum',
      of: column.name,
    })),
  });
  return [
    take('sum', 'sum of'),
    take('mean', 'mean of'),
    take('median', 'median of'),
    take('min', 'least'),
    take('max', 'largest'),
    {
      text: `down by ranges of ${column.name}`,
      hint: column.summary,
      tone: 'bucket',
      add: down({ bucket: column.name, name: `${capital(column.name)} range`, cut: [0, 10, 100, 1000] }),
    },
  ];
}

function ofDate(column: ColumnView, calendars: GroupingLine[]): Offer[] {
  const offers: Offer[] = [];
  for (const calendar of [null, ...calendars.map((c) => c.name)]) {
    for (const grain of ['month', 'quarter', 'year', 'week'] as const) {
      const words = `${grain} of ${column.name}${calendar ? ` in ${calendar}` : ''}`;
      const entry = { period: column.name, grains: [grain], ...(calendar ? { calendar } : {}) };
      const on = { kind: 'calendar', column: column.name, name: calendar ?? '' } as const;
      const shared = { hint: column.summary, tone: 'period', on } as const;
      offers.push({ text: `across by ${words}`, add: across(entry), ...shared });
      offers.push({ text: `down by ${words}`, add: down(entry), ...shared });
    }
  }
  offers.push({
    text: `down by age of ${column.name}`,
    hint: 'days to the as-of date',
    tone: 'bucket',
    add: down({ age: column.name, cut: [0, 30, 60, 90] }),
  });
  offers.push({
    text: `for the last 12 months of ${column.name}`,
    hint: 'window',
    tone: 'period',
    add: (report) => ({ ...report, window: { of: column.name, show: { last: 12, grain: 'month' } } }),
  });
  return offers;
}

function ofCategory(column: ColumnView): Offer[] {
  const entry = { category: column.name };
  const offers: Offer[] = [];
  if (!column.warning) {
    offers.push({ text: `down by ${column.name}`, hint: column.summary, tone: 'tree', add: down(entry) });
    offers.push({ text: `across by ${column.name}`, hint: column.summary, tone: 'tree', add: across(entry) });
    offers.push({
      text: `only where ${column.name} is …`,
      hint: column.summary,
      tone: 'condition',
      add: (report) => ({
        ...report,
        only: [...(report.only ?? []), `${quotedName(column.name)} = ${quotedText(column.lowest)}`],
      }),
    });
  }
  offers.push({
    text: `different values of ${column.name}`,
    hint: 'figure',
    tone: 'figure',
    add: figure((report) => ({
      name: freeName(report, `Different ${column.name}`),
      take: 'distinct',
      of: column.name,
    })),
  });
  return offers;
}

function fromFigures(report: Report): Offer[] {
  const hasPeriod = [...(report.down ?? []), ...(report.across ?? [])].some((e) => 'period' in e);
  const period = [...(report.down ?? []), ...(report.across ?? [])].find((e) => 'period' in e);
  const offers: Offer[] = [];
  for (const { name } of report.figures.filter((f) => 'take' in f && !('moving' in f)).slice(0, 3)) {
    if (hasPeriod || report.window)
      offers.push({
        text: `change of ${name} on a year earlier`,
        hint: 'figure',
        tone: 'figure',
        add: figure((r) => ({
          name: freeName(r, 'Change'),
          compare: name,
          with: 'year_earlier',
          as: 'percent',
        })),
      });
    offers.push({
      text: `share of ${name} in its group`,
      hint: 'figure',
      tone: 'figure',
      add: figure((r) => ({ name: freeName(r, 'Share'), share: name, of_total: 'parent' })),
    });
    if (period && 'period' in period)
      offers.push({
        text: `running total of ${name}`,
        hint: 'figure',
        tone: 'figure',
        add: figure((r) => ({ name: freeName(r, 'So far'), running: name, along: period.period })),
      });
    if (period && 'period' in period)
      offers.push({
        text: `moving mean of ${name} over 3 periods`,
        hint: 'figure',
        tone: 'figure',
        add: figure((r) => ({ name: freeName(r, 'Moving mean'), moving: name, periods: 3 })),
      });
    offers.push({
      text: `rank by ${name}`,
      hint: 'figure',
      tone: 'figure',
      add: figure((r) => ({ name: freeName(r, 'Place'), rank: name })),
    });
  }
  const [a, b] = report.figures.map((f) => f.name);
  offers.push({
    text: 'a formula over figures',
    hint: 'figure',
    tone: 'figure',
    add: figure((r) => ({ name: freeName(r, 'Ratio'), formula: b ? `"${a}" / "${b}"` : `"${a}" * 1` })),
  });
  return offers;
}

/** What is said of lines and totals as a whole. */
function ofLines(report: Report, levels: string[]): Offer[] {
  const figureName = report.figures[0]?.name ?? '';
  const offers: Offer[] = levels.map((level) => ({
    text: `keep lines of ${level} where ${figureName} is over …`,
    hint: 'the others are hidden',
    tone: 'condition',
    add: (r) => ({ ...r, keep: [...(r.keep ?? []), { level, where: `${quotedName(figureName)} > 0` }] }),
  }));
  const places: [string, 'before' | 'none'][] = [
    ['totals before their lines', 'before'],
    ['without totals', 'none'],
  ];
  if (!totalsWords(report.totals ?? {}))
    for (const [text, place] of places)
      offers.push({
        text,
        hint: 'totals',
        tone: 'condition',
        add: (r) => ({
          ...r,
          totals: { ...r.totals, down: place, across: place, grand_down: place, grand_across: place },
        }),
      });
  return offers;
}

/** Every phrase that could be added to a report, likeliest first. */
export function offers(
  report: Report,
  columns: ColumnView[],
  groupings: GroupingLine[],
  levels: string[] = [],
): Offer[] {
  const calendars = groupings.filter((g) => g.kind === 'calendar');
  const trees = groupings.filter((g) => g.kind === 'tree');
  const categories = columns.filter((c) => c.role === 'category');
  const list: Offer[] = [];
  for (const column of categories)
    list.push(
      ...ofCategory(column)
        .slice(0, 1)
        .filter((o) => o.tone === 'tree'),
    );
  for (const column of columns.filter((c) => c.role === 'period'))
    list.push(...ofDate(column, []).slice(0, 4));
  list.push(...fromFigures(report));
  list.push({
    text: 'count of records',
    hint: 'figure',
    tone: 'figure',
    add: figure((r) => ({ name: freeName(r, 'Records'), take: 'count' })),
  });
  for (const tree of trees)
    for (const column of categories.filter((c) => !c.warning))
      list.push({
        text: `down by ${tree.name} of ${column.name}`,
        hint: tree.levels.join(' › '),
        tone: 'tree',
        add: down({ category: column.name, tree: tree.name }),
        on: { kind: 'tree', column: column.name, name: tree.name },
      });
  for (const column of columns) {
    if (column.role === 'period') list.push(...ofDate(column, calendars).slice(4));
    else if (column.role === 'number') list.push(...ofNumber(column));
    else list.push(...ofCategory(column).slice(column.warning ? 0 : 1));
  }
  list.push(...ofLines(report, levels));
  return list;
}

/** Other sources that could stand beside the report's own. */
export function besideOffers(report: Report, columns: ColumnView[], sources: SourceLine[]): Offer[] {
  const there = [report.source, ...(report.beside ?? []).map((b) => b.source)];
  return sources
    .filter((s) => !there.includes(s.name))
    .map((s) => ({
      text: `beside ${s.name}, as a plan beside what came`,
      hint: `${s.records.toLocaleString('en')} records`,
      tone: 'condition',
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

/** Offers whose text holds every word that was typed. */
export function matching(list: Offer[], typed: string): Offer[] {
  const words = typed.toLowerCase().split(/\s+/).filter(Boolean);
  return list.filter((offer) =>
    words.every((word) => `${offer.text} ${offer.hint}`.toLowerCase().includes(word)),
  );
}
