import './access.css';

import { Button, TextField } from '@mui/material';
import { useMutation } from '@tanstack/react-query';
import { useState, type FormEvent } from 'react';

import { post } from '../api/client';
import { Brand, useTitle } from '../parts/Masthead';
import { FaultNote } from '../parts/Fault';

/** The way in, where there are accounts. */
export function SignIn({ done }: { done: () => void }) {
  useTitle('Sign in');
  const [name, setName] = useState('');
  const [password, setPassword] = useState('');
  const signing = useMutation({
    mutationFn: () => post('/session', { name, password }),
    onSuccess: done,
  });
  const submit = (event: FormEvent) => {
    event.preventDefault();
    if (name.trim() && password) signing.mutate();
  };
  return (
    <main className="sign-in">
      <form className="paper" onSubmit={submit} aria-label="Sign in">
        <h1>
          <Brand />
        </h1>
        <TextField
          autoFocus
          fullWidth
          label="Name"
          value={name}
          onChange={(event) => setName(event.target.value)}
          slotProps={{ htmlInput: { autoComplete: 'username' } }}
        />
        <TextField
          fullWidth
          type="password"
          label="Password"
          value={password}
          onChange={(event) => setPassword(event.target.value)}
          slotProps={{ htmlInput: { autoComplete: 'current-password' } }}
        />
        <FaultNote error={signing.error} />
        <Button type="submit" variant="contained" disabled={signing.isPending || !name.trim() || !password}>
          Sign in
        </Button>
        <p className="quiet">Accounts are made by whoever runs this server.</p>
      </form>
    </main>
  );
}
