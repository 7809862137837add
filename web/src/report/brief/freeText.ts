import type { AxisEntry, ColumnView, GroupingLine, Report } from '../../api/client';
import { freeName } from '../change';
import { capital } from '../../parts/words';
import { brief, quotedName, quotedText } from './brief';

/** What a report would become by what was typed, in words, and the words that were not understood. */
export interface Understood {
  report: Report;
  said: string;
  left: string[];
}

/** What is known of the source: its columns, groupings, and the values of columns that have few. */
export interface Known {
  columns: ColumnView[];
  groupings: GroupingLine[];
  values: { column: string; value: string }[];
  /** Which columns each tree places values of. */
  placing: { tree: string; column: string }[];
}

type Meaning =
  | { is: 'number' | 'category' | 'date'; column: ColumnView }
  | { is: 'tree'; tree: GroupingLine; level: string | null }
  | { is: 'calendar'; name: string }
  | { is: 'grain'; grain: string }
  | { is: 'take'; take: string }
  | { is: 'value'; column: string; value: string }
  | { is: 'window'; show: object }
  | { is: 'top'; n: number }
  | { is: 'word'; word: string };

const GRAINS: Record<string, string> = {
  month: 'month', months: 'month', monthly: 'month', quarter: 'quarter', quarters: 'quarter', quarterly: 'quarter',
  year: 'year', years: 'year', yearly: 'year', week: 'week', weeks: 'week', weekly: 'week', day: 'day', daily: 'day',
  weekday: 'day_of_week', weekdays: 'day_of_week', hour: 'hour_of_day', half: 'half',
}; // prettier-ignore
const TAKES: Record<string, string> = {
  sum: 'sum', total: 'sum', average: 'mean', avg: 'mean', mean: 'mean', median: 'median', min: 'min', minimum: 'min',
  max: 'max', maximum: 'max',
}; // prettier-ignore
const WORDS = [
  'running total', 'percent of total', 'percent change', 'year over year', 'biggest first', 'largest first',
  'smallest first', 'last year', 'previous year', 'year earlier', 'a year earlier', 'count', 'records', 'share', 'change',
  'difference', 'percent', 'across', 'down', 'by', 'per', 'only', 'fiscal', 'rank', 'cumulative', 'against', 'versus', 'vs',
]; // prettier-ignore
const CHANGES = new Set(['percent change', 'change', 'year over year', 'difference']);
const EARLIER = new Set(['last year', 'previous year', 'year earlier', 'a year earlier']);
const AGAINST = new Set(['against', 'versus', 'vs']);
const SPANS = 'day|week|month|quarter|half|year';

/** What a number among the words makes of them: a window or a top, and how many words it took. */
const NUMBERED: [RegExp, (found: RegExpExecArray) => Meaning][] = [
  [new RegExp(`^(?:last|past|latest) (\\d+) (${SPANS})s?\\b`), ([, n, grain]) => ({ is: 'window', show: { last: Number(n), grain } })],
  [new RegExp(`^this (${SPANS}) to date\\b`), ([, grain]) => ({ is: 'window', show: { to_date: grain } })],
  [new RegExp(`^(${SPANS}) to date\\b`), ([, grain]) => ({ is: 'window', show: { to_date: grain } })],
  [/^ytd\b/, () => ({ is: 'window', show: { to_date: 'year' } })],
  [new RegExp(`^this (${SPANS})\\b`), ([, grain]) => ({ is: 'window', show: { this: grain } })],
  [/^top (\d+)\b/, ([, n]) => ({ is: 'top', n: Math.max(1, Number(n)) })],
]; // prettier-ignore

function numbered(words: string[]): { meaning: Meaning; taken: number } | null {
  const text = words.slice(0, 5).join(' ');
  for (const [pattern, means] of NUMBERED) {
    const found = pattern.exec(text);
    if (found) return { meaning: means(found), taken: found[0].split(' ').length };
  }
  return null;
}
const PASSED = new Set([
  'of',
  'the',
  'and',
  'with',
  'in',
  'for',
  'a',
  'then',
  'a',
  'as',
  'to',
  'each',
  'show',
  'me',
]);

const plain = (text: string) => text.toLowerCase().replaceAll('_', ' ').trim();

