import './board.css';
import '../parts/lines.css';

import {
  Button,
  Checkbox,
  Dialog,
  DialogActions,
  DialogContent,
  DialogTitle,
  FormControlLabel,
  TextField,
} from '@mui/material';
import { useMutation } from '@tanstack/react-query';
import { useState } from 'react';
import { Link } from 'react-router';

import { post, type BoardView } from '../api/client';
import { FaultNote } from '../parts/Fault';
import { Choose } from '../parts/Field';
import { counted, inFull } from '../parts/words';
import { TryOut } from '../parts/TryOut';
import { fromLines } from './delivery';

/** The editions of a period, which is a column of the board; of several for one report the latest. */
const issuedIn = (board: BoardView, column: number) =>
  board.rows.flatMap((row) =>
    (row.cells[column] ?? [])
      .filter((crossing) => crossing.edition)
      .map((crossing) => ({ id: crossing.edition ?? 0, words: `${row.title} · ${crossing.label}` })),
  );

const titleOf = (board: BoardView, column: number) =>
  `Reports of ${inFull(board.columns[column]?.label ?? '')}`;

/** Sends a period's editions as one file with contents: whole, or to each receiver their own part. */
export function SendPackDialog({ board, close }: { board: BoardView; close: () => void }) {
  const columns = board.columns.map((_, i) => i).filter((i) => issuedIn(board, i).length > 0);
  const [column, setColumn] = useState(columns[columns.length - 1] ?? 0);
  const issued = issuedIn(board, column);
  const [chosen, setChosen] = useState(issued.map((one) => one.id));
  const [title, setTitle] = useState(titleOf(board, column));
  const [to, setTo] = useState('');
  const [text, setText] = useState('');
  const [format, setFormat] = useState('pdf');
  const sending = useMutation({
    mutationFn: (only_to: string | null) =>
      post('/editions/pack/send', {
        title,
        editions: chosen,
        format,
        to: fromLines(to),
        only_to,
        text,
      }),
  });
  const ready = !sending.isPending && chosen.length > 0 && to.trim() !== '' && title.trim() !== '';
  return (
    <Dialog open onClose={close} maxWidth="sm" fullWidth>
      <DialogTitle sx={{ fontFamily: 'var(--serif)', fontWeight: 600 }}>Send a pack</DialogTitle>
      <DialogContent>
        {issued.length === 0 ? (
          <p>No edition of these periods is issued yet.</p>
        ) : (
          <div className="recurring-fields">
            <Choose
              label="Period"
              value={String(column)}
              options={columns.map((i): [string, string] => [
                String(i),
                inFull(board.columns[i]?.label ?? ''),
              ])}
              change={(at) => {
                if (title === titleOf(board, column)) setTitle(titleOf(board, Number(at)));
                setColumn(Number(at));
                setChosen(issuedIn(board, Number(at)).map((one) => one.id));
              }}
            />
            <div>
              {issued.map((one) => (
                <FormControlLabel
                  key={one.id}
                  sx={{ display: 'block' }}
                  control={
                    <Checkbox
                      size="small"
                      checked={chosen.includes(one.id)}
                      onChange={(_, on) =>
                        setChosen(on ? [...chosen, one.id] : chosen.filter((id) => id !== one.id))
                      }
                    />
                  }
                  label={one.words}
                />
              ))}
            </div>
            <TextField label="Title" value={title} onChange={(event) => setTitle(event.target.value)} />
            <TextField
              multiline
              minRows={2}
              label="Addresses, one a line"
              helperText="to send a member’s part alone: address = member, as it stands on the sheets; reports without such a line are left out of that pack"
              value={to}
              onChange={(event) => setTo(event.target.value)}
            />
            <Choose
              label="As"
              value={format}
              options={[
                ['pdf', 'one PDF with contents'],
                ['xlsx', 'one workbook, a sheet each'],
                ['html', 'a zip of HTML files'],
                ['csv', 'a zip of delimited text'],
              ]}
              change={setFormat}
            />
            <TextField
              multiline
              minRows={2}
              label="Text"
              value={text}
              onChange={(event) => setText(event.target.value)}
            />
            <TryOut ready={ready} send={(to) => sending.mutate(to)} />
          </div>
        )}
      </DialogContent>
      <div className="dialog-word">
        <FaultNote error={sending.error} />
        {sending.data && (
          <span role="status">
            {counted(sending.data.length, 'mail')} on the way; what becomes of{' '}
            {sending.data.length === 1 ? 'it' : 'them'} stands under <Link to="/mail">mail</Link>.
          </span>
        )}
      </div>
      <DialogActions>
        <Button onClick={close}>Close</Button>
        <Button variant="contained" disabled={!ready} onClick={() => sending.mutate(null)}>
          Send
        </Button>
      </DialogActions>
    </Dialog>
  );
}
