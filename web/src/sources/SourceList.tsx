import '../intake/intake.css';
import '../parts/list.css';

import { useState } from 'react';
import { Link, useNavigate } from 'react-router';

import { useConnections, useFolders, useSources } from '../api/queries';
import { GhostButton, Masthead } from '../parts/Masthead';
import { FaultNote } from '../parts/Fault';
import { count, counted, span } from '../parts/words';
import { dealtWith, useArrived } from '../intake/arrived';
import { ChooseFile, dropping } from '../intake/ChooseFile';
import { ReadingNote } from '../intake/HowFar';
import { LinkDialog } from './LinkDialog';
import { QueryDialog } from './QueryDialog';
import { Several } from './Several';
import { useBringingIn } from '../intake/useBringingIn';
import { Waiting } from '../intake/Waiting';

/** All sources, and where a first file is dropped. */
export function SourceList() {
  const arrived = useArrived();
  if (arrived.length === 0) return <Sources />;
  return <Several files={arrived} close={dealtWith} />;
}

function Sources() {
  const sources = useSources();
  const go = useNavigate();
  const way = useBringingIn('', (source) => go(`/sources/${source}`));
  const [over, setOver] = useState(false);
  const [asking, setAsking] = useState(false);
  const connections = useConnections().data ?? [];
  const folders = useFolders().data ?? [];
  const [linking, setLinking] = useState(false);
  const total = (sources.data ?? []).reduce((sum, s) => sum + s.records, 0);
  return (
    <>
      <Masthead title="Sources">
        {connections.length > 0 && (
          <GhostButton onClick={() => setAsking(true)} disabled={way.busy}>
            From a database
          </GhostButton>
        )}
        {folders.length > 0 && (
          <GhostButton onClick={() => setLinking(true)} disabled={way.busy}>
            Link a folder
          </GhostButton>
        )}
        <ChooseFile take={way.look} busy={way.busy} />
      </Masthead>
      {way.waiting ? (
        <Waiting way={way} waiting={way.waiting} />
      ) : (
        <main className="list-page" {...dropping(way.look, setOver)}>
          <h1 className="page-title">Sources</h1>
          <p className="say">
            Named tables of records, each fed by files that are read the same way every time.
          </p>
          <FaultNote error={way.error ?? sources.error} />
          <ReadingNote way={way} />
          {sources.data && sources.data.length > 0 && (
            <div className="paper list">
              {sources.data.map((source) => (
                <div className="list-line" key={source.id}>
                  <Link to={`/sources/${source.id}`} className="list-main">
                    <b>{source.name}</b>
                    <span className="quiet">{span(source.first_day, source.last_day)}</span>
                  </Link>
                  <span className="num">{counted(source.records, 'record')}</span>
                  <span className="quiet num">
                    {counted(source.files, 'file')}
                    {source.linked && ', linked'}
                    {source.refused > 0 && `, ${counted(source.refused, 'line')} refused`}
                  </span>
                </div>
              ))}
            </div>
          )}
          <div className={`drop${over ? ' over' : ''}`}>
            <span>
              Drop an export here, or choose <b>Import a file</b>. Nothing is kept before you have seen how it
              was read.
            </span>
          </div>
        </main>
      )}
      {asking && (
        <QueryDialog
          source=""
          fetching={null}
          connections={connections}
          look={(name, fetching) => {
            setAsking(false);
            way.ask(name, fetching);
          }}
          close={() => setAsking(false)}
        />
      )}
      {linking && (
        <LinkDialog
          folders={folders}
          linked={(source) => void go(`/sources/${source}`)}
          close={() => setLinking(false)}
        />
      )}
      <footer className="tie">
        <span>
          <b>{sources.data?.length ?? 0}</b> {sources.data?.length === 1 ? 'source' : 'sources'}
          <span className="arrow">·</span>
          <b>{count(total)}</b> records
        </span>
      </footer>
    </>
  );
}