/** Everything that a run of words can mean, by the words. */
function meanings({ columns, groupings, values }: Known): Map<string, Meaning> {
  const found = new Map<string, Meaning>();
  const put = (words: string, meaning: Meaning) => {
    const key = plain(words);
    if (key && !found.has(key)) found.set(key, meaning);
  };
  WORDS.forEach((word) => put(word, { is: 'word', word }));
  Object.entries(GRAINS).forEach(([word, grain]) => put(word, { is: 'grain', grain }));
  columns.forEach((column) => {
    const is = column.role === 'number' ? 'number' : column.role === 'period' ? 'date' : 'category';
    put(column.name, { is, column });
    if (is === 'category') put(`${plain(column.name)}s`, { is, column });
  });
  groupings.forEach((one) => {
    if (one.kind === 'calendar') put(one.name, { is: 'calendar', name: one.name });
    if (one.kind !== 'tree') return;
    put(one.name, { is: 'tree', tree: one, level: null });
    one.levels.forEach((level) => {
      put(level, { is: 'tree', tree: one, level });
      put(`${level}s`, { is: 'tree', tree: one, level });
    });
  });
  Object.entries(TAKES).forEach(([word, take]) => put(word, { is: 'take', take }));
  values.forEach(({ column, value }) => put(value, { is: 'value', column, value }));
  // a word of a name stands for it where no other name has that word
  const parts = new Map<string, Meaning | null>();
  columns.forEach((column) => {
    const meaning = found.get(plain(column.name));
    const words = plain(column.name).split(' ');
    if (meaning && words.length > 1)
      words.forEach((word) => parts.set(word, parts.has(word) ? null : meaning));
  });
  parts.forEach((meaning, word) => meaning && word.length > 2 && put(word, meaning));
  return found;
}

/** The typed words as meanings, the longest runs first, and what no meaning was found for. */
function read(typed: string, known: Known): { meant: Meaning[]; left: string[] } {
  const all = meanings(known);
  const words = plain(typed)
    .split(/[\s,]+/)
    .filter(Boolean);
  const meant: Meaning[] = [];
  const left: string[] = [];
  for (let i = 0; i < words.length;) {
    const first = numbered(words.slice(i));
    if (first) meant.push(first.meaning);
    let taken = first?.taken ?? 0;
    for (let many = Math.min(4, words.length - i); many > 0 && !taken; many -= 1) {
      const found = all.get(words.slice(i, i + many).join(' '));
      if (found) {
        meant.push(found);
        taken = many;
      }
    }
    if (!taken && !PASSED.has(words[i] ?? '')) left.push(words[i] ?? '');
    i += taken || 1;
  }
  return { meant, left };
}

/** The report as what was typed would have it; null where hardly anything was understood. */
export function freeText(typed: string, report: Report, known: Known): Understood | null {
  const { meant, left } = read(typed, known);
  if (meant.filter((m) => m.is !== 'word').length < 2) return null;
  // an earlier year is what a change is on; alone it would be a window, of which there is none but by dates
  const changes = meant.some((m) => m.is === 'word' && (CHANGES.has(m.word) || AGAINST.has(m.word)));
  if (!changes) left.push(...meant.flatMap((m) => (m.is === 'word' && EARLIER.has(m.word) ? [m.word] : [])));
  const made = new Making(report, known);
  meant.forEach((meaning, i) => made.take(meaning, meant[i - 1], meant[i + 1], meant));
  const next = made.done(meant);
  return { report: next, said: sentence(next), left };
}

const sentence = (report: Report) =>
  brief(report)
    .map((piece) => (typeof piece === 'string' ? piece : piece.text))
    .join('');

/** A report in the making. */
class Making {
  private report: Report;
  private readonly known: Known;
  private figures: Report['figures'] = [];
  private takes = 'sum';
  private calendar: string | null;
  private changes: ('percent' | 'difference')[] = [];
  private desc: boolean | null = null;
  private show: object | null = null;
  private top: number | null = null;
  private shares = false;
  private runs = false;

  constructor(report: Report, known: Known) {
    this.report = { ...report, down: [], across: [] };
    this.known = known;
    this.calendar = null;
  }

  take(meaning: Meaning, before: Meaning | undefined, after: Meaning | undefined, all: Meaning[]) {
    switch (meaning.is) {
      case 'take':
        this.takes = meaning.take;
        break;
      case 'number':
        this.figure(meaning.column);
        break;
      case 'calendar':
        this.calendar = meaning.name;
        break;
      case 'category':
        this.entry({ category: meaning.column.name }, this.way(before, after, 'down'));
        break;
      case 'tree':
        this.tree(meaning.tree, meaning.level, this.way(before, after, 'down'));
        break;
      case 'grain':
        this.period(meaning.grain, this.way(before, after, 'across'), all);
        break;
      case 'value':
        this.report.only = [
          ...(this.report.only ?? []),
          `${quotedName(meaning.column)} = ${quotedText(meaning.value)}`,
        ];
        break;
      case 'window':
        this.show = meaning.show;
        break;
      case 'top':
        this.top = meaning.n;
        break;
      case 'word':
        this.word(meaning.word);
        if (AGAINST.has(meaning.word) && !all.some((m) => m.is === 'word' && CHANGES.has(m.word)))
          this.changes.push('percent');
        break;
      case 'date':
        break;
    }
  }

