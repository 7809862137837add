import type { Beside, ColumnView, Report } from '../api/client';
import { useSource, useSources } from '../api/queries';
import { Choose } from '../parts/Field';
import { columnsInUse } from './beside';

const NONE = '';

/** A source set beside the report's own: which of its columns matches each one used by the report. */
export function BesideEditor({
  report,
  other,
  columns,
  change,
}: {
  report: Report;
  other: Beside;
  columns: ColumnView[];
  change: (beside: Beside) => void;
}) {
  const sources = useSources().data ?? [];
  const found = useSource(sources.find((s) => s.name === other.source)?.id).data;
  const used = [...new Set([...columnsInUse(report), ...Object.keys(other.match)])];
  const alike = (name: string): [string, string][] => {
    const role = columns.find((c) => c.name === name)?.role;
    return (found?.columns ?? [])
      .filter((c) => role === undefined || c.role === role)
      .map((c) => [c.name, c.name]);
  };
  const match = (name: string, theirs: string) => {
    const others = Object.entries(other.match).filter(([own]) => own !== name);
    const next = Object.fromEntries(theirs === NONE ? others : [...others, [name, theirs]]);
    if (Object.keys(next).length > 0) change({ ...other, match: next });
  };
  return (
    <>
      <h3>Beside {other.source}</h3>
      <p className="say">
        Its records stand on the same lines and columns. Say which of its columns is which; without one they
        stand at (blank).
      </p>
      {used.map((name) => (
        <Choose
          key={name}
          label={`${name} is its`}
          value={other.match[name] ?? NONE}
          options={[[NONE, 'nothing of it'], ...alike(name)]}
          change={(theirs) => match(name, theirs)}
        />
      ))}
    </>
  );
}
