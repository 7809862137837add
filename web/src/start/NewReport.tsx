import { Button, Dialog, DialogActions, DialogContent, DialogTitle } from '@mui/material';
import { useMutation } from '@tanstack/react-query';
import { useState } from 'react';
import { useNavigate } from 'react-router';

import { post, type Report } from '../api/client';
import { useSources } from '../api/queries';
import { FaultNote } from '../parts/Fault';
import { sourceAtHand } from '../parts/atHand';
import { Choose } from '../parts/Field';
import { counted } from '../parts/words';
import { Say } from '../brief/Say';
import { Proposals } from './Proposals';

/** A new report over the source at hand, or another of choice: said in a sentence, or one that fits the source. */
export function NewReport({ open, close }: { open: boolean; close: () => void }) {
  const sources = useSources().data ?? [];
  const [source, setSource] = useState('');
  const go = useNavigate();
  const over = source || sourceAtHand(sources.map((one) => one.name));
  const chosen = sources.find((one) => one.name === over);
  const add = useMutation({
    mutationFn: (document: Report | null) => post('/reports', { source: over, document }),
    onSuccess: (view) => go(`/reports/${view.id}`),
  });
  return (
    <Dialog open={open} onClose={close} fullWidth maxWidth="lg">
      <form
        onSubmit={(event) => {
          event.preventDefault();
          add.mutate(null);
        }}
      >
        <DialogTitle>New report</DialogTitle>
        <DialogContent sx={{ pt: '8px !important' }}>
          <FaultNote error={add.error} />
          <Choose
            label="Over the source"
            value={over}
            options={sources.map((s) => [s.name, `${s.name} · ${counted(s.records, 'record')}`])}
            change={setSource}
          />
          {over && (
            <Say
              key={over}
              source={over}
              report={undefined}
              take={(document) => add.mutate(document)}
              empty={() => add.mutate(null)}
              close={close}
            />
          )}
          {chosen && chosen.records > 0 && <Proposals source={chosen} />}
        </DialogContent>
        <DialogActions>
          <Button onClick={close}>Cancel</Button>
          <Button type="submit" variant="contained" disabled={add.isPending || sources.length === 0}>
            Create
          </Button>
        </DialogActions>
      </form>
    </Dialog>
  );
}
