import type { Report } from '../../api/client';
import { Choose } from '../../parts/Field';
import { Tried } from './Tried';

/** Which lines of a level are kept, by their figures; the others are hidden, and counted in totals unless told not to. */
export function KeepEditor({
  report,
  index,
  levels,
  change,
}: {
  report: Report;
  index: number;
  levels: string[];
  change: (report: Report) => void;
}) {
  const keep = report.keep?.[index];
  if (!keep) return null;
  const made = (next: object): Report => ({
    ...report,
    keep: (report.keep ?? []).map((k, i) => (i === index ? { ...k, ...next } : k)),
  });
  const set = (next: object) => change(made(next));
  const names: [string, string][] = [...new Set([...levels, keep.level])].map((l) => [l, l]);
  return (
    <>
      <Choose label="Lines of" value={keep.level} options={names} change={(level) => set({ level })} />
      <Tried
        label="Keep lines where"
        value={keep.where}
        help={'a condition over figures, as "Net fare" > 1000'}
        made={(where) => made({ where })}
        change={change}
      />
      <Choose
        label="Totals are"
        value={report.totals?.totals ?? 'all'}
        options={[
          ['all', 'of all lines, the hidden ones too'],
          ['kept', 'of the kept lines alone'],
        ]}
        change={(totals) => change({ ...report, totals: { ...report.totals, totals: totals as 'all' } })}
      />
    </>
  );
}
