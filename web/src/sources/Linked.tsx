import '../parts/note.css';
import './sources.css';

import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';

import { get, post, type SourceView } from '../api/client';
import { FaultNote } from '../parts/Fault';
import { JobProgress, share } from '../parts/JobProgress';
import { useWatched } from '../parts/useWatched';
import { count, counted, day } from '../parts/words';
import { bytes } from './bytes';

const SHOWN = 200;

/** The folder of a linked source: its files as they were looked at, what is otherwise now, and a new look. */
export function Linked({ source }: { source: SourceView }) {
  const queries = useQueryClient();
  const [job, setJob] = useState<string | null>(null);
  const watch = useWatched(job, () => {
    setJob(null);
    void queries.invalidateQueries();
  });
  const look = useMutation({
    mutationFn: () => post(`/sources/${source.id}/look`),
    onSuccess: (begun) => setJob(begun.id),
  });
  const { link } = source;
  if (!link) return null;
  const busy = job !== null || look.isPending;
  return (
    <>
      <h2>The folder</h2>
      <p className="say">
        <b className="folder-path">{link.folder}</b>
        {link.pattern !== '**/*' && `, files ${link.pattern}`}: {counted(link.files, 'file')},{' '}
        {bytes(link.size)}. Looked at on {day(link.looked_at.slice(0, 10))}, {link.looked_at.slice(11, 16)}.
      </p>
      <p className={link.said ? 'heed' : 'say'}>
        {link.said ? `Since then ${link.said}. ` : 'Nothing came, changed or went since then. '}
        <button className="link" disabled={busy} onClick={() => look.mutate()}>
          {busy ? 'Looking…' : 'Look again'}
        </button>
      </p>
      {watch.job && <JobProgress job={watch.job} stop={watch.stop} said={share} />}
      <FaultNote error={look.error ?? watch.fault} />
      <Files id={source.id} looked={link.looked_at} />
      <h2>Looks so far</h2>
      {source.intakes.map((intake) => (
        <div className="file" key={intake.id}>
          <b>{intake.file_name}</b>
          <div className="about">
            {day(intake.brought_at.slice(0, 10))}, {count(intake.records)} records
            {intake.reason && `; ${intake.reason}`}
          </div>
        </div>
      ))}
    </>
  );
}

function Files({ id, looked }: { id: number; looked: string }) {
  const [open, setOpen] = useState(false);
  const files = useQuery({
    queryKey: ['files', id, looked],
    queryFn: () => get(`/sources/${id}/files?count=${SHOWN}`),
    enabled: open,
  });
  return (
    <details className="folder-files" onToggle={(event) => setOpen(event.currentTarget.open)}>
      <summary>Its files</summary>
      {files.data?.map((file) => (
        <div className="file" key={file.path} title={`SHA-256 ${file.sha256}`}>
          <b>{file.path}</b>
          <div className="about">
            {counted(file.records, 'record')}, {bytes(file.size)}
            {file.refused > 0 && `, ${counted(file.refused, 'line')} refused`}
            {file.state !== 'same' && (
              <span className="heed">{file.state === 'gone' ? 'no longer there' : 'changed since'}</span>
            )}
          </div>
        </div>
      ))}
      {files.data?.length === SHOWN && <p className="say">The first {count(SHOWN)} of them.</p>}
    </details>
  );
}
