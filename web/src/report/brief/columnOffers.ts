import { get, post, type AxisEntry, type ColumnView, type GroupingLine, type Report } from '../../api/client';
import { quotedName } from '../../parts/sql';
import { entryOffers, figureOffer, onlyOffer, ordinal, taken, type Offer } from './offer';

const TAKES: [string, string, string][] = [
  ['sum', 'sum of', 'total add up'],
  ['mean', 'average of', 'avg mean'],
  ['median', 'median of', 'middle'],
  ['min', 'minimum of', 'min smallest least lowest'],
  ['max', 'maximum of', 'max largest highest biggest'],
  ['stdev', 'standard deviation of', 'stdev spread'],
  ['variance', 'variance of', 'spread'],
  ['count_values', 'count of non-blank', 'filled values'],
];
const GRAINS: [string, string, string][] = [
  ['month', 'month', 'monthly'],
  ['quarter', 'quarter', 'quarterly'],
  ['year', 'year', 'yearly annual'],
  ['week', 'week', 'weekly'],
  ['day', 'day', 'daily date'],
  ['half', 'half-year', 'half year semester'],
  ['day_of_week', 'weekday', 'day of week monday sunday'],
  ['month_of_year', 'month of the year, years merged', 'month of year season'],
  ['week_of_year', 'week of the year, years merged', 'week of year'],
  ['day_of_month', 'day of the month', 'day of month'],
];
const CLOCK: [string, string, string][] = [
  ['hour_of_day', 'hour of the day', 'time of day hour'],
  ['hour', 'hour', 'hourly'],
];
const WEEKDAYS = ['Monday', 'Tuesday', 'Wednesday', 'Thursday', 'Friday', 'Saturday', 'Sunday'];
const MONTHS = [
  'January', 'February', 'March', 'April', 'May', 'June', 'July', 'August', 'September', 'October', 'November', 'December',
]; // prettier-ignore

/** The numbers that were typed: `top 5`, `4th largest`, `percentile 90`. */
const typedNumber = (typed: string, fallback: number) => Number(/\d+/.exec(typed)?.[0] ?? fallback);

/** Figures and ranges of a number column. */
export function ofNumber(column: ColumnView, typed: string): Offer[] {
  const name = column.name.replaceAll('_', ' ');
  const takes = TAKES.map(([take, words, also], i) =>
    figureOffer(
      `${words} ${name}`,
      also,
      60 - i * 3,
      taken(column, take, `${words.replace(' of', '')} ${name}`),
    ),
  );
  const n = Math.max(1, typedNumber(typed, 2));
  const p = Math.min(100, typedNumber(typed, 90));
  return [
    ...takes,
    figureOffer(
      `percentile ${p} of ${name}`,
      'quantile',
      30,
      taken(column, 'percentile', `Percentile ${p} of ${name}`, { p }),
    ),
    figureOffer(
      `${ordinal(n)} largest ${name}`,
      'nth',
      28,
      taken(column, 'nth_largest', `${ordinal(n)} largest ${name}`, { n }),
    ),
    figureOffer(
      `${ordinal(n)} smallest ${name}`,
      'nth',
      26,
      taken(column, 'nth_smallest', `${ordinal(n)} smallest ${name}`, { n }),
    ),
    ...entryOffers(
      `ranges of ${name}`,
      { bucket: column.name, name: `${name} range`, cut: { from: 0, to: 1000, step: 100 } },
      { hint: column.summary, tone: 'bucket', words: 'buckets bands size', weight: 32 },
    ),
  ];
}

/** The weighted averages that two number columns make. */
export function weighted(numbers: ColumnView[]): Offer[] {
  return numbers.slice(0, 4).flatMap((column) =>
    numbers
      .filter((w) => w !== column)
      .slice(0, 3)
      .map((w) =>
        figureOffer(
          `weighted average of ${column.name} by ${w.name}`,
          'weighted mean avg',
          14,
          taken(column, 'weighted_mean', `Weighted ${column.name}`, { weight: w.name }),
        ),
      ),
  );
}

/** Periods, ages and windows of a date column. */
export function ofDate(
  column: ColumnView,
  calendars: (string | null)[],
  own: string | null,
  typed: string,
): Offer[] {
  const name = column.name.replaceAll('_', ' ');
  const grains = column.kind === 'datetime' ? [...GRAINS, ...CLOCK] : GRAINS;
  const offers: Offer[] = [];
  calendars.forEach((calendar) =>
    grains.forEach(([grain, words, also], i) => {
      if (calendar && i > 3) return;
      const entry = { period: column.name, grains: [grain], ...(calendar ? { calendar } : {}) } as AxisEntry;
      const weight = 58 - i * 4 + (calendar === own ? 8 : calendar ? -6 : 0);
      offers.push(
        ...entryOffers(
          `${words} of ${name}${calendar ? ` in ${calendar}` : ''}`,
          entry,
          {
            hint: column.summary,
            tone: 'period',
            words: `${also}${calendar ? ' fiscal' : ''}`,
            weight,
            on: { kind: 'calendar', column: column.name, name: calendar ?? '' },
          },
          ['across', 'down'],
        ),
      );
    }),
  );
  if (!calendars.some(Boolean) && /fis/i.test(typed)) offers.push(...fiscal(column, name));
  offers.push(...weeksFrom(column, name, typed));
  offers.push(
    ...entryOffers(
      `age of ${name}`,
      { age: column.name, cut: [0, 30, 60, 90] },
      { hint: 'days to the as-of date', tone: 'bucket', words: 'aging overdue days buckets', weight: 34 },
    ),
    ...windows(column, own),
  );
  return offers;
}

