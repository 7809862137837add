import type { AxisEntry, Figure, Report } from '../api/client';
import type { Phrase } from './sentence';
import { withFigureRenamed } from './renaming';

/** A list with one item replaced, or removed where `item` is null. */
function placed<T>(list: readonly T[] | undefined, index: number, item: T | null): T[] {
  const copy = [...(list ?? [])];
  if (item === null) copy.splice(index, 1);
  else copy[index] = item;
  return copy;
}

function moved<T>(list: readonly T[] | undefined, from: number, to: number): T[] {
  const copy = [...(list ?? [])];
  const [item] = copy.splice(from, 1);
  if (item !== undefined) copy.splice(Math.max(0, Math.min(to, copy.length)), 0, item);
  return copy;
}

export const withFigure = (report: Report, index: number, figure: Figure): Report => {
  const old = report.figures[index]?.name;
  const next = { ...report, figures: placed(report.figures, index, figure) };
  return old && old !== figure.name ? withFigureRenamed(next, old, figure.name) : next;
};

export const withEntry = (
  report: Report,
  kind: 'down' | 'across',
  index: number,
  entry: AxisEntry,
): Report => ({
  ...report,
  [kind]: placed<AxisEntry>(report[kind], index, entry),
});

/** The report with an entry moved to the end of the other axis. */
export function turned(report: Report, kind: 'down' | 'across', index: number): Report {
  const entry = report[kind]?.[index];
  if (!entry) return report;
  const other = kind === 'down' ? 'across' : 'down';
  return {
    ...report,
    [kind]: placed<AxisEntry>(report[kind], index, null),
    [other]: [...(report[other] ?? []), entry],
  };
}

/** The report with a phrase moved by `by` positions within its own list. */
export function shifted(report: Report, { kind, index }: Phrase, by: number): Report {
  if (kind === 'figure') return { ...report, figures: moved(report.figures, index, index + by) };
  if (kind === 'only') return { ...report, only: moved(report.only, index, index + by) };
  if (kind === 'keep') return { ...report, keep: moved(report.keep, index, index + by) };
  if (kind === 'lines') return { ...report, lines: moved(report.lines, index, index + by) };
  if (kind !== 'down' && kind !== 'across') return report;
  return { ...report, [kind]: moved<AxisEntry>(report[kind], index, index + by) };
}

/** The report without a phrase. */
export function without(report: Report, { kind, index }: Phrase): Report {
  if (kind === 'figure') return { ...report, figures: placed(report.figures, index, null) };
  if (kind === 'only') return { ...report, only: placed(report.only, index, null) };
  if (kind === 'window') return { ...report, window: null };
  if (kind === 'beside') return withoutBeside(report, index);
  if (kind === 'keep') return { ...report, keep: placed(report.keep, index, null) };
  if (kind === 'totals') return { ...report, totals: {} };
  if (kind === 'layout') return { ...report, layout: { widths: report.layout?.widths ?? {} } };
  if (kind === 'records') return { ...report, records: null };
  if (kind === 'sight') return { ...report, out_of_sight: {} };
  if (kind === 'lines') return { ...report, lines: placed(report.lines, index, null) };
  if (kind === 'silenced') return { ...report, silenced: placed(report.silenced, index, null) };
  return { ...report, [kind]: placed<AxisEntry>(report[kind], index, null) };
}

/** The report without a source set beside it, and without the figures that depend on that source. */
function withoutBeside(report: Report, index: number): Report {
  const gone = report.beside?.[index]?.source;
  const lost = new Set<string>();
  const rests = (f: Figure) =>
    ('source' in f && f.source === gone) ||
    Object.values(f).some((v) => typeof v === 'string' && lost.has(v)) ||
    ('formula' in f && [...lost].some((name) => f.formula.includes(`"${name}"`))) ||
    ('with' in f && typeof f.with === 'object' && 'figure' in f.with && lost.has(f.with.figure));
  for (let before = -1; before !== lost.size;) {
    before = lost.size;
    report.figures.filter(rests).forEach((f) => lost.add(f.name));
  }
  return {
    ...report,
    figures: report.figures.filter((f) => !lost.has(f.name)),
    beside: placed(report.beside, index, null),
  };
}

