import './account.css';

import { Button, Dialog, DialogActions, DialogContent, DialogTitle, TextField } from '@mui/material';
import { useMutation } from '@tanstack/react-query';
import { useState } from 'react';

import { put, remove } from '../api/client';
import { FaultNote } from './Fault';
import { useSession } from './useSession';

/** Who is signed in, where people sign in: the way out, and to another password. */
export function AccountMenu() {
  const { now, again } = useSession();
  const [open, setOpen] = useState(false);
  if (!now?.accounts || !now.name) return null;
  return (
    <>
      <button className="account-button" title="Your account" onClick={() => setOpen(true)}>
        {now.name}
      </button>
      {open && (
        <AccountDialog name={now.name} role={now.role ?? ''} close={() => setOpen(false)} left={again} />
      )}
    </>
  );
}

function AccountDialog(props: { name: string; role: string; close: () => void; left: () => void }) {
  const { name, role, close, left } = props;
  const [before, setBefore] = useState('');
  const [password, setPassword] = useState('');
  const leaving = useMutation({
    mutationFn: (where: '' | '/everywhere') => remove(`/session${where}`),
    onSuccess: left,
  });
  const changing = useMutation({
    mutationFn: () => put('/session/password', { before, password }),
    onSuccess: left,
  });
  return (
    <Dialog open onClose={close} maxWidth="xs" fullWidth>
      <DialogTitle>{name}</DialogTitle>
      <DialogContent className="account-fields">
        <p className="quiet">Signed in as {role}.</p>
        <TextField
          type="password"
          label="Current password"
          value={before}
          onChange={(event) => setBefore(event.target.value)}
          slotProps={{ htmlInput: { autoComplete: 'current-password' } }}
        />
        <TextField
          type="password"
          label="New password"
          helperText="10 characters at least; you are signed out everywhere else"
          value={password}
          onChange={(event) => setPassword(event.target.value)}
          slotProps={{ htmlInput: { autoComplete: 'new-password' } }}
        />
        <Button
          disabled={!before || password.length < 10 || changing.isPending}
          onClick={() => changing.mutate()}
        >
          Change the password
        </Button>
        <FaultNote error={changing.error ?? leaving.error} />
      </DialogContent>
      <DialogActions>
        <Button onClick={() => leaving.mutate('/everywhere')}>Sign out everywhere</Button>
        <Button variant="contained" onClick={() => leaving.mutate('')}>
          Sign out
        </Button>
      </DialogActions>
    </Dialog>
  );
}
