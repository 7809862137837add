import './board.css';
import '../parts/masthead.css';
import '../parts/tools.css';
import '../parts/panes.css';

import { useMutation, useQueryClient } from '@tanstack/react-query';
import { Dialog, DialogContent, DialogTitle } from '@mui/material';
import { useEffect, useState } from 'react';
import { Link } from 'react-router';

import { post, type BoardView, type IssueOutcome, type SourceLine } from '../api/client';
import { useReports, useSources, useWorkspace } from '../api/queries';
import { GhostButton, Masthead, MainButton } from '../parts/Masthead';
import { FaultNote } from '../parts/Fault';
import { isElsewhere } from '../parts/keys';
import { capital, counted, day, inFull, listed } from '../parts/words';
import { NewReport } from '../start/NewReport';
import { Welcome } from '../start/Welcome';
import { BoardGrid } from './BoardGrid';
import { BoardMargin } from './BoardMargin';
import { CadenceDialog } from './CadenceDialog';
import { MovedDialog, movedOn } from './MovedDialog';
import { SendPackDialog } from './SendPackDialog';
import { firstOf, moved, type Picked } from './picking';
import { useBoard, type Shown } from './useBoard';
import { NotationDialog } from './NotationDialog';

const GRAINS = [
  ['week', 'by week'],
  ['month', 'by month'],
  ['quarter', 'by quarter'],
  ['year', 'by year'],
] as const;

/** The home screen: reports by period, the state of each edition, and the sources beneath. */
export function BoardScreen() {
  const [shown, setShown] = useState<Shown>({ calendar: '', every: 'month', back: 0 });
  const found = useBoard(shown);
  const board = found.data;
  const today = useWorkspace().data?.today;
  const [chosen, setChosen] = useState<Picked | null>(null);
  const [cadence, setCadence] = useState<number | null>(null);
  const [adding, setAdding] = useState(false);
  const [packing, setPacking] = useState(false);
  const picked = chosen ?? (board ? firstOf(board) : null);
  const [restating, setRestating] = useState(false);
  const ready = useIssueReady();
  const hasMoved = board ? movedOn(board) : [];
  useBoardKeys(
    board,
    picked,
    setChosen,
    () => ready.mutate(),
    () => setRestating(hasMoved.length > 0),
  );
  const reports = useReports().data;
  const sources = useSources().data;
  if (sources?.length === 0 && reports?.length === 0) return <Welcome />;
  return (
    <>
      <Masthead title="Board">
        {today && <span className="asof">today {day(today)}</span>}
        <GhostButton onClick={() => setPacking(true)} disabled={!board?.rows.length}>
          Send a pack
        </GhostButton>
        <GhostButton onClick={() => ready.mutate()} disabled={ready.isPending || !board} title="A">
          Issue all that are ready
        </GhostButton>
        <MainButton onClick={() => setAdding(true)}>New report</MainButton>
      </Masthead>
      <div className="board-page panes">
        <main className="board-work">
          {board && <Top board={board} shown={shown} show={setShown} restate={() => setRestating(true)} />}
          <FaultNote error={found.error ?? ready.error} />
          <Dropped sources={sources ?? []} />
          {board && board.rows.length > 0 && (
            <BoardGrid board={board} picked={picked} pick={setChosen} cadence={setCadence} />
          )}
          {board && <Rest board={board} cadence={setCadence} />}
        </main>
        <BoardMargin picked={picked} />
      </div>
      <Foot board={board} />
      <NewReport open={adding} close={() => setAdding(false)} />
      {restating && hasMoved.length > 0 && (
        <MovedDialog editions={hasMoved} close={() => setRestating(false)} />
      )}
      {packing && board && <SendPackDialog board={board} close={() => setPacking(false)} />}
      {cadence !== null && <CadenceDialog id={cadence} close={() => setCadence(null)} />}
      {ready.data && <Outcomes found={ready.data} close={ready.reset} />}
    </>
  );
}

function useIssueReady() {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: () => post('/board/issue-ready'),
    onSettled: () => {
      void queries.invalidateQueries({ queryKey: ['board'] });
      void queries.invalidateQueries({ queryKey: ['checks'] });
    },
  });
}

