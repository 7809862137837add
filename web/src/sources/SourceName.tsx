import { Button, Dialog, DialogActions, DialogContent, DialogTitle } from '@mui/material';
import { useMutation, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import { useNavigate } from 'react-router';

import { patch, remove, type SourceView } from '../api/client';
import { FaultNote } from '../parts/Fault';
import { Written } from '../parts/Field';
import { counted } from '../parts/words';

/** A source's name; a click changes it, unless something knows the source by it. */
export function SourceName({ source }: { source: SourceView }) {
  const queries = useQueryClient();
  const [open, setOpen] = useState(false);
  const rename = useMutation({
    mutationFn: (name: string) => patch<SourceView>(`/sources/${source.id}`, { name }),
    onSuccess: (view) => {
      queries.setQueryData(['source', source.id], view);
      void queries.invalidateQueries({ queryKey: ['sources'] });
      setOpen(false);
    },
  });
  return (
    <h1 className="page-title">
      <button className="plain-title" title="Rename" onClick={() => setOpen(true)}>
        {source.name}
      </button>
      <Dialog open={open} onClose={() => setOpen(false)} fullWidth maxWidth="xs">
        <DialogTitle>Rename this source</DialogTitle>
        <DialogContent>
          <Written label="Name" value={source.name} change={(name) => rename.mutate(name)} />
          <FaultNote error={rename.error} />
        </DialogContent>
        <DialogActions>
          <Button onClick={() => setOpen(false)}>Close</Button>
        </DialogActions>
      </Dialog>
    </h1>
  );
}

/** Removing a source with all its records, once it is confirmed; what uses it is said. */
export function RemoveSource({ source }: { source: SourceView }) {
  const queries = useQueryClient();
  const go = useNavigate();
  const [open, setOpen] = useState(false);
  const away = useMutation({
    mutationFn: () => remove(`/sources/${source.id}`),
    onSuccess: () => {
      void queries.invalidateQueries({ queryKey: ['sources'] });
      void go('/sources');
    },
  });
  return (
    <>
      <Button sx={{ justifySelf: 'start' }} onClick={() => setOpen(true)}>
        Remove source…
      </Button>
      <Dialog open={open} onClose={() => setOpen(false)} fullWidth maxWidth="xs">
        <DialogTitle>Remove {source.name}?</DialogTitle>
        <DialogContent>
          <p className="say">
            Its {counted(source.records, 'record')} and {counted(source.files, 'file')} go with it. This
            cannot be undone.
          </p>
          <FaultNote error={away.error} />
        </DialogContent>
        <DialogActions>
          <Button onClick={() => setOpen(false)}>Cancel</Button>
          <Button color="error" disabled={away.isPending} onClick={() => away.mutate()}>
            Remove
          </Button>
        </DialogActions>
      </Dialog>
    </>
  );
}
