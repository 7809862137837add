import '../parts/list.css';
import '../parts/note.css';
import '../parts/state.css';
import './several.css';
import './sources.css';

import { Button } from '@mui/material';
import { useEffect, useState } from 'react';
import { Link, useNavigate } from 'react-router';

import { useSources } from '../api/queries';
import { GhostButton, MainButton, Masthead } from '../parts/Masthead';
import { isTyping } from '../parts/keys';
import { capital, count, counted, span } from '../parts/words';
import { cameFrom } from '../intake/arrived';
import { useBringingIn } from '../intake/useBringingIn';
import { doubt, isReady, useSeveral, type Arrival } from './useSeveral';
import { Waiting } from '../intake/Waiting';

/** Several files in one list: to which source each belongs, what it would do, and one key that imports those in no doubt. Once
 * all are in, it goes back to where they were dropped. */
export function Several({ files, close }: { files: File[]; close: () => void }) {
  const several = useSeveral(files);
  const go = useNavigate();
  const [looking, setLooking] = useState<number | null>(null);
  const way = useBringingIn('', (source) => {
    if (looking !== null) several.dealt(looking, source);
    setLooking(null);
  });
  const ready = several.arrivals.filter(isReady).length;
  const left = several.arrivals.filter((one) => one.state === 'waiting').length;
  const may = ready > 0 && !several.busy && looking === null;
  const { importReady } = several;
  useEffect(() => {
    const listen = (event: KeyboardEvent) => {
      const elsewhere = (event.target as HTMLElement).closest('button, a, select, [role=combobox]');
      if (event.key !== 'Enter' || !may || elsewhere || isTyping(event)) return;
      event.preventDefault();
      void importReady();
    };
    window.addEventListener('keydown', listen);
    return () => window.removeEventListener('keydown', listen);
  }, [may, importReady]);
  const { arrivals } = several;
  const areIn = arrivals.length > 0 && arrivals.every((one) => one.state === 'in') && !several.busy;
  useEffect(() => {
    if (!areIn) return;
    const back = cameFrom();
    close();
    void go(back);
  });
  const look = (at: number) => {
    const view = several.arrivals[at]?.view;
    if (!view) return;
    setLooking(at);
    way.open(view);
  };
  if (way.waiting && looking !== null) {
    const back = () => {
      several.dealt(looking, null);
      setLooking(null);
      way.leave();
    };
    return (
      <>
        <Masthead title="Import" />
        <Waiting way={{ ...way, leave: back }} waiting={way.waiting} />
      </>
    );
  }
  return (
    <>
      <Masthead title="Import">
        <GhostButton onClick={close} disabled={several.busy}>
          {left > 0 ? 'Leave the rest' : 'Done'}
        </GhostButton>
        {(ready > 0 || several.busy) && (
          <MainButton onClick={() => void importReady()} disabled={!may} title="Enter">
            {several.busy ? 'Reading…' : `Import ${counted(ready, 'file')}`}
          </MainButton>
        )}
      </Masthead>
      <main className="list-page">
        <h1 className="page-title">{counted(files.length, 'file')}</h1>
        <p className="say">
          Each is matched to its source by its columns and name. Nothing is kept yet of those that wait.
        </p>
        <div className="paper several">
          <table>
            <thead>
              <tr>
                <th>File</th>
                <th>Source</th>
                <th className="num">Records</th>
                <th>Dates</th>
                <th>What it does</th>
                <th />
              </tr>
            </thead>
            <tbody>
              {several.arrivals.map((file, at) => (
                <Row
                  key={at}
                  file={file}
                  takeFor={(source) => void several.takeFor(at, source)}
                  look={() => look(at)}
                  leaveOut={() => several.leaveOut(at)}
                />
              ))}
            </tbody>
          </table>
        </div>
      </main>
    </>
  );
}

function Row({
  file,
  takeFor,
  look,
  leaveOut,
}: {
  file: Arrival;
  takeFor: (source: string) => void;
  look: () => void;
  leaveOut: () => void;
}) {
  const { view } = file;
  const waits = file.state === 'waiting' && view;
  return (
    <tr className={`is-${file.state}`}>
      <td>
        <b>{file.name}</b>
      </td>
      <td>{waits ? <SourceChoice view={view} takeFor={takeFor} /> : view?.source}</td>
      <td className="num">{view && count(view.records)}</td>
      <td className="quiet">{view && span(view.first_day, view.last_day)}</td>
      <td>
        <What file={file} />
      </td>
      <td className="deal">
        {waits && (
          <>
            <Button size="small" onClick={look}>
              Look at it
            </Button>
            <Button size="small" onClick={leaveOut}>
              Leave out
            </Button>
          </>
        )}
      </td>
    </tr>
  );
}

function SourceChoice({
  view,
  takeFor,
}: {
  view: NonNullable<Arrival['view']>;
  takeFor: (source: string) => void;
}) {
  const names = (useSources().data ?? []).map((source) => source.name);
  return (
    <select
      aria-label={`Source of ${view.file_name}`}
      value={view.source}
      onChange={(event) => takeFor(event.target.value)}
    >
      {view.is_new && <option value={view.source}>new: {view.source}</option>}
      {names.map((name) => (
        <option key={name}>{name}</option>
      ))}
    </select>
  );
}

/** What becomes of a file, or what it would do. */
function What({ file }: { file: Arrival }) {
  const { view } = file;
  if (file.state === 'failed') return <span className="neg">{file.fault}</span>;
  if (file.state === 'reading') return <span className="quiet">reading…</span>;
  if (file.state === 'out') return <span className="quiet">left out</span>;
  if (file.state === 'in') return <Link to={`/sources/${file.source}`}>imported</Link>;
  if (!view) return null;
  const asked = doubt(view);
  return (
    <>
      {file.fault && <div className="neg">{capital(file.fault)}</div>}
      {asked ? <span className="heed">{capital(asked)}</span> : <Does view={view} />}
    </>
  );
}

function Does({ view }: { view: NonNullable<Arrival['view']> }) {
  const { outcome } = view;
  const changed = view.changes?.columns.length ?? 0;
  return (
    <span>
      adds {counted(view.records, 'record')}
      {outcome.replaced > 0 && `, replaces ${counted(outcome.replaced, 'record')}`}
      {changed > 0 && `, ${counted(changed, 'column')} matched`}
      {view.refused_count > 0 && (
        <span className="heed">, {counted(view.refused_count, 'line')} refused</span>
      )}
    </span>
  );
}
