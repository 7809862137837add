import '../intake/intake.css';

import { Button, Dialog, DialogActions, DialogContent, DialogTitle } from '@mui/material';
import { useQuery } from '@tanstack/react-query';
import { useRef } from 'react';

import { get, type IntakeView } from '../api/client';
import { FaultNote } from '../parts/Fault';

/** The lines of a file that did not become records: taken away to be mended, and brought in mended. */
export function RefusedDialog({
  intake,
  close,
  mend,
}: {
  intake: IntakeView;
  close: () => void;
  mend: (file: File) => void;
}) {
  const input = useRef<HTMLInputElement>(null);
  const lines = useQuery({
    queryKey: ['refused', intake.id],
    queryFn: () => get(`/intakes/${intake.id}/refused`),
  });
  const left = lines.data?.filter((line) => !line.mended) ?? [];
  const open = left.length > 0;
  return (
    <Dialog open onClose={close} maxWidth="md">
      <DialogTitle>Refused lines of {intake.file_name}</DialogTitle>
      <DialogContent>
        <FaultNote error={lines.error} />
        <p className="say">
          They stay in the tie-out. To mend them, take the lines away as a file, correct them there, and bring
          that file in.
        </p>
        <table className="columns">
          <thead>
            <tr>
              <th className="num">Line</th>
              <th>Column</th>
              <th>Reason</th>
            </tr>
          </thead>
          <tbody>
            {left.map((line) => (
              <tr key={`${line.line}${line.column}`}>
                <td className="num">{line.line}</td>
                <td>{line.column || 'whole line'}</td>
                <td>{line.reason}</td>
              </tr>
            ))}
          </tbody>
        </table>
      </DialogContent>
      <DialogActions>
        <input
          ref={input}
          type="file"
          hidden
          aria-label="Corrected lines"
          onChange={(event) => {
            const file = event.target.files?.[0];
            if (file) mend(file);
          }}
        />
        <Button component="a" href={`/api/intakes/${intake.id}/refused.csv`} disabled={!open}>
          Take the lines away
        </Button>
        <Button variant="contained" disabled={!open} onClick={() => input.current?.click()}>
          Import the corrected lines
        </Button>
        <Button onClick={close}>Close</Button>
      </DialogActions>
    </Dialog>
  );
}