  private word(word: string) {
    if (word === 'percent change' || word === 'change' || word === 'year over year')
      this.changes.push('percent');
    if (word === 'difference') this.changes.push('difference');
    if (word === 'count' || word === 'records')
      this.figures.push({ name: this.free('Records'), take: 'count' });
    if (word === 'share' || word === 'percent of total') this.shares = true;
    if (word === 'running total' || word === 'cumulative') this.runs = true;
    if (word === 'biggest first' || word === 'largest first') this.desc = true;
    if (word === 'smallest first') this.desc = false;
    if (word === 'fiscal') this.calendar ??= this.calendars()[0] ?? null;
  }

  private calendars = () => this.known.groupings.filter((g) => g.kind === 'calendar').map((g) => g.name);

  private free = (name: string) => freeName({ ...this.report, figures: this.figures }, name);

  private figure(column: ColumnView) {
    const words = capital(column.name.replaceAll('_', ' '));
    const name = this.free(this.takes === 'sum' ? words : `${capital(this.takes)} ${words}`);
    this.figures.push({ name, take: this.takes as 'sum', of: column.name });
    this.takes = 'sum';
  }

  private way(before: Meaning | undefined, after: Meaning | undefined, usual: 'down' | 'across') {
    const said = (m: Meaning | undefined) =>
      m?.is === 'word' && (m.word === 'across' || m.word === 'down') ? (m.word as 'down') : null;
    return said(after) ?? said(before) ?? usual;
  }

  private entry(entry: AxisEntry, way: 'down' | 'across') {
    this.report = { ...this.report, [way]: [...(this.report[way] ?? []), entry] };
  }

  private tree(tree: GroupingLine, level: string | null, way: 'down' | 'across') {
    const placed = this.known.placing.find((p) => p.tree === tree.name);
    if (!placed) return;
    const levels = level ? { levels: [level] } : {};
    this.entry({ category: placed.column, tree: tree.name, ...levels }, way);
  }

  /** The date that is meant, the first there is unless one was named, and the calendar that goes with it. */
  private dated(all: Meaning[]) {
    const named = all.find((m) => m.is === 'date');
    const column = named?.is === 'date' ? named.column : this.known.columns.find((c) => c.role === 'period');
    const fiscal = all.some((m) => m.is === 'word' && m.word === 'fiscal');
    const calendar = this.calendar ?? (fiscal ? (this.calendars()[0] ?? null) : null);
    return column && { name: column.name, calendar: calendar ? { calendar } : {} };
  }

  private period(grain: string, way: 'down' | 'across', all: Meaning[]) {
    const date = this.dated(all);
    if (date) this.entry({ period: date.name, grains: [grain], ...date.calendar } as AxisEntry, way);
  }

  done(all: Meaning[]): Report {
    const figures = this.figures.length ? this.figures : [...this.report.figures];
    const [first] = figures;
    const more: Report['figures'] = [];
    const free = (name: string) => freeName({ ...this.report, figures: [...figures, ...more] }, name);
    if (first) {
      for (const as of new Set(this.changes))
        more.push({
          name: free(as === 'percent' ? 'Change' : 'Difference'),
          compare: first.name,
          with: 'year_earlier',
          as,
        });
      if (this.shares) more.push({ name: free('Share'), share: first.name });
      const dated = [...(this.report.down ?? []), ...(this.report.across ?? [])].find((e) => 'period' in e);
      if (this.runs && dated && 'period' in dated)
        more.push({ name: free('So far'), running: first.name, along: dated.period });
    }
    const down = [...(this.report.down ?? [])];
    const last = down[down.length - 1];
    if (this.desc !== null && last && first)
      down[down.length - 1] = { ...last, order: { by: first.name, desc: this.desc } } as AxisEntry;
    if (this.top !== null && last && first && 'category' in last)
      down[down.length - 1] = { ...down[down.length - 1], top: this.top, by: first.name } as AxisEntry;
    const date = this.show && this.dated(all);
    const window = date ? { window: { of: date.name, show: this.show, ...date.calendar } } : {};
    return { ...this.report, down, figures: [...figures, ...more], ...window } as Report;
  }
}
