import { Button, Dialog, DialogActions, DialogContent, DialogTitle, TextField } from '@mui/material';
import { useMutation, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import { useNavigate } from 'react-router';

import { post } from '../../api/client';
import { FaultNote } from '../../parts/Fault';

/** Saves the report's sheet as a source, with a proposed name. */
export function SummaryDialog({ id, title, close }: { id: number; title: string; close: () => void }) {
  const go = useNavigate();
  const queries = useQueryClient();
  const [name, setName] = useState(`${title}, summary`);
  const keep = useMutation({
    mutationFn: () => post(`/reports/${id}/summary?name=${encodeURIComponent(name.trim())}`),
    onSuccess: (source) => {
      void queries.invalidateQueries({ queryKey: ['sources'] });
      go(`/sources/${source.id}`);
    },
  });
  return (
    <Dialog open onClose={close} fullWidth maxWidth="xs">
      <DialogTitle>Keep as a source</DialogTitle>
      <DialogContent>
        <p className="say">
          The sheet becomes a source that follows this report, for other reports to rest on.
        </p>
        <FaultNote error={keep.error} />
        <TextField
          fullWidth
          autoFocus
          label="Name of the source"
          value={name}
          onFocus={(e) => e.target.select()}
          onChange={(e) => setName(e.target.value)}
        />
      </DialogContent>
      <DialogActions>
        <Button onClick={close}>Cancel</Button>
        <Button variant="contained" disabled={!name.trim() || keep.isPending} onClick={() => keep.mutate()}>
          Save as a source
        </Button>
      </DialogActions>
    </Dialog>
  );
}
