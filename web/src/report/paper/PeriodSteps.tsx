import '../../editors/editors.css';

import type { Report } from '../../api/client';
import { finest, rank, stepped } from '../../definition/grains';
import { grainWords } from '../../definition/sentence';
import { withEntry } from '../../definition/change';

/** Steps each period of the sheet coarser or finer in place. */
export function PeriodSteps({
  report,
  clocks,
  change,
}: {
  report: Report;
  clocks: ReadonlySet<string>;
  change: (report: Report) => void;
}) {
  return (
    <>
      {(['down', 'across'] as const).flatMap((kind) =>
        (report[kind] ?? []).map((entry, i) => {
          if (!('period' in entry)) return null;
          const last = finest(entry);
          if (!last || rank(last) < 0) return null;
          const clock = clocks.has(entry.period);
          const [coarser, finer] = [stepped(entry, -1, clock), stepped(entry, 1, clock)];
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
