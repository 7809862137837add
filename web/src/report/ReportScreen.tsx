import '../brief/say.css';
import '../parts/conflict.css';
import './report.css';

import { useCallback, useEffect, useState } from 'react';
import { useParams } from 'react-router';

import { Fault, type Report } from '../api/client';
import { useSheet, useSources, useTriedSheet } from '../api/queries';
import { GhostButton, GhostLink, Masthead } from '../parts/Masthead';
import { noteSource } from '../parts/atHand';
import { FaultNote } from '../parts/Fault';
import { capital } from '../parts/words';
import { useEscape } from '../parts/useEscape';
import { usePrinted } from '../sheet/usePrinted';
import { AsOf } from '../brief/AsOf';
import { AsOfMoved } from '../brief/AsOfMoved';
import { Brief } from '../brief/Brief';
import { useSentenceThere } from '../definition/sentence';
import { Conflict } from './Conflict';
import { noteOpened } from './list/opened';
import type { Questioned } from '../sheet/questioned';
import { BeingRead } from './paper/BeingRead';
import { SheetPaper } from './paper/SheetPaper';
import { TakeAway } from './paper/TakeAway';
import { TieStrip } from './paper/TieStrip';
import { openness } from '../sheet/useOpenness';
import { MixedWays } from '../margin/MixedWays';
import { TrailMargin } from '../margin/TrailMargin';
import { useLive } from '../definition/useLive';
import { useReportEditing } from '../definition/useReportEditing';

const COLUMNS = 18;
const SOON = 250;

/**
 * A report: the sentence on top, the sheet under it, the explanation of a number beside it, the tie-out at the foot.
 */
export function ReportScreen() {
  const id = Number(useParams().id);
  return <OneReport key={id} id={id} />;
}

const inView = (at: number, open: number, first: number) =>
  `at=${at}&open=${open}&first=${Math.max(0, first - 2)}&columns=${COLUMNS}`;

function OneReport({ id }: { id: number }) {
  const editing = useReportEditing(id);
  const [first] = useState(() => inView(0, openness(String(id)).depth, 0));
  const found = useSheet(id, editing.view?.revision, first);
  const sheet = useLast(found.data);
  const report = editing.shown;
  useLive(id, editing.view?.revision);
  const awaited = useSoon(editing.saving);
  const said = useSentenceThere(report, awaited);
  const [tried, setTried] = useState<Report | null>(null);
  const trial = useTriedSheet(tried, first);
  const untried = tried !== null && trial.error instanceof Fault && trial.error.status === 409;
  const source = useSources().data?.find((s) => s.name.toLowerCase() === report?.source.toLowerCase());
  const [cell, setCell] = useState<Questioned | null>(null);
  useEffect(() => noteOpened(id), [id]);
  const over = source?.name;
  useEffect(() => {
    if (over) noteSource(over);
  }, [over]);
  const tell = editing.inView;
  const seen = useCallback(
    (at: number, open: number, column: number) => tell(inView(at, open, column)),
    [tell],
  );
  const known = sheet && cell && sheet.figures.some((f) => f.name === cell.figure);
  useEscape(() => setCell(null), cell !== null);
  usePrinted(`/reports/${id}`);
  return (
    <>
      <Masthead title={report?.title ?? ''}>
        {sheet && report && (
          <AsOf value={sheet.as_of} change={(as_of) => editing.change({ ...report, as_of })} />
        )}
        <GhostButton disabled={!editing.view?.can_undo} onClick={editing.undo} title="Ctrl Z">
          Undo
        </GhostButton>
        <GhostButton disabled={!editing.view?.can_redo} onClick={editing.redo} title="Ctrl Shift Z">
          Redo
        </GhostButton>
        <GhostLink to={`/reports/${id}/editions`} title="What was issued of this report">
          Editions
        </GhostLink>
        <TakeAway
          id={id}
          revision={editing.view?.revision}
          report={report}
          sheet={sheet}
          change={editing.change}
        />
      </Masthead>
      <div className={`report-page${known ? ' with-margin' : ''}`}>
        <main className="report">
          {report && (
            <Brief
              report={report}
              source={source?.id}
              sheet={sheet}
              awaited={awaited}
              change={editing.change}
              tried={setTried}
            />
          )}
          <FaultNote error={editing.error ?? (untried ? null : tried && trial.error)} />
          <BeingRead error={found.error} again={() => void found.refetch()} />
          {untried && <p className="as-read">{capital(trial.error?.message ?? '')}.</p>}
          {editing.waits && <NotSaved why={editing.waits} again={editing.again} />}
          {editing.conflict && <Conflict {...editing.conflict} settle={editing.settle} />}
          {tried && trial.data && (
            <p className="as-read">As read so far; shown as you type, kept with Enter.</p>
          )}
          {report && sheet && !tried && (
            <AsOfMoved
              id={id}
              now={sheet.as_of}
              given={Boolean(report.as_of)}
              change={(as_of) => editing.change({ ...report, as_of })}
            />
          )}
          {report && sheet && said && (
            <SheetPaper
              id={id}
              report={(trial.data && tried) ?? report}
              sheet={(tried && trial.data) ?? sheet}
              stale={Boolean(found.error)}
              trial={Boolean(tried && trial.data)}
              busy={editing.saving || found.isPlaceholderData}
              change={editing.change}
              gather={editing.gather}
              ungroup={editing.ungroup}
              over={editing.over}
              rename={editing.rename}
              question={setCell}
              inView={seen}
            />
          )}
        </main>
        {known && (
          <TrailMargin
            base={`/reports/${id}`}
            sheet={sheet}
            cell={cell}
            close={() => setCell(null)}
            mixed={
              <MixedWays
                id={id}
                revision={editing.view?.revision}
                figure={cell.figure}
                change={editing.change}
              />
            }
          />
        )}
      </div>
      {sheet && report ? (
        <TieStrip sheet={sheet} report={report} change={editing.change} question={setCell} />
      ) : (
        <footer className="tie" />
      )}
    </>
  );
}

/** Edits that wait for the server; they are retried automatically. */
const NotSaved = ({ why, again }: { why: string; again: () => void }) => (
  <div className="not-saved" role="status">
    Not saved yet: {why}. Your changes are held here and sent again by themselves; the sheet below is from
    before them.{' '}
    <button className="link" onClick={again}>
      Try now
    </button>
  </div>
);

/** Whether a pending edit was sent recently enough to wait for its answer. */
function useSoon(saving: boolean): boolean {
  const [late, setLate] = useState(false);
  useEffect(() => {
    if (!saving) return;
    const waited = setTimeout(() => setLate(true), SOON);
    return () => clearTimeout(waited);
  }, [saving]);
  if (late && !saving) setLate(false);
  return saving && !late;
}

/** The latest defined value, so that an error does not remove the sheet. */
function useLast<T>(value: T | undefined): T | undefined {
  const [last, setLast] = useState(value);
  if (value !== undefined && value !== last) setLast(value);
  return value ?? last;
}
