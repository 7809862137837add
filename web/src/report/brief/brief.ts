import type { AxisEntry, CategoryEntry, Figure, Report, Window } from '../../api/client';
import { counted, day, listed } from '../../parts/words';
import { conditionWords, quotedName, quotedText } from './conditions';

export { conditionWords, quotedName, quotedText };

export type Tone = 'figure' | 'tree' | 'period' | 'bucket' | 'condition';
export type PhraseKind =
  | 'figure'
  | 'down'
  | 'across'
  | 'only'
  | 'window'
  | 'beside'
  | 'keep'
  | 'totals'
  | 'layout'
  | 'records'
  | 'lines'
  | 'sight'
  | 'silenced';

/** A part of the sentence that can be changed; `index` is its place in the report's list of that kind. */
export interface Phrase {
  kind: PhraseKind;
  index: number;
  text: string;
  tone: Tone;
}
export type Piece = string | Phrase;

const AS_WORDS = { base: 'base', difference: 'difference', percent: 'change', index: 'index' };
const BASE_ON: Record<string, string> = {
  year_earlier: 'a year earlier',
  period_before: 'the period before',
};
const TOTAL_WORDS = { all: 'the total', parent: 'the group', column: 'the column', line: 'the line' };

/** A figure in words, as the brief says it. */
export function figureWords(figure: Figure): string {
  if ('compare' in figure) {
    const as = figure.as ?? 'difference';
    const how = AS_WORDS[as];
    const to = as === 'base' ? 'of' : 'on';
    if (typeof figure.with === 'string')
      return as === 'base'
        ? `${figure.compare} ${BASE_ON[figure.with]}`
        : `${how} on ${BASE_ON[figure.with]}`;
    if ('figure' in figure.with) return `${how} against ${figure.with.figure}`;
    if ('member' in figure.with) return `${how} against ${figure.with.member}`;
    const { back, grain } = figure.with;
    return `${how} ${to} ${back} ${grain}${back === 1 ? '' : 's'} back`;
  }
  if ('share' in figure) return `share of ${TOTAL_WORDS[figure.of_total ?? 'all']}`;
  if ('running' in figure) {
    const again = figure.restart && figure.restart !== 'never' ? ` by ${figure.restart}` : '';
    return `running ${figure.running}${figure.along === 'lines' ? ' down the lines' : ''}${again}`;
  }
  if ('moving' in figure)
    return `${figure.periods}-period ${figure.take === 'sum' ? 'sum' : 'average'} of ${figure.moving}`;
  if ('rank' in figure) return `rank by ${figure.rank}`;
  return figure.name;
}

const TAKE_WORDS: Record<string, string> = {
  count: 'count of records',
  count_values: 'count of non-blank',
  distinct: 'count of different',
  mean: 'average of',
  weighted_mean: 'weighted average of',
  nth_largest: 'n-th largest of',
  nth_smallest: 'n-th smallest of',
  min: 'minimum of',
  max: 'maximum of',
  stdev: 'standard deviation of',
  stdev_pop: 'population standard deviation of',
  variance_pop: 'population variance of',
  balance: 'closing balance of',
};

/** What a figure takes, in full, for tooltips and editors. */
export function takeWords(figure: Figure): string {
  if ('take' in figure && 'of' in figure === false && figure.take === 'count') return 'count of records';
  if ('take' in figure && !('moving' in figure)) {
    const words = TAKE_WORDS[figure.take] ?? `${figure.take} of`;
    return figure.take === 'count' ? words : `${words} ${figure.of ?? ''}`.trim();
  }
  if ('formula' in figure) return figure.formula;
  return figureWords(figure);
}

/** A grain as it is said: `month`, `month of year`, `7-day run`. */
export const grainWords = (grain: string | { days: number }) =>
  typeof grain === 'string' ? grain.replaceAll('_', ' ') : `${grain.days}-day run`;

const CIVIL = 'Civil year';
const own = (calendar: string | null | undefined) => (calendar && calendar !== CIVIL ? calendar : null);

/** An axis entry in words, with how many of it are shown and how they are sorted; a calendar is named unless it was said. */
export function entryWords(entry: AxisEntry, calendars: ReadonlySet<string> = NONE): string {
  const words = plainWords(entry, calendars);
  const top = entry.top ? `the top ${entry.top} of ${words} by ${entry.by}` : words;
  return top + orderWords(entry);
}

const NONE: ReadonlySet<string> = new Set();

/** The calendars that the report's years name. */
const named = (report: Report): Set<string> =>
  new Set(
    [...(report.down ?? []), ...(report.across ?? [])].flatMap((entry) =>
      'period' in entry && entry.grains[0] === 'year' && own(entry.calendar)
        ? [entry.calendar as string]
        : [],
    ),
  );

