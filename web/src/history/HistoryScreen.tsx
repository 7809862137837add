import './history.css';
import '../parts/lines.css';
import '../parts/list.css';

import { Button, Dialog, DialogActions, DialogContent, DialogTitle } from '@mui/material';
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import { Link, useSearchParams } from 'react-router';

import { get, post, type ChangeView } from '../api/client';
import { Masthead } from '../parts/Masthead';
import { FaultNote } from '../parts/Fault';
import { counted, day } from '../parts/words';

const KINDS: Record<string, string> = {
  report: 'report',
  tree: 'category tree',
  calendar: 'calendar',
  buckets: 'bucket set',
};
const wayTo = (one: ChangeView) => (one.kind === 'report' ? `/reports/${one.id}` : `/groupings/${one.id}`);

/** Who changed which definition when, in words; any revision is looked at and brought back. */
export function HistoryScreen() {
  const [asked] = useSearchParams();
  const of = asked.get('of');
  const found = useQuery({
    queryKey: ['history', of],
    queryFn: () => get(`/history?most=300${of ? `&definition=${of}` : ''}`),
  });
  const [shown, setShown] = useState<ChangeView | null>(null);
  const lines = found.data ?? [];
  return (
    <>
      <Masthead title="History" />
      <main className="list-page">
        <h1 className="page-title">{of && lines[0] ? `History of ${lines[0].name}` : 'What changed'}</h1>
        <p className="say">
          {counted(lines.length, 'change')} to reports and groupings, the latest first
          {of && (
            <>
              {' · '}
              <Link className="link" to="/history">
                all changes
              </Link>
            </>
          )}
        </p>
        <FaultNote error={found.error} />
        <div className="paper">
          <table className="edition-list history">
            <tbody>
              {lines.map((one) => (
                <tr key={`${one.id} ${one.revision}`}>
                  <td className="when">
                    {day(one.saved_at)}, {one.saved_at.slice(11, 16)}
                    <span className="quiet">{one.saved_by}</span>
                  </td>
                  <td className="what">
                    {one.removed ? one.name : <Link to={wayTo(one)}>{one.name}</Link>}
                    <span className="quiet">
                      {KINDS[one.kind]}
                      {one.removed && ', removed since'}
                    </span>
                  </td>
                  <td>
                    {one.words.map((words) => (
                      <p key={words}>{words}</p>
                    ))}
                  </td>
                  <td>
                    <button className="link" onClick={() => setShown(one)}>
                      {one.stands ? 'in use' : 'look'}
                    </button>
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
        </div>
      </main>
      <footer className="tie" />
      {shown && <OneRevision change={shown} close={() => setShown(null)} />}
    </>
  );
}

function OneRevision({ change, close }: { change: ChangeView; close: () => void }) {
  const queries = useQueryClient();
  const path = `/definitions/${change.id}/revisions/${change.revision}` as const;
  const found = useQuery({ queryKey: ['revision', path], queryFn: () => get(path) });
  const bringing = useMutation({
    mutationFn: () => post(`${path}/bring-back`),
    onSuccess: async () => {
      await queries.invalidateQueries();
      close();
    },
  });
  return (
    <Dialog open onClose={close} maxWidth="md" fullWidth>
      <DialogTitle sx={{ fontFamily: 'var(--serif)', fontWeight: 600 }}>
        {change.name}, as of {day(change.saved_at)}, {change.saved_at.slice(11, 16)}
      </DialogTitle>
      <DialogContent>
        <FaultNote error={found.error ?? bringing.error} />
        {found.data?.said && <p className="revision-said">{found.data.said}</p>}
        {found.data && (
          <details open={!found.data.said}>
            <summary>The definition</summary>
            <pre className="revision-document">{pretty(found.data.document)}</pre>
          </details>
        )}
      </DialogContent>
      <DialogActions>
        <Button onClick={close}>Close</Button>
        {!change.stands && (
          <Button variant="contained" disabled={bringing.isPending} onClick={() => bringing.mutate()}>
            Bring it back
          </Button>
        )}
      </DialogActions>
    </Dialog>
  );
}

const pretty = (text: string) => JSON.stringify(JSON.parse(text), null, 1);
