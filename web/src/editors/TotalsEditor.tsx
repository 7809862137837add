import type { Report, SheetView } from '../api/client';
import { Choose } from '../parts/Field';

type Totals = NonNullable<Report['totals']>;
type Choices = [string, string][];
const places = (after: string, before: string): Choices => [
  ['after', after],
  ['before', before],
  ['none', 'not shown'],
];
const BY_LINES = places('after their lines', 'before their lines');
const BY_COLUMNS = places('after their columns', 'before their columns');
const KINDS: [keyof Totals & ('down' | 'across' | 'grand_down' | 'grand_across'), string, Choices][] = [
  ['down', 'Subtotals', BY_LINES],
  ['grand_down', 'The grand total', places('at the foot', 'at the top')],
  ['across', 'Subtotal columns', BY_COLUMNS],
  ['grand_across', 'The total column', places('at the right', 'at the left')],
];

/** Where subtotals and grand totals are shown, down and across. */
export function TotalsEditor({
  report,
  sheet,
  change,
}: {
  report: Report;
  sheet: SheetView | undefined;
  change: (report: Report) => void;
}) {
  const totals = report.totals ?? {};
  const of = (levels: { name: string }[] | undefined, choices: Choices) =>
    (levels ?? []).slice(0, -1).map(({ name }) => ({ name, choices }));
  const levels = [...of(sheet?.down, BY_LINES), ...of(sheet?.across, BY_COLUMNS)];
  return (
    <>
      {KINDS.map(([key, label, choices]) => (
        <Choose
          key={key}
          label={label}
          value={totals[key] ?? 'after'}
          options={choices}
          change={(place) => change({ ...report, totals: { ...totals, [key]: place as 'after' } })}
        />
      ))}
      {levels.map(({ name: level, choices }) => (
        <Choose
          key={level}
          label={`${level} totals`}
          value={totals.levels?.[level] ?? ''}
          options={[['', 'as the subtotals'], ...choices]}
          change={(place) => {
            const others = Object.entries(totals.levels ?? {}).filter(([name]) => name !== level);
            const own: [string, string][] = place ? [[level, place]] : [];
            const set = Object.fromEntries([...others, ...own]) as Record<string, 'after'>;
            change({ ...report, totals: { ...totals, levels: set } });
          }}
        />
      ))}
    </>
  );
}
