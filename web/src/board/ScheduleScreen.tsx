import '../parts/lines.css';
import '../parts/list.css';

import { useQuery } from '@tanstack/react-query';
import { Link } from 'react-router';

import { get } from '../api/client';
import { useReports } from '../api/queries';
import { Masthead } from '../parts/Masthead';
import { FaultNote } from '../parts/Fault';
import { capital, day } from '../parts/words';

/** What schedules issued, and what they did not, with the reason. */
export function ScheduleScreen() {
  const found = useQuery({ queryKey: ['schedules'], queryFn: () => get('/schedules/log') });
  const titles = new Map((useReports().data ?? []).map((report) => [report.id, report.title]));
  const lines = found.data ?? [];
  return (
    <>
      <Masthead title="Schedules" />
      <main className="list-page">
        <h1 className="page-title">What schedules did</h1>
        <p className="say">
          A report that is issued by itself goes out when it is due and all its checks pass; what does not
          pass is left for you on the{' '}
          <Link className="link" to="/board">
            board
          </Link>
          , with the reason.
        </p>
        <FaultNote error={found.error} />
        {lines.length > 0 ? (
          <div className="paper">
            <table className="edition-list">
              <tbody>
                {lines.map((line) => (
                  <tr key={`${line.at} ${line.report} ${line.label} ${line.outcome}`}>
                    <td>
                      {day(line.at)}, {line.at.slice(11, 16)}
                    </td>
                    <td>
                      {titles.get(line.report)} · {line.label}
                    </td>
                    <td>
                      {capital(line.outcome)}
                      {line.reason && `: ${line.reason}`}
                    </td>
                  </tr>
                ))}
              </tbody>
            </table>
          </div>
        ) : (
          found.data && <p className="quiet">Nothing was due for a schedule yet.</p>
        )}
      </main>
      <footer className="tie" />
    </>
  );
}
