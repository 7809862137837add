import './board.css';

import { Button, Dialog, DialogActions, DialogContent, DialogTitle, TextField } from '@mui/material';
import { useMutation, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import { Link } from 'react-router';

import { type BoardView, post } from '../api/client';
import { FaultNote } from '../parts/Fault';
import { counted } from '../parts/words';

/** An edition whose numbers have changed since. */
export interface MovedEdition {
  id: number;
  title: string;
  label: string;
}

/** The editions of a board whose numbers have changed and that were not acknowledged. */
export function movedOn(board: BoardView): MovedEdition[] {
  return board.rows.flatMap((row) =>
    row.cells.flatMap((cell) =>
      cell
        .filter((crossing) => crossing.moved && crossing.edition)
        .map((crossing) => ({ id: crossing.edition as number, title: row.title, label: crossing.label })),
    ),
  );
}

/** Changed editions: issued again, or left as they are, each with a stored reason. */
export function MovedDialog({ editions, close }: { editions: MovedEdition[]; close: () => void }) {
  const queries = useQueryClient();
  const [why, setWhy] = useState('');
  const dealt = useMutation({
    mutationFn: (how: 'restate' | 'left') =>
      post(`/board/${how}`, { editions: editions.map((one) => one.id), why }),
    onSuccess: (found) => {
      void queries.invalidateQueries();
      if (found.every((one) => !one.reason)) close();
    },
  });
  const undone = dealt.data?.filter((one) => one.reason) ?? [];
  return (
    <Dialog open onClose={close} maxWidth="sm" fullWidth>
      <DialogTitle>
        {counted(editions.length, 'edition')} {editions.length === 1 ? 'has' : 'have'} moved since
      </DialogTitle>
      <DialogContent sx={{ display: 'grid', gap: 2, pt: '8px !important' }}>
        <ul className="outcomes">
          {editions.map((one) => (
            <li key={one.id}>
              <Link to={`/editions/${one.id}?against=now`}>{one.title}</Link> · {one.label}
            </li>
          ))}
        </ul>
        <TextField
          autoFocus
          label="Why"
          value={why}
          onChange={(event) => setWhy(event.target.value)}
          onKeyDown={(event) => event.key === 'Enter' && why.trim() && dealt.mutate('restate')}
          helperText="This line stays with each edition. Those left as they are stand out again when they move anew."
          slotProps={{ htmlInput: { maxLength: 300 } }}
        />
        <FaultNote error={dealt.error} />
        {undone.length > 0 && (
          <ul className="outcomes">
            {undone.map((one) => (
              <li key={one.title + one.label}>
                {one.title} · {one.label}
                <span className="quiet">{one.reason}</span>
              </li>
            ))}
          </ul>
        )}
      </DialogContent>
      <DialogActions>
        <Button onClick={close} sx={{ mr: 'auto' }}>
          Close
        </Button>
        <Button
          variant="outlined"
          disabled={!why.trim() || dealt.isPending}
          onClick={() => dealt.mutate('left')}
        >
          Leave as {editions.length === 1 ? 'it is' : 'they are'}
        </Button>
        <Button
          variant="contained"
          disabled={!why.trim() || dealt.isPending}
          onClick={() => dealt.mutate('restate')}
        >
          Issue again
        </Button>
      </DialogActions>
    </Dialog>
  );
}
