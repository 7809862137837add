import './editions.css';
import '../parts/state.css';
import '../parts/tools.css';

import { useQuery } from '@tanstack/react-query';
import { Link } from 'react-router';

import { get, type EditionView, type MovedCause, type WhatMoved } from '../api/client';
import { FaultNote } from '../parts/Fault';
import { count, counted } from '../parts/words';
import type { Questioned } from '../sheet/questioned';
import { CauseLines } from './CauseLines';
import { ordinal } from './EditionHead';
import type { Against } from './useEdition';
import type { EditionPlace } from '../api/paths';

const SHOWN = 60;

interface Props {
  base: EditionPlace;
  found: EditionView;
  moved: WhatMoved | undefined;
  error: Error | null;
  against: Against;
  hold: (against: Against) => void;
  cell: Questioned | null;
  choose: (cell: Questioned | null) => void;
}

/** What moved since, or since the previous edition: the cells, each broken down by cause. */
export function MovedMargin(props: Props) {
  const { found, moved, against, cell, choose } = props;
  return (
    <aside className="edition-margin" aria-label="What moved">
      <h2>What moved</h2>
      <Ways {...props} />
      <FaultNote error={props.error} />
      {against === null && (
        <p className="quiet">Hold this edition against now, or against another of its period.</p>
      )}
      {moved && cell && <OneCell {...props} cell={cell} moved={moved} />}
      {moved && !cell && (
        <>
          <p className="place">
            {moved.count === 0
              ? `Nothing moved from ${moved.earlier} to ${moved.later}.`
              : `${counted(moved.count, 'number')} moved from ${moved.earlier} to ${moved.later}${beyond(moved)}. Choose one to see why.`}
          </p>
          {moved.count > 0 && <Causes {...props} />}
          <table className="moved-list">
            <tbody>
              {seen(moved)
                .slice(0, SHOWN)
                .map((one) => (
                  <tr key={[one.figure, ...one.lines, '|', ...one.columns].join('\u001f')}>
                    <td>
                      {one.line !== null && one.column !== null ? (
                        <button
                          onClick={() =>
                            choose({ figure: one.figure, line: one.line ?? 0, column: one.column ?? 0 })
                          }
                        >
                          {placeOf(one)}
                        </button>
                      ) : (
                        <span title="This line is on the other sheet alone.">{placeOf(one)}</span>
                      )}
                    </td>
                    <td className="num">
                      {one.was && <s>{one.was}</s>}
                      {one.now || 'blank'}
                    </td>
                  </tr>
                ))}
            </tbody>
          </table>
          {seen(moved).length > SHOWN && (
            <p className="quiet">and {count(seen(moved).length - SHOWN)} more on the sheet</p>
          )}
        </>
      )}
      <LineOfEditions found={found} />
    </aside>
  );
}

const heldAgainst = (against: Against): Record<string, string> =>
  typeof against === 'number' ? { against: String(against) } : {};

const OF_RECORDS = ['taken_back', 'late', 'corrected'];
const moves = (one: MovedCause['totals'][number]) => one.by !== '' && one.by !== '–';

/** Whether a cause concerns this sheet; files without a record of it do not. */
const changedHere = (cause: MovedCause) =>
  cause.listed.records.length > 0 ||
  cause.totals.some(moves) ||
  (cause.words.length > 0 && cause.kinds.some((kind) => !OF_RECORDS.includes(kind)));

/** What each cause changed on the whole sheet: late postings in one list, placements and phrases as links. */
function Causes({ base, against, error }: Props) {
  const asked = new URLSearchParams(heldAgainst(against));
  const found = useQuery({
    queryKey: ['moved causes', base, against],
    queryFn: ({ signal }) => get(`${base}/moved/causes?${asked.toString()}`, { signal }),
    retry: false,
  });
  return (
    <>
      {!error && <FaultNote error={found.error} />}
      {(found.data ?? []).filter(changedHere).map((cause) => (
        <CauseLines key={cause.title} cause={cause} totals={cause.totals.filter(moves)} />
      ))}
      <h3 className="moved-numbers">Numbers that moved</h3>
    </>
  );
}

/** The cells whose changes are visible in the shown digits. */
const seen = (moved: WhatMoved) => moved.cells.filter((one) => one.was !== one.now);

function beyond(moved: WhatMoved): string {
  const hidden = moved.cells.length - seen(moved).length;
  return hidden ? `, ${count(hidden)} of them beyond the digits shown` : '';
}

const placeOf = (one: { lines: string[]; columns: string[]; figure: string }) =>
  [one.lines.join(' › ') || 'Total', one.columns.join(' › '), one.figure].filter(Boolean).join(' · ');

/** What to compare with: the current data, or another edition of the same period. */
function Ways({ found, against, hold }: Props) {
  const others = found.versions.filter((one) => one.id !== found.edition.id);
  return (
    <div className="against" role="group" aria-label="Held against">
      <button className={`tool${against === 'now' ? ' on' : ''}`} onClick={() => hold('now')}>
        against now
      </button>
      {others.map((one) => (
        <button
          key={one.id}
          className={`tool${against === one.id ? ' on' : ''}`}
          onClick={() => hold(one.id)}
        >
          against the {ordinal(one.number)}
        </button>
      ))}
    </div>
  );
}

function OneCell({ base, against, cell, choose, moved }: Props & { cell: Questioned; moved: WhatMoved }) {
  const asked = new URLSearchParams({
    ...heldAgainst(against),
    figure: cell.figure,
    line: String(cell.line),
    column: String(cell.column),
  });
  const found = useQuery({
    queryKey: ['moved', base, against, cell],
    queryFn: ({ signal }) => get(`${base}/moved/cell?${asked.toString()}`, { signal }),
    retry: false,
  });
  const one = found.data;
  return (
    <>
      <FaultNote error={found.error} />
      {!one && !found.error && <p className="quiet">Taking it apart …</p>}
      {one && (
        <>
          <p className="place">
            {moved.earlier} → {moved.later} · {placeOf(one)}
          </p>
          <p className={`moved-by${one.by.startsWith('(') ? ' neg' : ''}`}>{one.by || 'changed'}</p>
          <p className="from-to">
            {one.was || 'blank'} → {one.now || 'blank'}
          </p>
          {one.parts.map((part) => (
            <CauseLines key={part.title} cause={part} by={part.by} none={Number(part.exact) === 0} />
          ))}
          <div className="whole-move">
            <span>All of the move</span>
            <span className={one.by.startsWith('(') ? 'neg' : ''}>{one.by}</span>
          </div>
        </>
      )}
      <button className="linked" onClick={() => choose(null)}>
        ← all that moved
      </button>
    </>
  );
}

/** The editions beside this one, by period, and the way to all of them. */
function LineOfEditions({ found }: { found: EditionView }) {
  return (
    <div className="line-of-editions">
      {found.beside.map((one) => (
        <Link
          key={one.id}
          to={`/editions/${one.id}`}
          className={`state ${one.number > 1 ? 'restated' : 'issued'}${one.id === found.edition.id ? ' here' : ''}`}
          title={one.named}
        >
          {one.sign}
        </Link>
      ))}
      <Link className="link" to={`/reports/${found.edition.report}/editions`}>
        all editions →
      </Link>
    </div>
  );
}