/** The report with a phrase disabled; null if it cannot be, like a report's only figure. */
export function silenced(report: Report, phrase: Phrase): Report | null {
  const { kind, index } = phrase;
  if (kind === 'figure') {
    const figure = report.figures[index];
    const others = report.figures.filter((f, i) => i !== index && !f.hide);
    if (!figure || (!figure.hide && others.length === 0)) return null;
    return withFigure(report, index, { ...figure, hide: !figure.hide });
  }
  const kept = keptAside(report, phrase);
  return kept && { ...without(report, phrase), silenced: [...(report.silenced ?? []), kept] };
}

type Aside = NonNullable<Report['silenced']>[number];

function keptAside(report: Report, { kind, index }: Phrase): Aside | null {
  if (kind === 'only') return { only: report.only?.[index] ?? '' };
  if (kind === 'window') return report.window ? { window: report.window } : null;
  if (kind === 'down' || kind === 'across') {
    const entry = report[kind]?.[index];
    return entry ? { [kind]: entry } : null;
  }
  const keep = kind === 'keep' ? report.keep?.[index] : undefined;
  return keep ? { keep } : null;
}

/** The report with a disabled phrase enabled again, after the others of its kind. */
export function heeded(report: Report, index: number): Report {
  const one = report.silenced?.[index];
  const rest = { ...report, silenced: placed(report.silenced, index, null) };
  if (!one) return report;
  if (one.only) return { ...rest, only: [...(report.only ?? []), one.only] };
  if (one.window) return { ...rest, window: one.window };
  if (one.keep) return { ...rest, keep: [...(report.keep ?? []), one.keep] };
  if (one.down) return { ...rest, down: [...(report.down ?? []), one.down] };
  return one.across ? { ...rest, across: [...(report.across ?? []), one.across] } : rest;
}

/** The report with a phrase moved before another of its kind, an axis entry also before one of the other axis. */
export function putBefore(report: Report, from: Phrase, to: Phrase): Report | null {
  if (from.kind === to.kind) {
    const by = to.index - from.index;
    return by === 0 ? null : shifted(report, from, by);
  }
  const axes = ['down', 'across'];
  if (!axes.includes(from.kind) || !axes.includes(to.kind)) return null;
  const [kind, other] = [from.kind as 'down', to.kind as 'across'];
  const entry = report[kind]?.[from.index];
  if (!entry) return null;
  const there = [...(report[other] ?? [])];
  there.splice(to.index, 0, entry);
  return { ...report, [kind]: placed<AxisEntry>(report[kind], from.index, null), [other]: there };
}

const LISTS = new Set(['down', 'across', 'only', 'keep', 'lines', 'silenced']);

/** The number of phrases in the phrase's own list. */
export const siblings = (report: Report, { kind }: Phrase): number =>
  kind === 'figure'
    ? report.figures.length
    : LISTS.has(kind)
      ? ((report[kind as 'only'] ?? []) as unknown[]).length
      : 1;

/** A name that no figure has. */
export function freeName(report: Report, wanted: string): string {
  const taken = new Set(report.figures.map((f) => f.name));
  let name = wanted;
  for (let n = 2; taken.has(name); n += 1) name = `${wanted} ${n}`;
  return name;
}

const quoted = (label: string) => `"${label.replaceAll('"', '""')}"`;

/** The report with a computed line, the first of some lines minus the others, after the last of them. */
export function withLine(
  report: Report,
  level: string,
  { labels, last }: { labels: string[]; last: string | null },
): Report {
  const [first, ...rest] = labels;
  const taken = new Set((report.lines ?? []).map((l) => l.name));
  const wanted = `${first} less ${rest.length === 1 ? rest[0] : 'the others'}`;
  let name = wanted;
  for (let n = 2; taken.has(name); n += 1) name = `${wanted} ${n}`;
  const formula = labels.map(quoted).join(' - ');
  return { ...report, lines: [...(report.lines ?? []), { name, level, formula, after: last }] };
}
