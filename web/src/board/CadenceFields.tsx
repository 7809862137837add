import './board.css';
import '../editors/editors.css';

import type { Cadence, Report } from '../api/client';
import { useGroupings } from '../api/queries';
import { Choose, Written } from '../parts/Field';

const EVERY: [string, string][] = [
  ['week', 'every week'],
  ['month', 'every month'],
  ['quarter', 'every quarter'],
  ['half', 'every half year'],
  ['year', 'every year'],
];

/** Which periods the report is issued for, and when each is due. */
export function CadenceFields({
  report,
  cadence,
  change,
}: {
  report: Report;
  cadence: Cadence;
  change: (cadence: Cadence) => void;
}) {
  const calendars = (useGroupings().data ?? []).filter((g) => g.kind === 'calendar');
  const due = cadence.due ?? { days: 0 };
  const working = due.working_days !== null && due.working_days !== undefined;
  const days = working ? due.working_days : due.days;
  const setDue = (n: number, isWorking: boolean) =>
    change({ ...cadence, due: isWorking ? { working_days: n } : { days: n } } as Cadence);
  return (
    <div className="recurring-fields">
      <div className="pair">
        <Choose
          label="Issued"
          value={cadence.every}
          options={EVERY}
          change={(every) => change({ ...cadence, every: every as Cadence['every'] })}
        />
        <Choose
          label="Calendar"
          value={cadence.calendar ?? ''}
          options={[['', 'Civil year'], ...calendars.map((c): [string, string] => [c.name, c.name])]}
          change={(name) => change({ ...cadence, calendar: name || null })}
        />
      </div>
      <div className="pair">
        <Written
          label="Due after the period's end"
          type="number"
          value={String(days ?? 0)}
          change={(text) => setDue(Math.max(0, Math.round(Number(text)) || 0), working)}
        />
        <Choose
          label="Counted in"
          value={working ? 'working' : 'days'}
          options={[
            ['days', 'days'],
            ['working', 'working days'],
          ]}
          change={(way) => setDue(days ?? 0, way === 'working')}
        />
      </div>
      <div className="pair">
        <Written
          label="From the period that holds"
          type="date"
          value={cadence.since ?? ''}
          change={(since) => change({ ...cadence, since })}
        />
        <Choose
          label="It is issued"
          value={cadence.issue ?? 'by_hand'}
          options={[
            ['by_hand', 'by hand'],
            ['when_ready', 'by itself, when due and all checks pass'],
          ]}
          change={(issue) => change({ ...cadence, issue: issue as NonNullable<Cadence['issue']> })}
        />
      </div>
      <p className="quiet">Each edition is drawn up for the last day of its period. {windowWords(report)}</p>
    </div>
  );
}

/** How the records of an edition follow from its period. */
function windowWords(report: Report): string {
  if (report.window)
    return report.window.show.from
      ? 'The window of this report names its own ends, and does not follow the period.'
      : 'The window of the report is counted from that day.';
  const open = [...(report.down ?? []), ...(report.across ?? [])].some((e) => 'age' in e && e.opened);
  return open
    ? 'It holds the items that are open on that day.'
    : 'This report has no window: add one to its sentence, or each edition holds all records there are.';
}
