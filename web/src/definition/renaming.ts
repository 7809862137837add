import type { AxisEntry, Figure, Report } from '../api/client';

const TOKEN = /'(?:[^']|'')*'|"(?:[^"]|"")*"|[A-Za-z_][A-Za-z0-9_]*/g;
const WORD = /^[A-Za-z_][A-Za-z0-9_]*$/;
const RESTING = ['compare', 'share', 'running', 'moving', 'rank'];

const quoted = (name: string) => `"${name.replaceAll('"', '""')}"`;

/** A formula over figures with a figure's new name: in quotation marks or not, but not within a text. */
export function renamedInFormula(formula: string, from: string, to: string): string {
  return formula.replace(TOKEN, (token: string, at: number) => {
    if (token.startsWith("'")) return token;
    if (token.startsWith('"')) return token === quoted(from) ? quoted(to) : token;
    const calls = /^\s*\(/.test(formula.slice(at + token.length));
    return !calls && WORD.test(from) && token.toLowerCase() === from.toLowerCase() ? quoted(to) : token;
  });
}

function renamedFigure(figure: Figure, from: string, to: string): Figure {
  const copy = { ...figure } as Record<string, unknown>;
  for (const key of RESTING) if (copy[key] === from) copy[key] = to;
  if (typeof copy.formula === 'string') copy.formula = renamedInFormula(copy.formula, from, to);
  const base = copy.with;
  if (base && typeof base === 'object' && 'figure' in base && base.figure === from)
    copy.with = { ...base, figure: to };
  return copy as Figure;
}

function renamedEntry<E extends AxisEntry>(entry: E, from: string, to: string): E {
  const order = entry.order;
  return {
    ...entry,
    ...(entry.by === from && { by: to }),
    ...(order &&
      typeof order === 'object' &&
      'by' in order &&
      order.by === from && { order: { ...order, by: to } }),
  };
}

/** The report with a figure's new name wherever its old one is meant: in figures, orders, tops, kept lines, expected totals,
 * limits, notes and widths, silenced phrases included. */
export function withFigureRenamed(report: Report, from: string, to: string): Report {
  const named = <T extends { figure?: string | null }>(one: T): T =>
    one.figure === from ? { ...one, figure: to } : one;
  const kept = <T extends { where: string }>(keep: T): T => ({
    ...keep,
    where: renamedInFormula(keep.where, from, to),
  });
  return {
    ...report,
    figures: report.figures.map((figure) => renamedFigure(figure, from, to)),
    ...(report.down && { down: report.down.map((entry) => renamedEntry(entry, from, to)) }),
    ...(report.across && { across: report.across.map((entry) => renamedEntry(entry, from, to)) }),
    ...(report.keep && { keep: report.keep.map(kept) }),
    ...(report.controls && { controls: report.controls.map(named) }),
    ...(report.notes && { notes: report.notes.map(named) }),
    ...(report.cadence && {
      cadence: {
        ...report.cadence,
        ...(report.cadence.limits && { limits: report.cadence.limits.map(named) }),
      },
    }),
    ...(report.layout?.widths && {
      layout: {
        ...report.layout,
        widths: Object.fromEntries(
          Object.entries(report.layout.widths).map(([name, width]) => [name === from ? to : name, width]),
        ),
      },
    }),
    ...(report.silenced && {
      silenced: report.silenced.map((aside) => ({
        ...aside,
        ...(aside.down && { down: renamedEntry(aside.down, from, to) }),
        ...(aside.across && { across: renamedEntry(aside.across, from, to) }),
        ...(aside.keep && { keep: kept(aside.keep) }),
      })),
    }),
  };
}
