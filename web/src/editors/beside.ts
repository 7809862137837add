import type { ColumnView, Figure, Report } from '../api/client';
import { freeName } from '../definition/change';

/** The columns used by a report's axes and window, each once. */
export function columnsInUse(report: Report): string[] {
  const names = [...(report.down ?? []), ...(report.across ?? [])].map((e) =>
    'category' in e ? e.category : 'period' in e ? e.period : 'bucket' in e ? e.bucket : e.age,
  );
  if (report.window) names.push(report.window.of);
  return [...new Set(names)];
}

const bare = (name: string) => name.toLowerCase().replaceAll(/[\s_]/g, '');

/** The matching columns of the other source: by name, else its only date for a date. */
export function guessedMatch(
  used: string[],
  own: ColumnView[],
  theirs: ColumnView[],
): Record<string, string> {
  const dates = theirs.filter((c) => c.role === 'period');
  const match: Record<string, string> = {};
  for (const name of used) {
    const role = own.find((c) => c.name === name)?.role;
    const found =
      theirs.find((c) => c.role === role && bare(c.name) === bare(name)) ??
      (role === 'period' && dates.length === 1 ? dates[0] : undefined);
    if (found) match[name] = found.name;
  }
  return match;
}

/**
 * The report with a source set beside it: the sum of its first amount, and the difference of the report's first figure
 * from that.
 */
export function withBeside(report: Report, source: string, own: ColumnView[], theirs: ColumnView[]): Report {
  const guess = guessedMatch(columnsInUse(report), own, theirs);
  const alike = own.flatMap((c) => theirs.filter((t) => t.role === c.role).map((t) => [c.name, t.name]));
  const match = Object.keys(guess).length > 0 ? guess : Object.fromEntries(alike.slice(0, 1));
  const amount = theirs.find((c) => c.role === 'number');
  const name = freeName(report, source);
  const figures: Figure[] = [
    ...report.figures,
    amount ? { name, take: 'sum', of: amount.name, source } : { name, take: 'count', source },
  ];
  const base = report.figures.find((f) => 'take' in f && !('moving' in f));
  if (base)
    figures.push({
      name: freeName(report, `Off ${source.toLowerCase()}`),
      compare: base.name,
      with: { figure: name },
      as: 'percent',
    });
  return { ...report, figures, beside: [...(report.beside ?? []), { source, match }] };
}
