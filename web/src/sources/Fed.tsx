import '../parts/note.css';
import './sources.css';

import { useMutation, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';

import { Fault, post, put, remove, type Fetching, type SourceView } from '../api/client';
import { useConnections } from '../api/queries';
import { FaultNote } from '../parts/Fault';
import { day } from '../parts/words';
import { asked } from './asked';
import { watched } from '../parts/jobs';
import { QueryDialog } from './QueryDialog';

type Outcome = NonNullable<SourceView['fed']>;

/** The query that feeds a source: asked now, changed, or let go; where none does, one may be given. */
export function Fed({
  source,
  look,
}: {
  source: SourceView;
  look: (source: string, fetching: Fetching) => void;
}) {
  const queries = useQueryClient();
  const connections = useConnections().data ?? [];
  const [open, setOpen] = useState(false);
  const { fed } = source;
  const step = useMutation({
    mutationFn: async (work: () => Promise<unknown>) => work(),
    onSettled: () => queries.invalidateQueries(),
  });
  const ask = async () => {
    const job = await watched(await post(`/sources/${source.id}/fetch`), () => undefined);
    if (job.state !== 'done') throw new Fault(job.message);
  };
  if (!fed && connections.length === 0) return null;
  return (
    <div className="say fed">
      {fed ? (
        <>
          Fed by a query over <b>{fed.fetching.connection}</b>, asked {asked(fed.fetching)}.{' '}
          {!fed.known && <span className="heed">The server has no such connection now. </span>}
          {fed.asked_at && !step.isPending && <span className={tone(fed)}>{last(fed)} </span>}
          <span className="deal">
            <button className="link" disabled={step.isPending || !fed.known} onClick={() => step.mutate(ask)}>
              {step.isPending ? 'asking…' : 'ask now'}
            </button>
            <button className="link" onClick={() => setOpen(true)}>
              change
            </button>
            <button
              className="link"
              onClick={() => step.mutate(() => remove(`/sources/${source.id}/fetching`))}
            >
              stop
            </button>
          </span>
        </>
      ) : (
        <button className="link" onClick={() => setOpen(true)}>
          Feed it by a query…
        </button>
      )}
      <FaultNote error={fed?.outcome === 'failed' ? null : step.error} />
      {open && (
        <QueryDialog
          source={source.name}
          fetching={fed?.fetching ?? null}
          connections={connections}
          look={(name, fetching) => {
            setOpen(false);
            look(name, fetching);
          }}
          save={(fetching) => {
            setOpen(false);
            step.mutate(() => put(`/sources/${source.id}/fetching`, fetching));
          }}
          close={() => setOpen(false)}
        />
      )}
    </div>
  );
}

const tone = ({ outcome }: Outcome) => (outcome === 'failed' || outcome === 'held' ? 'heed' : '');

/** When it was last asked, and what became of that. */
function last({ asked_at: at, outcome, reason }: Outcome): string {
  const when = `${day(at.slice(0, 10))}, ${at.slice(11, 16)}`;
  if (outcome === 'same') return `Asked on ${when}: nothing new.`;
  if (outcome === 'held') return `Asked on ${when}: what came is held below.`;
  if (outcome === 'failed') return `Asked on ${when}, and nothing came: ${reason}.`;
  return `Asked on ${when}: ${reason}.`;
}
