import '../editors/editors.css';

import type { WaitingView } from '../api/client';
import { capital, count } from '../parts/words';

type Months = WaitingView['outcome']['months'];

/** Records by month: those that stand now, leave, come and stand after. `small`: without bars, for a margin. */
export function MonthTable({ months, small = false }: { months: Months; small?: boolean }) {
  const most = Math.max(1, ...months.map((m) => Math.max(m.now, m.now - m.leave + m.come)));
  const share = (n: number) => `${(100 * n) / most}%`;
  return (
    <table>
      <thead>
        <tr>
          <th>Month</th>
          <th className="num">{small ? 'now' : 'stand now'}</th>
          <th className="num">leave</th>
          <th className="num">come</th>
          <th className="num">{small ? 'after' : 'stand after'}</th>
          {!small && <th className="bars" />}
        </tr>
      </thead>
      <tbody>
        {months.map((month) => (
          <tr key={month.month} className={month.held ? 'held' : ''}>
            <td>{capital(month.month)}</td>
            <td className="num">{count(month.now)}</td>
            <td className={`num${month.leave ? ' neg' : ''}`}>{month.leave ? count(month.leave) : '–'}</td>
            <td className="num">{month.come ? count(month.come) : '–'}</td>
            <td className="num">{count(month.now - month.leave + month.come)}</td>
            {!small && (
              <td className="bars">
                {month.held ? (
                  <>
                    <i className="lost" style={{ width: share(month.leave - month.come) }} />
                    <span className="neg">held</span>
                  </>
                ) : (
                  <>
                    <i className="stay" style={{ width: share(month.now - month.leave) }} />
                    <i className="come" style={{ width: share(month.come) }} />
                  </>
                )}
              </td>
            )}
          </tr>
        ))}
      </tbody>
    </table>
  );
}
