import { Button, TextField } from '@mui/material';
import { useState } from 'react';

/** A try-out: all that would go out goes to one address. */
export function TryOut({ ready, send }: { ready: boolean; send: (to: string) => void }) {
  const [self, setSelf] = useState('');
  return (
    <div style={{ display: 'flex', gap: 10, alignItems: 'center', marginTop: 12 }}>
      <TextField
        fullWidth
        label="Try it out: all of it to"
        placeholder="you@…"
        value={self}
        onChange={(event) => setSelf(event.target.value.trim())}
        slotProps={{ inputLabel: { shrink: true } }}
      />
      <Button disabled={!ready || !self} onClick={() => send(self)}>
        Try
      </Button>
    </div>
  );
}