/** Arrow keys move on the board, Enter opens, A issues all that are ready, R restates those that have moved. */
function useBoardKeys(
  board: BoardView | undefined,
  picked: Picked | null,
  pick: (to: Picked) => void,
  ready: () => void,
  restate: () => void,
) {
  useEffect(() => {
    const listen = (event: KeyboardEvent) => {
      if (!board || isElsewhere(event) || event.ctrlKey || event.metaKey || event.altKey) return;
      if (document.querySelector('.MuiModal-root')) return;
      const step = { ArrowLeft: [0, -1], ArrowRight: [0, 1], ArrowUp: [-1, 0], ArrowDown: [1, 0] }[event.key];
      if (step && picked) {
        event.preventDefault();
        pick(moved(board, picked, step[0] ?? 0, step[1] ?? 0));
      } else if (event.key === 'a') ready();
      else if (event.key === 'r') {
        event.preventDefault();
        restate();
      } else if (event.key === 'i') document.querySelector<HTMLElement>('[data-issue]')?.click();
      else if (event.key === 'Enter' && !(event.target as HTMLElement).closest('button, a'))
        document.querySelector<HTMLElement>('[data-open]')?.click();
    };
    window.addEventListener('keydown', listen);
    return () => window.removeEventListener('keydown', listen);
  }, [board, picked, pick, ready, restate]);
}

function Top({
  board,
  shown,
  show,
  restate,
}: {
  board: BoardView;
  shown: Shown;
  show: (shown: Shown) => void;
  restate: () => void;
}) {
  const last = board.columns[board.columns.length - 1];
  const change = (more: Partial<Shown>) => show({ ...shown, back: 0, ...more });
  return (
    <div className="board-top">
      <h1 className="page-title">{last ? inFull(last.label) : 'The board'}</h1>
      <div className="board-ways">
        <select
          aria-label="Calendar"
          value={board.calendar}
          onChange={(event) => change({ calendar: event.target.value })}
        >
          {board.calendars.map((name) => (
            <option key={name}>{name}</option>
          ))}
        </select>
        <select
          aria-label="Periods"
          value={shown.every}
          onChange={(event) => change({ every: event.target.value })}
        >
          {GRAINS.map(([value, words]) => (
            <option key={value} value={value}>
              {words}
            </option>
          ))}
        </select>
        <button className="tool" onClick={() => show({ ...shown, back: shown.back + 1 })}>
          ‹ earlier
        </button>
        <button
          className="tool"
          disabled={shown.back === 0}
          onClick={() => show({ ...shown, back: shown.back - 1 })}
        >
          later ›
        </button>
      </div>
      <p className="say">
        {last && `${board.calendar === 'Civil year' ? 'Year' : board.calendar} ${board.year}. `}
        {board.said.length === 0
          ? board.rows.length > 0
            ? board.pending > 0
              ? 'Nothing is due; whether issued editions have moved is being looked at.'
              : 'Nothing is due, and nothing has moved.'
            : 'No report recurs yet.'
          : sentence(board)}
        {movedOn(board).length > 0 && (
          <>
            {' '}
            <button className="link" onClick={restate} title="R">
              Issue again or leave
            </button>
          </>
        )}
      </p>
    </div>
  );
}

/** The state of the board in one sentence, with what needs action in bold. */
function sentence(board: BoardView) {
  const last = board.said.length - 1;
  return board.said.map((part, i) => {
    const words = i === 0 ? capital(part.words) : part.words;
    const before = i === 0 ? '' : i === last ? (last > 1 ? ', and ' : ' and ') : ', ';
    return (
      <span key={part.words}>
        {before}
        {part.needs ? <b>{words}</b> : words}
        {i === last && '.'}
      </span>
    );
  });
}

