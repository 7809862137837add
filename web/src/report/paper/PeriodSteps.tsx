import type { PeriodEntry, Report } from '../../api/client';
import { grainWords } from '../../definition/sentence';
import { withEntry } from '../../definition/change';

const STEPS = ['year', 'half', 'quarter', 'month', 'week', 'day'] as const;
type Step = (typeof STEPS)[number];

/** The entry with its finest grain made coarser or finer; null where there is none. */
export function stepped(entry: PeriodEntry, by: 1 | -1): PeriodEntry | null {
  const last = entry.grains[entry.grains.length - 1];
  const at = STEPS.indexOf(last as Step);
  const next = STEPS[at + by];
  if (at < 0 || !next) return null;
  const outer = entry.grains.slice(0, -1).filter((g) => STEPS.indexOf(g as Step) < STEPS.indexOf(next));
  return { ...entry, grains: [...outer, next], levels: null };
}

/** Steps each period of the sheet coarser or finer in place. */
export function PeriodSteps({ report, change }: { report: Report; change: (report: Report) => void }) {
  return (
    <>
      {(['down', 'across'] as const).flatMap((kind) =>
        (report[kind] ?? []).map((entry, i) => {
          if (!('period' in entry)) return null;
          const last = entry.grains[entry.grains.length - 1];
          if (!last || STEPS.indexOf(last as Step) < 0) return null;
          const [coarser, finer] = [stepped(entry, -1), stepped(entry, 1)];
          return (
            <span key={`${kind}${i}`} className="steps" role="group" aria-label={`Period ${kind}`}>
              <button
                disabled={!coarser}
                aria-label="Coarser"
                title="coarser"
                onClick={() => coarser && change(withEntry(report, kind, i, coarser))}
              >
                −
              </button>
              {grainWords(last)}
              <button
                disabled={!finer}
                aria-label="Finer"
                title="finer"
                onClick={() => finer && change(withEntry(report, kind, i, finer))}
              >
                +
              </button>
            </span>
          );
        }),
      )}
    </>
  );
}
