import { Button, TextField } from '@mui/material';
import { useState } from 'react';

import type { Row } from '../../sheet/outline';

/** Another name for a line of a category. */
export function RenameLine({
  row,
  rename,
  close,
}: {
  row: Row;
  rename: (label: string) => void;
  close: () => void;
}) {
  const before = row.own[row.depth - 1] ?? '';
  const [name, setName] = useState(before);
  const done = () => {
    rename(name.trim());
    close();
  };
  const ready = name.trim() !== '' && name.trim() !== before;
  return (
    <div className="gather" role="group" aria-label="Rename">
      <TextField
        autoFocus
        onFocus={(event) => event.target.select()}
        value={name}
        onChange={(event) => setName(event.target.value)}
        onKeyDown={(event) => {
          if (event.key === 'Enter' && ready) done();
          if (event.key === 'Escape') close();
        }}
        slotProps={{ htmlInput: { 'aria-label': 'New name' } }}
      />
      <Button variant="contained" disabled={!ready} onClick={done}>
        Rename {before}
      </Button>
      <Button onClick={close}>Cancel</Button>
    </div>
  );
}
