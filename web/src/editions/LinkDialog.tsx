import './editions.css';

import { Button, Dialog, DialogActions, DialogContent, DialogTitle } from '@mui/material';
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';

import { get, post, remove, type EditionLine, type LinkView } from '../api/client';
import { FaultNote } from '../parts/Fault';
import { Choose, Written } from '../parts/Field';
import { day } from '../parts/words';

type Told = 'none' | 'words' | 'records';
const TRAILS: [Told, string][] = [
  ['none', 'not at all'],
  ['words', 'in words, without records'],
  ['records', 'down to the records'],
];

/** Links for reading an edition, or all of a report's; each can be revoked. */
export function LinkDialog({ edition, close }: { edition: EditionLine; close: () => void }) {
  const queries = useQueryClient();
  const path = `/reports/${edition.report}/links` as const;
  const links = useQuery({ queryKey: ['links', edition.report], queryFn: () => get(path) });
  const [which, setWhich] = useState('one');
  const [trail, setTrail] = useState<Told>('words');
  const [ends, setEnds] = useState('');
  const seen = () => queries.invalidateQueries({ queryKey: ['links', edition.report] });
  const making = useMutation({
    mutationFn: () =>
      post(path, { edition: which === 'one' ? edition.id : null, trail, ends_on: ends || null }),
    onSuccess: seen,
  });
  const withdrawing = useMutation({
    mutationFn: (id: number) => remove(`/links/${id}`),
    onSuccess: seen,
  });
  const made = making.data;
  const address = made && `${window.location.origin}${made.path}`;
  return (
    <Dialog open onClose={close} maxWidth="sm" fullWidth>
      <DialogTitle sx={{ fontFamily: 'var(--serif)', fontWeight: 600 }}>Share {edition.title}</DialogTitle>
      <DialogContent>
        <div className="new-link">
          <Choose
            label="The link opens"
            value={which}
            options={[
              ['one', `this edition, ${edition.named}`],
              ['all', 'all editions of this report, later ones too'],
            ]}
            change={setWhich}
          />
          <Choose
            label="Numbers are explained"
            value={trail}
            options={TRAILS}
            change={(told) => setTrail(told as Told)}
          />
          <Written
            label="Until (left empty: until withdrawn)"
            type="date"
            value={ends}
            clear
            change={setEnds}
          />
          <FaultNote error={making.error ?? withdrawing.error} />
          {address && (
            <div className="made-link" role="status">
              {address}{' '}
              <button className="link" onClick={() => void navigator.clipboard.writeText(address)}>
                Copy
              </button>
              <br />
              <span className="quiet">Copy it now: it is shown this once.</span>
            </div>
          )}
        </div>
        {links.data && links.data.length > 0 && (
          <table className="link-lines">
            <tbody>
              {links.data.map((link) => (
                <tr key={link.id}>
                  <td>
                    {link.edition === null
                      ? 'all editions'
                      : link.edition === edition.id
                        ? 'this edition'
                        : 'one edition'}
                  </td>
                  <td className="quiet">made {day(link.made_at)}</td>
                  <td className="quiet">{state(link)}</td>
                  <td>
                    {link.open && (
                      <button className="link" onClick={() => withdrawing.mutate(link.id)}>
                        Withdraw
                      </button>
                    )}
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
        )}
      </DialogContent>
      <DialogActions>
        <Button onClick={close}>Close</Button>
        <Button variant="contained" disabled={making.isPending} onClick={() => making.mutate()}>
          Make a link
        </Button>
      </DialogActions>
    </Dialog>
  );
}

const state = (link: LinkView) =>
  link.withdrawn_at
    ? `withdrawn ${day(link.withdrawn_at)}`
    : link.ends_on
      ? `${link.open ? 'until' : 'ended'} ${day(link.ends_on)}`
      : 'until withdrawn';