function plainWords(entry: AxisEntry, calendars: ReadonlySet<string>): string {
  if ('category' in entry)
    return entry.tree
      ? (entry.levels ?? [entry.tree]).join(' › ')
      : (entry.name ?? said(entry.category)) + renamedIn(entry);
  if ('period' in entry) {
    const grains = entry.grains.map(grainWords).join(' › ');
    const calendar = own(entry.calendar);
    if (calendar && entry.grains[0] === 'year') return grains.replace('year', calendar);
    return calendar && !calendars.has(calendar) ? `${grains} in ${calendar}` : grains;
  }
  if ('bucket' in entry) return `${entry.name ?? entry.set ?? said(entry.bucket)} ranges`;
  return `${entry.name ?? entry.set ?? 'age'} of ${said(entry.age)}`;
}

/** A column's name as it is read out. */
/** How many values of a column bear other names. */
function renamedIn(entry: CategoryEntry): string {
  const count = Object.keys(entry.labels ?? {}).length;
  return count === 0 ? '' : ` (${counted(count, 'value')} renamed)`;
}

const said = (column: string) => column.replaceAll('_', ' ');

function orderWords({ order }: AxisEntry): string {
  if (!order) return '';
  if (typeof order === 'object') {
    if ('list' in order) return ', in an order of your own';
    const at = order.column?.length ? ` in ${order.column.join(' › ')}` : '';
    return `, ${order.desc ? 'largest' : 'smallest'} ${order.by}${at} first`;
  }
  const words = {
    label: ', A to Z',
    label_desc: ', Z to A',
    date_desc: ', latest first',
    first_seen: ', as they first appear',
  };
  return words[order as 'label'] ?? '';
}

/** The colour of an axis entry: plum for categories, petrol for periods, rust for buckets. */
export const entryTone = (entry: AxisEntry): Tone =>
  'category' in entry ? 'tree' : 'period' in entry ? 'period' : 'bucket';

/** The window in words. */
export function windowWords(window: Window): string {
  const { show } = window;
  const toDate = window.each_to_date ? ', each to date' : '';
  if (show.last)
    return `the last ${show.last === 1 ? '' : `${show.last} `}${show.grain}${show.last === 1 ? '' : 's'}${toDate}`;
  if (show.this) return `this ${show.this}${toDate}`;
  if (show.to_date) return `the ${show.to_date} to date`;
  if (show.previous) return `the previous ${show.previous}${toDate}`;
  if (show.from && !show.to) return `from ${day(show.from)} on`;
  if (show.to && !show.from) return `until ${day(show.to)}`;
  return `${day(show.from)} to ${day(show.to)}${toDate}`;
}

/** Where totals stand, in words; nothing where each stands after its lines. */
export function totalsWords(totals: NonNullable<Report['totals']>): string {
  const places = [totals.down, totals.grand_down, totals.across, totals.grand_across].map(
    (p) => p ?? 'after',
  );
  const levels = Object.entries(totals.levels ?? {}).map(([level, place]) =>
    place === 'none' ? `no ${level} totals` : `${level} totals ${place === 'before' ? 'first' : 'last'}`,
  );
  const kept = totals.totals === 'kept' ? ['totals of these lines alone'] : [];
  const more = listed([...levels, ...kept]);
  if (places.every((p) => p === 'after')) return more;
  const base = placeWords(totals, places);
  return more ? `${base}, ${more}` : base;
}

function placeWords(totals: NonNullable<Report['totals']>, places: string[]): string {
  if (places.every((p) => p === 'none')) return 'without totals';
  if (places.every((p) => p === 'before')) return 'totals first';
  const parts = [
    totals.down === 'none' && 'without subtotals',
    totals.down === 'before' && 'subtotals first',
    totals.grand_down === 'none' && 'without a grand total',
    totals.grand_down === 'before' && 'the grand total first',
    totals.across === 'none' && 'without subtotal columns',
    totals.grand_across === 'none' && 'without a total column',
    totals.across === 'before' && 'subtotal columns first',
    totals.grand_across === 'before' && 'the total column first',
  ].filter((part): part is string => Boolean(part));
  return listed(parts);
}

