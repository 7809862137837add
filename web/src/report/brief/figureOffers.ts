import type { AxisEntry, Report } from '../../api/client';
import { freeName, withEntry } from '../change';
import { figureOffer, type Offer } from './offer';

/** Figures worked out from those that there are. */
export function fromFigures(report: Report): Offer[] {
  const offers: Offer[] = [];
  const axes = [...(report.across ?? []), ...(report.down ?? [])];
  const period = axes.find((e) => 'period' in e);
  const along = period && 'period' in period ? period.period : null;
  const hasBase = along !== null || Boolean(report.window);
  report.figures.forEach((own, i) => {
    const { name } = own;
    if (!('take' in own) && !('formula' in own)) return;
    const weight = 50 - i * 12;
    if (hasBase) {
      const base: [string, string, 'year_earlier' | 'period_before'][] = [
        ['a year earlier', 'last year yoy prior previous year', 'year_earlier'],
        ['the period before', 'previous prior month on month', 'period_before'],
      ];
      for (const [words, also, with_] of base)
        offers.push(
          figureOffer(`change of ${name} on ${words}, percent`, `${also} percent growth`, weight + 4, (r) => ({
            name: freeName(r, 'Change'), compare: name, with: with_, as: 'percent' })),
          figureOffer(`difference of ${name} on ${words}`, `${also} change variance`, weight, (r) => ({
            name: freeName(r, 'Difference'), compare: name, with: with_, as: 'difference' })),
          figureOffer(`${name} ${words}`, `${also} base comparison`, weight - 4, (r) => ({
            name: freeName(r, with_ === 'year_earlier' ? 'Year earlier' : 'Before'), compare: name, with: with_, as: 'base' })),
        ); // prettier-ignore
    }
    const shares: [string, 'all' | 'parent' | 'column' | 'line'][] = [
      ['the total', 'all'], ['its group', 'parent'], ['its column', 'column'], ['its line', 'line'],
    ]; // prettier-ignore
    shares.forEach(([words, of_total], s) =>
      offers.push(
        figureOffer(
          `share of ${name} in ${words}`,
          `percent of total column proportion`,
          weight - 2 - s,
          (r) => ({
            name: freeName(r, 'Share'),
            share: name,
            of_total,
          }),
        ),
      ),
    );
    if (along)
      offers.push(
        figureOffer(`running total of ${name}`, 'cumulative so far year to date ytd', weight - 4, (r) => ({
          name: freeName(r, 'So far'),
          running: name,
          along,
        })),
        figureOffer(`running total of ${name}, restarting every year`, 'cumulative ytd', weight - 5, (r) => ({
          name: freeName(r, 'So far this year'),
          running: name,
          along,
          restart: 'year',
        })),
        figureOffer(`average of ${name} over 3 periods`, 'moving rolling mean', weight - 6, (r) => ({
          name: freeName(r, 'Moving average'),
          moving: name,
          periods: 3,
        })),
      );
    offers.push(
      figureOffer(`running total of ${name} down the lines`, 'cumulative', weight - 12, (r) => ({
        name: freeName(r, 'Cumulative'),
        running: name,
        along: 'lines',
      })),
      figureOffer(`rank by ${name}`, 'place position', weight - 10, (r) => ({
        name: freeName(r, 'Rank'),
        rank: name,
      })),
    );
  });
  const [a, b] = report.figures.map((f) => f.name);
  offers.push(
    figureOffer('a formula over figures', 'ratio divide calculate', 16, (r) => ({
      name: freeName(r, 'Ratio'),
      formula: b ? `"${a}" / "${b}"` : `"${a}" * 1`,
    })),
  );
  return offers;
}

/** How lines are sorted, kept and totalled, and how the sheet is set. */
export function ofLines(report: Report, levels: string[]): Offer[] {
  const offers: Offer[] = [];
  const last = (report.down ?? []).length - 1;
  const entry = report.down?.[last];
  const condition = (
    text: string,
    words: string,
    weight: number,
    add: (r: Report) => Report,
    hint = 'lines',
  ): Offer => ({
    text,
    hint,
    tone: 'condition',
    words,
    weight,
    add,
  });
  if (entry)
    for (const { name } of report.figures) {
      for (const desc of [true, false])
        offers.push(
          condition(
            `sorted by ${name}, ${desc ? 'largest' : 'smallest'} first`,
            `sort order ${desc ? 'descending biggest' : 'ascending'}`,
            desc ? 26 : 20,
            (r) => withEntry(r, 'down', last, { ...entry, order: { by: name, desc } } as AxisEntry),
          ),
        );
    }
  levels.forEach((level) =>
    offers.push({
      text: `keep lines of ${level} where …`,
      hint: 'the others are hidden',
      tone: 'condition',
      words: 'filter having limit figure over',
      weight: 14,
      begin: { keep: level },
    }),
  );
  levels.slice(0, -1).forEach((level) =>
    offers.push(
      condition(`without ${level} totals`, 'subtotal off', 16, (r) => ({
        ...r,
        totals: { ...r.totals, levels: { ...r.totals?.levels, [level]: 'none' } },
      }), 'totals'),
    ),
  ); // prettier-ignore
  if (Object.keys(report.totals ?? {}).length === 0) {
    const all = (place: 'before' | 'none') => ({
      down: place,
      across: place,
      grand_down: place,
      grand_across: place,
    });
    offers.push(
      condition('totals first', 'subtotal above before', 15, (r) => ({ ...r, totals: { ...r.totals, ...all('before') } }), 'totals'),
      condition('without totals', 'subtotal off none', 14, (r) => ({ ...r, totals: { ...r.totals, ...all('none') } }), 'totals'),
      condition('without subtotals', 'subtotal off none', 15, (r) => ({ ...r, totals: { ...r.totals, down: 'none' } }), 'totals'),
      condition('without a total column', 'grand total off', 15, (r) => ({ ...r, totals: { ...r.totals, grand_across: 'none' } }), 'totals'),
    ); // prettier-ignore
  }
  if (report.layout?.lines !== 'columns' && levels.length > 1)
    offers.push(
      condition('one column a level', 'layout tabular key columns labels once', 12, (r) => ({
        ...r,
        layout: { ...r.layout, lines: 'columns' },
      }), 'layout'),
    ); // prettier-ignore
  const looks: ['space' | 'bold' | 'page_break', (level: string) => string][] = [
    ['space', (level) => `space before each ${level}`],
    ['bold', (level) => `${level} in bold`],
    ['page_break', (level) => `each ${level} on a new page`],
  ];
  levels.slice(0, -1).forEach((level) =>
    looks
      .filter(([key]) => !report.layout?.levels?.[level]?.[key])
      .forEach(([key, words]) =>
        offers.push(
          condition(words(level), 'layout format lines apart', 8, (r) => ({
            ...r,
            layout: {
              ...r.layout,
              levels: { ...r.layout?.levels, [level]: { ...r.layout?.levels?.[level], [key]: true } },
            },
          }), 'layout'),
        ),
      ),
  ); // prettier-ignore
  if (levels[0] && !report.layout?.grand)
    offers.push(
      condition(`the grand total called All ${levels[0]}s`, 'layout name words total label', 8, (r) => ({
        ...r,
        layout: { ...r.layout, grand: `All ${levels[0]}s` },
      }), 'layout'),
    ); // prettier-ignore
  if (!report.records && levels.length > 0)
    offers.push(condition('listing the records', 'detail transactions', 12, (r) => ({ ...r, records: {} })));
  return offers;
}
