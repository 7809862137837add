import '../parts/note.css';

import { useMutation, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';

import { put, type SourceView } from '../api/client';
import { FaultNote } from '../parts/Fault';
import { Choose, Written } from '../parts/Field';
import { listed } from '../parts/words';
import { JOINS, nameOfWay, type Join } from '../intake/ways';

/** How a source's files join what is there, to be changed for the next ones. */
export function JoinSettings({ source }: { source: SourceView }) {
  const queries = useQueryClient();
  const [open, setOpen] = useState(false);
  const set = useMutation({
    mutationFn: (joining: Pick<SourceView, 'join' | 'join_by' | 'held_over'>) =>
      put(`/sources/${source.id}/joining`, joining),
    onSuccess: () => queries.invalidateQueries(),
  });
  const now = { join: source.join, join_by: source.join_by, held_over: source.held_over };
  const names = source.columns
    .filter((c) => !source.made.some((m) => m.column.name === c.name))
    .map((c) => c.name);
  const key =
    source.columns.find((c) => names.includes(c.name) && c.warning.startsWith('a code'))?.name ??
    names[0] ??
    '';
  return (
    <div className="say joins">
      How files join: <b>{nameOfWay(source.join).toLowerCase()}</b>
      {source.join === 'update' && source.join_by.length > 0 && <> ({listed(source.join_by)})</>}, dropped
      ones too, unless one is told otherwise. One that takes away over {Math.round(source.held_over * 100)}%
      of a month is held.{' '}
      <button className="link" onClick={() => setOpen(!open)} aria-expanded={open}>
        {open ? 'done' : 'change'}
      </button>
      {open && (
        <div className="note">
          <Choose
            label="How files join"
            value={source.join}
            options={JOINS}
            change={(join) =>
              set.mutate({ ...now, join: join as Join, join_by: join === 'update' ? [key] : [] })
            }
          />
          {source.join === 'update' && (
            <Choose
              label="By the key column"
              value={source.join_by[0] ?? ''}
              options={names.map((n) => [n, n])}
              change={(name) => set.mutate({ ...now, join_by: [name] })}
            />
          )}
          <Written
            label="Held where more of a month goes, in percent"
            type="number"
            value={String(Math.round(source.held_over * 100))}
            change={(n) =>
              set.mutate({ ...now, held_over: Math.min(100, Math.max(0, Number(n) || 0)) / 100 })
            }
          />
        </div>
      )}
      <FaultNote error={set.error} />
    </div>
  );
}
