import type { Report, SheetView } from '../../api/client';
import { Choose } from '../../parts/Field';

type Totals = NonNullable<Report['totals']>;
const PLACES: [string, string][] = [
  ['after', 'after their lines'],
  ['before', 'before their lines'],
  ['none', 'not shown'],
];
const KINDS: [keyof Totals & ('down' | 'across' | 'grand_down' | 'grand_across'), string][] = [
  ['down', 'Subtotals'],
  ['grand_down', 'The grand total'],
  ['across', 'Subtotal columns'],
  ['grand_across', 'The total column'],
];

/** Where subtotals and grand totals stand, down and across. */
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
  const levels = [...(sheet?.down ?? []).slice(0, -1), ...(sheet?.across ?? []).slice(0, -1)].map(
    (l) => l.name,
  );
  return (
    <>
      {KINDS.map(([key, label]) => (
        <Choose
          key={key}
          label={label}
          value={totals[key] ?? 'after'}
          options={PLACES}
          change={(place) => change({ ...report, totals: { ...totals, [key]: place as 'after' } })}
        />
      ))}
      {levels.map((level) => (
        <Choose
          key={level}
          label={`${level} totals`}
          value={totals.levels?.[level] ?? ''}
          options={[['', 'as the subtotals'], ...PLACES]}
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