/** Dropped files that wait for a person or could not be read, by source, and failed queries. */
function Dropped({ sources }: { sources: SourceLine[] }) {
  const wait = sources.filter((source) => source.held + source.not_read > 0);
  const failed = sources.filter((source) => source.not_fetched);
  if (wait.length + failed.length === 0) return null;
  return (
    <p className="board-rest dropped" role="status">
      {failed.map((source) => (
        <span key={source.name} className="not-fetched">
          <Link className="link" to={`/sources/${source.id}`}>
            {source.name}
          </Link>{' '}
          could not be fetched: {source.not_fetched}
        </span>
      ))}
      {wait.map((source, i) => (
        <span key={source.id}>
          {i > 0 && ' · '}
          {[
            source.held > 0 && `${counted(source.held, 'dropped file')} held`,
            source.not_read > 0 && `${counted(source.not_read, 'dropped file')} refused`,
          ]
            .filter(Boolean)
            .join(', ')}{' '}
          for{' '}
          <Link className="link" to={`/sources/${source.id}`}>
            {source.name}
          </Link>
          {': '}
          <Link className="link" to={`/sources/${source.id}#${encodeURIComponent(source.first_waiting)}`}>
            look at {source.first_waiting}
          </Link>
          {source.first_reason && <>, {why(source)}</>}
        </span>
      ))}
    </p>
  );
}

/** Why the first file waits, without its name and the words common to all. */
const why = ({ first_reason: reason, first_waiting: file }: SourceLine) =>
  reason.replace(`${file}: `, '').replace(/^(held|not like the files before), nothing was brought in: /, '');

/** Reports without a cadence, and how to give them one. */
function Rest({ board, cadence }: { board: BoardView; cadence: (id: number) => void }) {
  if (board.rest.length === 0) return null;
  return (
    <p className="board-rest">
      {board.rows.length === 0 &&
        'A report that recurs stands here by period, with its editions: what is issued, due or late, and what has moved since. '}
      Issued for no period yet:{' '}
      {board.rest.map((report, i) => (
        <span key={report.id}>
          {i > 0 && ', '}
          <button className="link" onClick={() => cadence(report.id)}>
            {report.title}
          </button>
        </span>
      ))}
      . Choose one to say when it is due.
    </p>
  );
}

function Foot({ board }: { board: BoardView | undefined }) {
  const records = board?.sources.reduce((sum, s) => sum + s.cells.reduce((n, c) => n + c.records, 0), 0) ?? 0;
  const lacks = board?.sources.filter((s) =>
    s.cells.some((c) => c.filled === 'part' || c.filled === 'missing'),
  );
  const [writing, setWriting] = useState(false);
  return (
    <footer className="tie">
      {writing && <NotationDialog close={() => setWriting(false)} />}
      {board && (
        <>
          <span>
            <b>{counted(board.sources.length, 'source')}</b> with dates
          </span>
          <span className="arrow">·</span>
          <span>
            <b>{counted(records, 'record')}</b> in these periods
          </span>
          {lacks && lacks.length > 0 && (
            <span className="warn">{listed(lacks.map((s) => s.name))} not complete</span>
          )}
          <span className="ok">
            <Link to="/history">what changed</Link>
            <span className="arrow">·</span>
            <Link to="/schedules">what schedules did</Link>
            <span className="arrow">·</span>
            <Link to="/mail">mail</Link>
            <span className="arrow">·</span>
            <button className="link" onClick={() => setWriting(true)}>
              numbers and dates
            </button>
          </span>
        </>
      )}
    </footer>
  );
}

/** The outcome for each edition that was due. */
function Outcomes({ found, close }: { found: IssueOutcome[]; close: () => void }) {
  const done = found.filter((one) => one.edition !== null && one.edition !== undefined).length;
  return (
    <Dialog open onClose={close} maxWidth="sm" fullWidth>
      <DialogTitle>
        {found.length === 0
          ? 'Nothing is owed'
          : `${counted(done, 'edition')} issued, ${found.length - done} left`}
      </DialogTitle>
      <DialogContent>
        <ul className="outcomes">
          {found.map((one) => (
            <li key={one.title + one.label}>
              {one.edition ? <Link to={`/editions/${one.edition}`}>{one.title}</Link> : one.title} ·{' '}
              {one.label}
              {one.reason ? <span className="quiet">left: {one.reason}</span> : ' · issued'}
            </li>
          ))}
        </ul>
      </DialogContent>
    </Dialog>
  );
}
