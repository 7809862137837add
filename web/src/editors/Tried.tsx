import { TextField } from '@mui/material';
import { useState } from 'react';

import { post, type Report } from '../api/client';
import { capital } from '../parts/words';

/**
 * A formula or condition that is validated before it is applied: an error is shown beside it, and the last valid one
 * stays in effect.
 */
export function Tried({
  label,
  value,
  help,
  made,
  change,
}: {
  label: string;
  value: string;
  help: string;
  /** The report with the text applied. */
  made: (text: string) => Report;
  change: (report: Report) => void;
}) {
  const [draft, setDraft] = useState(value);
  const [before, setBefore] = useState(value);
  const [fault, setFault] = useState('');
  const [trying, setTrying] = useState(false);
  if (before !== value) {
    setBefore(value);
    setDraft(value);
    setFault('');
  }
  const done = async () => {
    const text = draft.trim();
    if (text === value || text === '' || trying) return;
    setTrying(true);
    const next = made(text);
    try {
      const { fault: wrong } = await post('/reports/tried', next);
      setFault(wrong);
      if (!wrong) change(next);
    } catch (error) {
      setFault((error as Error).message);
    }
    setTrying(false);
  };
  return (
    <TextField
      fullWidth
      multiline
      label={label}
      value={draft}
      error={fault !== ''}
      helperText={fault ? `${capital(fault)}. The one before still stands.` : help}
      slotProps={{ inputLabel: { shrink: true } }}
      onChange={(event) => {
        setDraft(event.target.value);
        setFault('');
      }}
      onBlur={() => void done()}
      onKeyDown={(event) => {
        if (event.key === 'Enter' && !event.shiftKey) {
          event.preventDefault();
          void done();
        }
      }}
    />
  );
}