/** The report as one English sentence, its phrases marked. */
export function brief(report: Report): Piece[] {
  const pieces: Piece[] = [];
  const calendars = named(report);
  report.figures.forEach((figure, index) => {
    const derived =
      !('take' in figure && 'name' in figure && !('moving' in figure)) && !('formula' in figure);
    if (index > 0) {
      const last = index === report.figures.length - 1;
      pieces.push(derived && index === 1 ? ' with ' : last ? ' and ' : ', ');
    }
    pieces.push({
      kind: 'figure',
      index,
      text: figure.hide ? `${figureWords(figure)} (hidden)` : figureWords(figure),
      tone: 'figure',
    });
  });
  (['down', 'across'] as const).forEach((kind) => {
    (report[kind] ?? []).forEach((entry, index) => {
      pieces.push(index === 0 ? `, ${kind} by ` : ' then ');
      pieces.push({ kind, index, text: entryWords(entry, calendars), tone: entryTone(entry) });
      if ('period' in entry && own(entry.calendar)) calendars.add(entry.calendar as string);
    });
  });
  if (report.window) {
    pieces.push(', for ');
    const calendar = own(report.window.calendar);
    const within = calendar && !calendars.has(calendar) && !report.window.show.from ? ` in ${calendar}` : '';
    pieces.push({ kind: 'window', index: 0, text: windowWords(report.window) + within, tone: 'period' });
  }
  (report.only ?? []).forEach((condition, index) => {
    pieces.push(index === 0 ? ', only where ' : ' and ');
    pieces.push({ kind: 'only', index, text: conditionWords(condition), tone: 'condition' });
  });
  (report.beside ?? []).forEach((other, index) => {
    pieces.push(index === 0 ? ', beside ' : ' and ');
    pieces.push({ kind: 'beside', index, text: other.source, tone: 'condition' });
  });
  (report.keep ?? []).forEach((keep, index) => {
    pieces.push(index === 0 ? ', keeping ' : ' and ');
    pieces.push({
      kind: 'keep',
      index,
      text: keepWords(keep),
      tone: 'condition',
    });
  });
  const totals = totalsWords(report.totals ?? {});
  const more: [PhraseKind, number, string][] = [];
  if (totals) more.push(['totals', 0, totals]);
  (report.lines ?? []).forEach((line, i) => more.push(['lines', i, `a line ${line.name}`]));
  if (report.records) more.push(['records', 0, recordsWords(report.records)]);
  const layout = layoutWords(report.layout ?? {});
  if (layout) more.push(['layout', 0, layout]);
  const sight = sightWords(report);
  if (sight) more.push(['sight', 0, sight]);
  for (const [kind, index, text] of more) {
    pieces.push(', ');
    pieces.push({ kind, index, text, tone: 'condition' });
  }
  pieces.push('.');
  const silenced = report.silenced ?? [];
  if (silenced.length) pieces.push(' Silenced: ');
  silenced.forEach((one, index) => {
    if (index > 0) pieces.push(', ');
    pieces.push({ kind: 'silenced', index, text: silencedWords(one), tone: 'condition' });
  });
  if (silenced.length) pieces.push('.');
  return pieces;
}

/** A silenced phrase in words. */
export function silencedWords(one: NonNullable<Report['silenced']>[number]): string {
  if (one.only) return conditionWords(one.only);
  if (one.down) return `down by ${entryWords(one.down)}`;
  if (one.across) return `across by ${entryWords(one.across)}`;
  if (one.window) return `for ${windowWords(one.window)}`;
  return one.keep ? keepWords(one.keep) : '';
}

const keepWords = (keep: NonNullable<Report['keep']>[number]) =>
  `${keep.level} where ${conditionWords(keep.where)}`;

const recordsWords = (records: NonNullable<Report['records']>) =>
  records.columns?.length
    ? `listing the records with ${listed(records.columns.map(said))}`
    : 'listing the records';

/** How the lines are set, in words; nothing where they stand as they do by themselves. */
export function layoutWords(layout: NonNullable<Report['layout']>): string {
  const parts = layout.lines === 'columns' ? ['one column a level'] : [];
  if (layout.lines === 'columns' && layout.labels === 'each') parts.push('labels on each line');
  const spaced = Object.entries(layout.levels ?? {}).filter(([, l]) => l.space || l.bold || l.page_break);
  if (spaced.length) parts.push(`${listed(spaced.map(([name]) => name))} set apart`);
  if (layout.grand) parts.push(`the total called ${layout.grand}`);
  return listed(parts);
}

function sightWords({ out_of_sight: aside }: Report): string {
  const parts = [
    [aside?.lines?.length ?? 0, 'line'] as const,
    [aside?.columns?.length ?? 0, 'column'] as const,
  ].flatMap(([n, word]) => (n ? [`${n} ${word}${n === 1 ? '' : 's'}`] : []));
  return parts.length ? `${listed(parts)} out of sight` : '';
}

const NAME = '"(?:[^"]|"")+"|[A-Za-z_][A-Za-z0-9_]*';
const unquoted = (name: string) => (name.startsWith('"') ? name.slice(1, -1).replaceAll('""', '"') : name);
const WORDS = new Set(
  'AND OR NOT IN IS NULL LIKE BETWEEN CASE WHEN THEN ELSE END DATE INTERVAL TRUE FALSE AS CAST EXTRACT FROM AS_OF'.split(
    ' ',
  ),
);

/** The columns that a condition names, for short mention: `status`, or `gross and route`. */
export function columnsOf(condition: string): string {
  const bare = condition.replaceAll(/'(?:[^']|'')*'/g, ' ');
  const names = [...bare.matchAll(new RegExp(`(${NAME})(?!\\s*\\()`, 'g'))].map((m) => m[1] ?? '');
  const columns = names.filter((name) => !WORDS.has(name.toUpperCase())).map(unquoted);
  return listed([...new Set(columns)]) || condition;
}
