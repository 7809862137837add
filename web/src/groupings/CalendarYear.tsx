import './groupings.css';

import type { CalendarLook } from '../api/client';
import { counted, span } from '../parts/words';

const SHADES = ['#0d5a6a', '#2c6f7d', '#437f8b', '#50757d'];

/** The latest year to scale: its periods and quarters, each as wide as it is long. */
export function Year({ look, byTable }: { look: CalendarLook; byTable: boolean }) {
  const days = (first: string, last: string) => (Date.parse(last) - Date.parse(first)) / 86_400_000 + 1;
  const columns = (periods: CalendarLook['periods']) =>
    periods.map((p) => `${days(p.first, p.last)}fr`).join(' ');
  return (
    <>
      <div className="year-strip" style={{ gridTemplateColumns: columns(look.periods) }}>
        {look.periods.map((p, i) => (
          <div
            key={p.first}
            style={{ background: SHADES[p.quarter % 4] }}
            title={`${p.label}: ${span(p.first, p.last)}`}
          >
            <b>{byTable ? p.label : p.name}</b>
            <small>
              P{i + 1} · {p.first.slice(0, 4)}
            </small>
          </div>
        ))}
      </div>
      <div
        className="year-strip quarters"
        style={{ gridTemplateColumns: columns(look.quarters), marginTop: 2 }}
      >
        {look.quarters.map((q) => (
          <div key={q.first}>
            <b>{q.name}</b> {span(q.first, q.last)}
          </div>
        ))}
      </div>
    </>
  );
}

/** The years that the data cover. */
export function Years({ look }: { look: CalendarLook }) {
  return (
    <table className="years" aria-label="Years">
      <tbody>
        {look.years.map((year) => (
          <tr key={year.first}>
            <td>
              <b>{year.name}</b>
            </td>
            <td>{span(year.first, year.last)}</td>
            <td>
              {counted(year.days, 'day')}
              {year.days % 7 === 0 && `, ${counted(year.weeks, 'week')}`}
            </td>
            <td className="quiet">{counted(year.working_days, 'working day')}</td>
            <td className="quiet">{counted(year.records, 'record')}</td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}
