import { Button, Dialog, DialogActions, DialogContent, DialogTitle } from '@mui/material';
import { useQuery } from '@tanstack/react-query';

import { get, type IntakeView, type RefusedView } from '../api/client';
import { FaultNote } from '../parts/Fault';

/** The lines of a file that did not become records. */
export function RefusedDialog({ intake, close }: { intake: IntakeView; close: () => void }) {
  const lines = useQuery({
    queryKey: ['refused', intake.id],
    queryFn: () => get<RefusedView[]>(`/intakes/${intake.id}/refused`),
  });
  return (
    <Dialog open onClose={close} maxWidth="md">
      <DialogTitle>Refused lines of {intake.file_name}</DialogTitle>
      <DialogContent>
        <FaultNote error={lines.error} />
        <table className="columns">
          <thead>
            <tr>
              <th className="num">Line</th>
              <th>Column</th>
              <th>Reason</th>
            </tr>
          </thead>
          <tbody>
            {lines.data?.map((line) => (
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
        <Button onClick={close}>Close</Button>
      </DialogActions>
    </Dialog>
  );
}
