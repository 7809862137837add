import '../../editors/editors.css';

import { Button, TextField } from '@mui/material';
import { useState } from 'react';

import { useEscape } from '../../parts/useEscape';

/** Another name for a line or a column. */
export function RenameLine({
  before,
  rename,
  close,
}: {
  before: string;
  rename: (label: string) => void;
  close: () => void;
}) {
  const [name, setName] = useState(before);
  useEscape(close);
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
