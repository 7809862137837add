import type { AxisEntry, Figure, Report, Window } from '../../api/client';
import { day, listed } from '../../parts/words';

export type Tone = 'figure' | 'tree' | 'period' | 'bucket' | 'condition';
export type PhraseKind = 'figure' | 'down' | 'across' | 'only' | 'window' | 'beside' | 'keep' | 'totals';

/** A part of the sentence that can be changed; `index` is its place in the report's list of that kind. */
export interface Phrase {
  kind: PhraseKind;
  index: number;
  text: string;
  tone: Tone;
}
export type Piece = string | Phrase;

const AS_WORDS = { base: 'figure', difference: 'difference', percent: 'change', index: 'index' };
const TOTAL_WORDS = { all: 'the total', parent: 'the group', column: 'the column', line: 'the line' };

/** A figure in words, as the brief says it. */
export function figureWords(figure: Figure): string {
  if ('compare' in figure) {
    const how = AS_WORDS[figure.as ?? 'difference'];
    if (figure.with === 'year_earlier') return `${how} on a year earlier`;
    if (figure.with === 'period_before') return `${how} on the period before`;
    if ('figure' in figure.with) return `${how} against ${figure.with.figure}`;
    if ('member' in figure.with) return `${how} against ${figure.with.member}`;
    return `${how} on ${figure.with.back} ${figure.with.grain}s back`;
  }
  if ('share' in figure) return `share of ${TOTAL_WORDS[figure.of_total ?? 'all']}`;
  if ('running' in figure) {
    const again = figure.restart && figure.restart !== 'never' ? ` by ${figure.restart}` : '';
    return `running ${figure.running}${again}`;
  }
  if ('moving' in figure) return `${figure.periods}-period ${figure.take ?? 'mean'} of ${figure.moving}`;
  if ('rank' in figure) return `rank by ${figure.rank}`;
  return figure.name;
}

