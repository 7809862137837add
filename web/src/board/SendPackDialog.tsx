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

import { post, type BoardView, type SendingView } from '../api/client';
import { FaultNote } from '../parts/Fault';
import { Choose } from '../parts/Field';
import { counted, inFull } from '../parts/words';

/** The latest period's editions sent together, as one file with contents. */
export function SendPackDialog({ board, close }: { board: BoardView; close: () => void }) {
  const last = board.columns[board.columns.length - 1];
  const issued = board.rows.flatMap((row) =>
    (row.cells[board.columns.length - 1] ?? [])
      .filter((crossing) => crossing.edition)
      .map((crossing) => ({ id: crossing.edition ?? 0, words: `${row.title} · ${crossing.label}` })),
  );
  const [chosen, setChosen] = useState(issued.map((one) => one.id));
  const [title, setTitle] = useState(`Reports of ${last ? inFull(last.label) : ''}`);
  const [to, setTo] = useState('');
  const [text, setText] = useState('');
  const [format, setFormat] = useState('pdf');
  const sending = useMutation({
    mutationFn: () => {
      const addresses = to.split(/[\s,;]+/).filter(Boolean);
      return post<SendingView[]>('/editions/pack/send', {
        title,
        editions: chosen,
        format,
        to: addresses,
        text,
      });
    },
  });
  return (
    <Dialog open onClose={close} maxWidth="sm" fullWidth>
      <DialogTitle sx={{ fontFamily: 'var(--serif)', fontWeight: 600 }}>Send a pack</DialogTitle>
      <DialogContent>
        {issued.length === 0 ? (
          <p>No edition of {last?.label} is issued yet.</p>
        ) : (
          <div className="recurring-fields">
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
              label="To"
              placeholder="addresses, set apart by commas"
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
            <FaultNote error={sending.error} />
            {sending.data && (
              <span role="status">
                On its way to {counted(sending.data.length, 'address', 'addresses')}; what becomes of it
                stands under <i>mail</i>.
              </span>
            )}
          </div>
        )}
      </DialogContent>
      <DialogActions>
        <Button onClick={close}>Close</Button>
        <Button
          variant="contained"
          disabled={sending.isPending || chosen.length === 0 || !to.trim() || !title.trim()}
          onClick={() => sending.mutate()}
        >
          Send
        </Button>
      </DialogActions>
    </Dialog>
  );
}
