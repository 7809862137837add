import '../parts/lines.css';
import '../parts/list.css';
import '../parts/state.css';

import { useQuery } from '@tanstack/react-query';
import { Link, useParams } from 'react-router';

import { get, type EditionLine } from '../api/client';
import { useReport } from '../api/queries';
import { GhostLink, Masthead } from '../parts/Masthead';
import { FaultNote } from '../parts/Fault';
import { counted, day } from '../parts/words';

/** All editions of a report, the line from one to the next. */
export function EditionList() {
  const id = Number(useParams().id);
  const report = useReport(id).data;
  const found = useQuery({
    queryKey: ['editions', id],
    queryFn: () => get(`/editions?report=${id}`),
  });
  const lines = [...(found.data ?? [])].sort(
    (a, b) => b.last_day.localeCompare(a.last_day) || b.number - a.number,
  );
  return (
    <>
      <Masthead title="Editions">
        <GhostLink to={`/history?of=${id}`}>History</GhostLink>
        <GhostLink to={`/reports/${id}`}>Open the report</GhostLink>
      </Masthead>
      <main className="list-page">
        <h1 className="page-title">{report?.document.title ?? lines[0]?.title ?? 'Editions'}</h1>
        <p className="say">
          {counted(lines.length, 'edition')}, each as it was issued; none is ever changed or taken away
        </p>
        <FaultNote error={found.error} />
        {lines.length > 0 ? <EditionLines lines={lines} to={(one) => `/editions/${one.id}`} /> : null}
        {found.data?.length === 0 && (
          <p className="quiet">
            None is issued yet. On the <Link to="/board">board</Link> choose a crossing, and issue it.
          </p>
        )}
      </main>
      <footer className="tie" />
    </>
  );
}

/** Editions as a list, by period. */
export function EditionLines({ lines, to }: { lines: EditionLine[]; to: (one: EditionLine) => string }) {
  return (
    <div className="paper">
      <table className="edition-list">
        <thead>
          <tr>
            <th scope="col">Period</th>
            <th scope="col">Edition</th>
            <th scope="col">Issued</th>
            <th scope="col">By</th>
            <th scope="col">Seal</th>
          </tr>
        </thead>
        <tbody>
          {lines.map((one) => (
            <tr key={one.id} className={one.latest ? '' : 'later'}>
              <td>
                <Link className={`state ${one.number > 1 ? 'restated' : 'issued'}`} to={to(one)}>
                  {one.sign}
                </Link>{' '}
                <Link className="link" to={to(one)}>
                  {one.label}
                </Link>
              </td>
              <td>
                {one.number > 1 ? `no. ${one.number}, restated` : 'first'}
                {!one.latest && ', replaced since'}
              </td>
              <td>
                {day(one.issued_at)}, {one.issued_at.slice(11, 16)}
              </td>
              <td>{one.issued_by}</td>
              <td>
                <code title={one.sha256}>{one.sha256.slice(0, 12)}</code>
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}
