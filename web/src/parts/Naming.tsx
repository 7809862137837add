import { Button, Dialog, DialogActions, DialogContent, DialogTitle } from '@mui/material';
import { useMutation } from '@tanstack/react-query';
import { useState } from 'react';

import { FaultNote } from './Fault';
import { Written } from './Field';

/** A page's title that a click gives another name; what refuses the name is said in the dialog. */
export function NamedTitle({ name, rename }: { name: string; rename: (name: string) => Promise<unknown> }) {
  const [open, setOpen] = useState(false);
  const work = useMutation({ mutationFn: rename, onSuccess: () => setOpen(false) });
  return (
    <h1 className="page-title">
      <button className="plain-title" title="Rename" onClick={() => setOpen(true)}>
        {name}
      </button>
      <Dialog open={open} onClose={() => setOpen(false)} fullWidth maxWidth="xs">
        <DialogTitle>Rename {name}</DialogTitle>
        <DialogContent sx={{ paddingTop: '8px !important' }}>
          <Written label="Name" value={name} change={(next) => work.mutate(next)} />
          <FaultNote error={work.error} />
        </DialogContent>
        <DialogActions>
          <Button onClick={() => setOpen(false)}>Close</Button>
        </DialogActions>
      </Dialog>
    </h1>
  );
}

/** Taking a thing away once it is confirmed; what uses it is said. */
export function RemoveButton({
  name,
  detail,
  remove,
}: {
  name: string;
  detail: string;
  remove: () => Promise<unknown>;
}) {
  const [open, setOpen] = useState(false);
  const work = useMutation({ mutationFn: remove });
  return (
    <>
      <button className="linked" onClick={() => setOpen(true)}>
        Remove {name}…
      </button>
      <Dialog open={open} onClose={() => setOpen(false)} fullWidth maxWidth="xs">
        <DialogTitle>Remove {name}?</DialogTitle>
        <DialogContent>
          <p className="say">{detail}</p>
          <FaultNote error={work.error} />
        </DialogContent>
        <DialogActions>
          <Button onClick={() => setOpen(false)}>Cancel</Button>
          <Button color="error" disabled={work.isPending} onClick={() => work.mutate()}>
            Remove
          </Button>
        </DialogActions>
      </Dialog>
    </>
  );
}
