import type { ColumnView, Report } from '../api/client';
import { Choose } from '../parts/Field';
import { OnlyEditor } from './OnlyEditor';

/**
 * Which lines of a level are kept, by their figures; the others are hidden, and by default still counted in totals.
 */
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
      <OnlyEditor
        key={keep.where}
        condition={keep.where}
        label="Keep lines where"
        source={undefined}
        columns={asColumns(report)}
        made={(where) => made({ where })}
        set={change}
        close={() => undefined}
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

/** The report's figures as number columns, for conditions on lines. */
export const asColumns = (report: Report): ColumnView[] =>
  report.figures.map((figure) => ({
    name: figure.name,
    kind: 'decimal',
    places: 0,
    role: 'number',
    lowest: '',
    highest: '',
    summary: '',
    different: 0,
    blank: 0,
    spread: [],
    warning: '',
    unit: '',
    cut: null,
  }));
