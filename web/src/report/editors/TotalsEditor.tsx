import type { Report } from '../../api/client';
import { Choose } from '../../parts/Field';

type Totals = NonNullable<Report['totals']>;
const PLACES: [string, string][] = [
  ['after', 'after their lines'],
  ['before', 'before their lines'],
  ['none', 'not shown'],
];
const KINDS: [keyof Totals & ('down' | 'across' | 'grand_down' | 'grand_across'), string][] = [
  ['down', 'Totals of groups'],
  ['grand_down', 'The grand total'],
  ['across', 'Total columns of groups'],
  ['grand_across', 'The total column'],
];

/** Where subtotals and grand totals stand, down and across. */
export function TotalsEditor({ report, change }: { report: Report; change: (report: Report) => void }) {
  const totals = report.totals ?? {};
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
    </>
  );
}
