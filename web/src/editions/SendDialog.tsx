import { Button, Dialog, DialogActions, DialogContent, DialogTitle } from '@mui/material';
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { Link } from 'react-router';

import { get, post, type EditionLine } from '../api/client';
import { useReport } from '../api/queries';
import { FaultNote } from '../parts/Fault';
import { counted } from '../parts/words';
import { SendingLines } from './SendingLines';
import { TryOut } from '../parts/TryOut';

/** Sends an edition to its receivers, or to oneself as a test; and lists its deliveries so far. */
export function SendDialog({ edition, close }: { edition: EditionLine; close: () => void }) {
  const queries = useQueryClient();
  const delivery = useReport(edition.report).data?.document.delivery;
  const mail = useQuery({ queryKey: ['mail'], queryFn: () => get('/mail') }).data;
  const went = useQuery({
    queryKey: ['sendings', edition.id],
    queryFn: () => get(`/editions/${edition.id}/sendings`),
    refetchInterval: (query) => (query.state.data?.some((one) => one.state === 'waiting') ? 2_000 : false),
  });
  const seen = () => queries.invalidateQueries({ queryKey: ['sendings', edition.id] });
  const sending = useMutation({
    mutationFn: (only_to: string | null) => post(`/editions/${edition.id}/send`, { only_to }),
    onSuccess: seen,
  });
  const again = useMutation({
    mutationFn: (id: number) => post(`/sendings/${id}/again`),
    onSuccess: seen,
  });
  const to = delivery?.to ?? [];
  const inParts = to.some((one) => one.member) || Boolean(delivery?.each);
  const parts = useQuery({
    queryKey: ['parts', edition.id],
    queryFn: () => get(`/editions/${edition.id}/parts`),
    enabled: inParts,
  }).data;
  return (
    <Dialog open onClose={close} maxWidth="sm" fullWidth>
      <DialogTitle sx={{ fontFamily: 'var(--serif)', fontWeight: 600 }}>
        Send {edition.title}, {edition.named}
      </DialogTitle>
      <DialogContent>
        <p className="quiet">
          {to.length > 0 || delivery?.folder
            ? `Goes to ${[to.length ? counted(to.length, 'address', 'addresses') : '', delivery?.folder ? 'a folder' : ''].filter(Boolean).join(' and ')} as ${(delivery?.formats ?? ['pdf']).join(', ')}. `
            : 'Nobody gets this report yet. '}
          Addresses are kept with the report: on the board, under its cadence, <i>Who gets it</i>.
        </p>
        {parts && (parts.problem || parts.left_out.length > 0) && (
          <p className="quiet">
            {parts.problem ||
              `Parts of one member go without ${parts.left_out.join(', ')}: other members’ records are in ${parts.left_out.length > 1 ? 'them' : 'it'}, too.`}
          </p>
        )}
        {mail && !mail.host && (
          <p className="quiet">
            No mail server is set: <Link to="/mail">set it</Link> first.
          </p>
        )}
        {mail?.stand_in && (
          <p className="quiet">
            Mail goes to the stand-in; see its <Link to="/mail">inbox</Link>.
          </p>
        )}
        <FaultNote error={sending.error ?? again.error} />
        <TryOut ready={!sending.isPending} send={(to) => sending.mutate(to)} />
        {went.data && went.data.length > 0 && (
          <SendingLines lines={went.data} again={(id) => again.mutate(id)} />
        )}
      </DialogContent>
      <DialogActions>
        <Button onClick={close}>Close</Button>
        <Button
          variant="contained"
          disabled={sending.isPending || (to.length === 0 && !delivery?.folder)}
          onClick={() => sending.mutate(null)}
        >
          Send
        </Button>
      </DialogActions>
    </Dialog>
  );
}
