import '../parts/chip.css';

import type { PeriodEntry } from '../api/client';
import { Choose, Written } from '../parts/Field';
import { GroupingChoice } from '../parts/GroupingChoice';
import type { AxisProps } from './axisProps';
import {
  byGrain,
  finest,
  GRAINS,
  grainsFor,
  MERGING,
  rank,
  withOuter,
  type Grain,
} from '../definition/grains';
import { grainWords } from '../definition/sentence';

/** A date column in periods of a calendar. */
export function Periods({ entry, source, columns, change }: AxisProps<PeriodEntry>) {
  const column = columns.find((c) => c.name === entry.period);
  const dates: [string, string][] = columns.filter((c) => c.role === 'period').map((c) => [c.name, c.name]);
  const years = column ? column.lowest.slice(-4) !== column.highest.slice(-4) : false;
  const innermost = finest(entry);
  const outer = GRAINS.slice(0, Math.max(0, rank(innermost)));
  const chip = (grain: Grain, on: boolean, next: PeriodEntry) => (
    <button key={grain} className={`chip${on ? ' on' : ''}`} aria-pressed={on} onClick={() => change(next)}>
      {grainWords(grain)}
    </button>
  );
  const own = (grain: Grain) => chip(grain, grain === innermost, byGrain(entry, grain));
  return (
    <>
      <Choose
        label="Date"
        value={entry.period}
        options={dates}
        change={(period) => change({ ...entry, period })}
      />
      <GroupingChoice
        label="Calendar"
        kind="calendar"
        source={source}
        column={entry.period}
        value={entry.calendar ?? ''}
        none="Civil year"
        change={(c) => change({ ...entry, calendar: c || null })}
      />
      <div className="grains" role="group" aria-label="Periods">
        {grainsFor(column?.kind === 'datetime').map(own)}
      </div>
      {outer.length > 0 && (
        <div>
          <div className="quiet" style={{ fontSize: 12, marginBottom: 4 }}>
            Grouped in
          </div>
          <div className="grains" role="group" aria-label="Grouped in">
            {outer.map((grain) => chip(grain, entry.grains.includes(grain), withOuter(entry, grain)))}
          </div>
        </div>
      )}
      <DayRuns entry={entry} from={isoDay(column?.lowest)} change={change} />
      <div>
        <div className="quiet" style={{ fontSize: 12, marginBottom: 4 }}>
          Years merged{years ? ' – the data has more than one, and these add them together' : ''}
        </div>
        <div className="grains" role="group" aria-label="Merged periods">
          {MERGING.map(own)}
        </div>
      </div>
      <Choose
        label="Periods without records"
        value={entry.empty ?? 'hide'}
        options={[
          ['hide', 'left out'],
          ['show', 'shown'],
        ]}
        change={(empty) => change({ ...entry, empty: empty as 'hide' | 'show' })}
      />
    </>
  );
}

/** A day such as 1 Nov 2025 as 2025-11-01; the start of this year if it is invalid. */
const isoDay = (words: string | undefined) => {
  const at = Date.parse(`${words ?? ''} UTC`);
  return Number.isNaN(at) ? `${new Date().getFullYear()}-01-01` : new Date(at).toISOString().slice(0, 10);
};

/** Runs of a number of days from any day, such as fortnights. */
function DayRuns({
  entry,
  from,
  change,
}: { from: string } & Pick<AxisProps<PeriodEntry>, 'entry' | 'change'>) {
  const run = entry.grains.find((g) => typeof g !== 'string');
  const set = (days: number, start: string) => change({ ...entry, grains: [{ days, from: start }] });
  return (
    <div style={{ display: 'flex', gap: 8 }}>
      <Written
        label="Periods of so many days"
        type="number"
        clear
        value={run ? String(run.days) : ''}
        change={(n) =>
          Number(n) >= 1 ? set(Number(n), run?.from ?? from) : change({ ...entry, grains: ['month'] })
        }
      />
      {run && <Written label="From" type="date" value={run.from} change={(start) => set(run.days, start)} />}
    </div>
  );
}
