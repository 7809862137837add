import { Button, Dialog, DialogActions, DialogContent, DialogTitle } from '@mui/material';
import { useMutation } from '@tanstack/react-query';
import { useState } from 'react';
import { useNavigate } from 'react-router';

import { post, type ReportView } from '../../api/client';
import { useSources } from '../../api/queries';
import { FaultNote } from '../../parts/Fault';
import { Choose } from '../../parts/Field';
import { counted } from '../../parts/words';

/** A new report over a source of choice. */
export function NewReport({ open, close }: { open: boolean; close: () => void }) {
  const sources = useSources().data ?? [];
  const [source, setSource] = useState('');
  const go = useNavigate();
  const add = useMutation({
    mutationFn: () => post<ReportView>('/reports', { source: source || sources[0]?.name }),
    onSuccess: (view) => go(`/reports/${view.id}`),
  });
  return (
    <Dialog open={open} onClose={close} fullWidth maxWidth="xs">
      <form
        onSubmit={(event) => {
          event.preventDefault();
          add.mutate();
        }}
      >
        <DialogTitle>New report</DialogTitle>
        <DialogContent sx={{ pt: '8px !important' }}>
          <FaultNote error={add.error} />
          <Choose
            label="Over the source"
            value={source || (sources[0]?.name ?? '')}
            options={sources.map((s) => [s.name, `${s.name} · ${counted(s.records, 'record')}`])}
            change={setSource}
          />
        </DialogContent>
        <DialogActions>
          <Button onClick={close}>Cancel</Button>
          <Button
            type="submit"
            variant="contained"
            autoFocus
            disabled={add.isPending || sources.length === 0}
          >
            Create
          </Button>
        </DialogActions>
      </form>
    </Dialog>
  );
}