/** The windows that are asked for most, in the report's own calendar. */
function windows(column: ColumnView, calendar: string | null): Offer[] {
  const name = column.name.replaceAll('_', ' ');
  const shows: [string, string, object][] = [
    ['the last 12 months', 'trailing year', { last: 12, grain: 'month' }],
    ['this year', 'current year to date ytd', { this: 'year' }],
    ['the last 2 years', 'last year', { last: 2, grain: 'year' }],
    ['the last 3 months', 'recent', { last: 3, grain: 'month' }],
  ];
  return shows.map(([words, also, show], i) => ({
    text: `for ${words} of ${name}`,
    hint: calendar ?? 'window',
    tone: 'period',
    words: `window ${also} filter`,
    weight: 36 - i * 3,
    add: (report) => ({
      ...report,
      window: { of: column.name, show, ...(calendar ? { calendar } : {}) } as NonNullable<Report['window']>,
    }),
  }));
}

/** A calendar by its name, made unless it is there. */
async function made(name: string, keys: object): Promise<string> {
  const known = await get<GroupingLine[]>('/groupings');
  if (!known.some((g) => g.name === name))
    await post('/groupings', { kalendor: 1, kind: 'calendar', name, ...keys });
  return name;
}

/** Fiscal periods where there is no calendar yet: it is made at the same time. */
function fiscal(column: ColumnView, name: string): Offer[] {
  return (['quarter', 'year', 'month'] as const).flatMap((grain, g) =>
    MONTHS.slice(1).map((month, m) => ({
      text: `across by fiscal ${grain} of ${name}, the year starting in ${month}`,
      hint: 'makes the calendar',
      tone: 'period' as const,
      words: 'fiscal calendar financial year ending',
      weight: 70 - g * 20 - Math.abs(m - 2),
      add: async (report: Report) => {
        const calendar = await made(`Fiscal year from ${month}`, {
          months: { start_month: m + 2 },
          year_name: { by: 'end', prefix: 'FY', digits: 2 },
        });
        const grains = grain === 'year' ? ['year'] : ['year', grain];
        const entry = { period: column.name, calendar, grains } as AxisEntry;
        return { ...report, across: [...(report.across ?? []), entry] };
      },
    })),
  );
}

/** Weeks that start on the weekday that was typed: their calendar is made at the same time. */
function weeksFrom(column: ColumnView, name: string, typed: string): Offer[] {
  const start = WEEKDAYS.find((day) => new RegExp(`\\b${day.slice(0, 3)}`, 'i').test(typed));
  if (!start) return [];
  return (['across', 'down'] as const).map((way, i) => ({
    text: `${way} by week of ${name}, weeks starting on ${start}`,
    hint: 'makes the calendar',
    tone: 'period' as const,
    words: 'weekly calendar from starts weekday',
    weight: 68 - i * 2,
    add: async (report: Report) => {
      const calendar = await made(`Weeks from ${start}`, { months: {}, week_start: start.toLowerCase() });
      const entry = { period: column.name, calendar, grains: ['week'] } as AxisEntry;
      return { ...report, [way]: [...(report[way] ?? []), entry] };
    },
  }));
}

/** Lines, columns and counts of a category column. */
export function ofCategory(column: ColumnView, typed: string, figure: string): Offer[] {
  const name = column.name.replaceAll('_', ' ');
  const offers: Offer[] = [];
  if (!column.warning) {
    offers.push(
      ...entryOffers(
        name,
        { category: column.name },
        { hint: column.summary, tone: 'tree', words: 'group', weight: 66 },
      ),
    );
    const n = Math.max(1, typedNumber(typed, 5));
    if (/top/i.test(typed))
      offers.push(
        ...entryOffers(
          `the top ${n} of ${name} by ${figure}`,
          { category: column.name, top: n, by: figure },
          { hint: 'the rest as Other', tone: 'tree', words: `top ${n} largest best`, weight: 72 },
          ['down'],
        ),
      );
  }
  offers.push(
    figureOffer(
      `count of different ${name}`,
      'distinct unique values',
      22,
      taken(column, 'distinct', `Different ${name}`),
    ),
    figureOffer(
      `count of non-blank ${name}`,
      'filled',
      12,
      taken(column, 'count_values', `Non-blank ${name}`),
    ),
  );
  return offers;
}

/** Conditions on a column: one that starts empty, and blanks left out. */
export function conditions(column: ColumnView): Offer[] {
  const name = column.name.replaceAll('_', ' ');
  const ask: Offer = {
    text: `only where ${name} …`,
    hint: column.summary,
    tone: 'condition',
    words: 'filter where condition is contains between',
    weight: 40,
    begin: { only: column.name },
  };
  if (!column.blank) return [ask];
  const what = column.role === 'period' ? 'blank dates in' : 'blank';
  return [
    ask,
    onlyOffer(
      `leave out ${what} ${name}`,
      `blank empty missing non-blank filter`,
      30,
      `${quotedName(column.name)} IS NOT NULL`,
    ),
  ];
}