const TAKE_WORDS: Record<string, string> = {
  count: 'count of records',
  count_values: 'count of filled',
  distinct: 'different values of',
  weighted_mean: 'weighted mean of',
  nth_largest: 'n-th largest',
  nth_smallest: 'n-th smallest',
  stdev: 'standard deviation of',
  stdev_pop: 'population deviation of',
  variance_pop: 'population variance of',
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

/** An axis entry in words. */
export function entryWords(entry: AxisEntry): string {
  const top = entry.top ? `top ${entry.top} ` : '';
  if ('category' in entry) {
    const words = entry.tree ? (entry.levels ?? [entry.tree]).join(' › ') : (entry.name ?? entry.category);
    return top + words;
  }
  if ('period' in entry) {
    const grains = entry.grains.map(grainWords).join(' › ');
    const fiscal = entry.calendar && entry.calendar !== 'Civil year' && entry.grains[0] === 'year';
    return `${top}${fiscal ? grains.replace('year', entry.calendar as string) : grains}`;
  }
  if ('bucket' in entry) return `${entry.name ?? entry.set ?? entry.bucket} ranges`;
  return `${entry.name ?? entry.set ?? 'age'} of ${entry.age}`;
}

/** The colour of an axis entry: plum for categories, petrol for periods, rust for buckets. */
export const entryTone = (entry: AxisEntry): Tone =>
  'category' in entry ? 'tree' : 'period' in entry ? 'period' : 'bucket';

const NAME = '"(?:[^"]|"")+"|[A-Za-z_][A-Za-z0-9_]*';
const TEXT = "'((?:[^']|'')*)'";
const unquoted = (name: string) => (name.startsWith('"') ? name.slice(1, -1).replaceAll('""', '"') : name);
export const quotedName = (name: string) =>
  /^[A-Za-z_][A-Za-z0-9_]*$/.test(name) ? name : `"${name.replaceAll('"', '""')}"`;
export const quotedText = (text: string) => `'${text.replaceAll("'", "''")}'`;

/** A condition that a list of values can say: a column is, or is not, one of some values or blank. */
export interface Choice {
  column: string;
  negated: boolean;
  values: string[];
  blank: boolean;
}

/** The condition read back as a choice; null where it is a formula of another form. */
export function readChoice(condition: string): Choice | null {
  let found = new RegExp(`^(${NAME})\\s*(=|<>)\\s*${TEXT}$`).exec(condition.trim());
  if (found?.[1]) {
    const values = [(found[3] ?? '').replaceAll("''", "'")];
    return { column: unquoted(found[1]), negated: found[2] === '<>', values, blank: false };
  }
  found = new RegExp(`^(${NAME})\\s+(NOT\\s+)?IN\\s*\\(((?:\\s*${TEXT}\\s*,?)+)\\)$`, 'i').exec(
    condition.trim(),
  );
  if (found?.[1]) {
    const values = [...(found[3] ?? '').matchAll(new RegExp(TEXT, 'g'))].map((m) =>
      (m[1] ?? '').replaceAll("''", "'"),
    );
    return { column: unquoted(found[1]), negated: Boolean(found[2]), values, blank: false };
  }
  found = new RegExp(`^(${NAME})\\s+IS\\s+(NOT\\s+)?NULL$`, 'i').exec(condition.trim());
  if (found?.[1]) return { column: unquoted(found[1]), negated: Boolean(found[2]), values: [], blank: true };
  return null;
}

/** A choice as an SQL condition; a blank is chosen or left out together with the values. */
export function writeChoice({ column, negated, values, blank }: Choice): string {
  const name = quotedName(column);
  if (values.length === 0) return `${name} IS ${negated ? 'NOT ' : ''}NULL`;
  const [only] = values;
  const among =
    values.length === 1 && only !== undefined
      ? `${name} ${negated ? '<>' : '='} ${quotedText(only)}`
      : `${name} ${negated ? 'NOT IN' : 'IN'} (${values.map(quotedText).join(', ')})`;
  if (negated) return blank ? among : `(${among} OR ${name} IS NULL)`;
  return blank ? `(${among} OR ${name} IS NULL)` : among;
}

/** A condition in words. */
export function conditionWords(condition: string): string {
  const choice = readChoice(condition);
  if (!choice) return condition;
  const is = choice.negated ? 'is not' : 'is';
  if (choice.blank) return `${choice.column} ${is} blank`;
  const shown = choice.values.slice(0, 3);
  if (choice.values.length > 3) shown.push(`${choice.values.length - 3} more`);
  return `${choice.column} ${is} ${listed(shown, 'or')}`;
}

/** The window in words. */
export function windowWords(window: Window): string {
  const { show } = window;
  const toDate = window.each_to_date ? ', each to date' : '';
  if (show.last)
    return `the last ${show.last === 1 ? '' : `${show.last} `}${show.grain}${show.last === 1 ? '' : 's'}${toDate}`;
  if (show.this) return `this ${show.this}${toDate}`;
  if (show.to_date) return `the ${show.to_date} to date`;
  return `${day(show.from)} to ${day(show.to)}${toDate}`;
}

const bareWords = (condition: string) => condition.replaceAll('"', '');

/** Where totals stand, in words; nothing where each stands after its lines. */
export function totalsWords(totals: NonNullable<Report['totals']>): string {
  const places = [totals.down, totals.grand_down, totals.across, totals.grand_across].map(
    (p) => p ?? 'after',
  );
  if (places.every((p) => p === 'after')) return '';
  if (places.every((p) => p === 'none')) return 'without totals';
  if (places.every((p) => p === 'before')) return 'totals first';
  return 'totals as set';
}

/** The report as one English sentence, its phrases marked. */
export function brief(report: Report): Piece[] {
  const pieces: Piece[] = [];
  report.figures.forEach((figure, index) => {
    const derived =
      !('take' in figure && 'name' in figure && !('moving' in figure)) && !('formula' in figure);
    if (index > 0) {
      const last = index === report.figures.length - 1;
      pieces.push(derived && index === 1 ? ' with ' : last ? ' and ' : ', ');
    }
    pieces.push({ kind: 'figure', index, text: figureWords(figure), tone: 'figure' });
  });
  (['down', 'across'] as const).forEach((kind) => {
    (report[kind] ?? []).forEach((entry, index) => {
      pieces.push(index === 0 ? `, ${kind} by ` : ' then ');
      pieces.push({ kind, index, text: entryWords(entry), tone: entryTone(entry) });
    });
  });
  if (report.window) {
    pieces.push(', for ');
    pieces.push({ kind: 'window', index: 0, text: windowWords(report.window), tone: 'period' });
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
      text: `${keep.level} where ${bareWords(keep.where)}`,
      tone: 'condition',
    });
  });
  const totals = totalsWords(report.totals ?? {});
  if (totals) {
    pieces.push(', ');
    pieces.push({ kind: 'totals', index: 0, text: totals, tone: 'condition' });
  }
  pieces.push('.');
  return pieces;
}

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
