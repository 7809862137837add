import { MenuItem, TextField } from '@mui/material';
import { useState } from 'react';

import { datesIn } from './dates';

/** A choice among a few; options are `[value, label]`. */
export function Choose({
  label,
  value,
  options,
  change,
}: {
  label: string;
  value: string;
  options: [string, string][];
  change: (value: string) => void;
}) {
  const known = options.some(([v]) => v === value);
  return (
    <TextField
      select
      fullWidth
      slotProps={{ select: { displayEmpty: true }, inputLabel: { shrink: true } }}
      label={label}
      value={known ? value : ''}
      onChange={(e) => change(e.target.value)}
    >
      {options.map(([v, text]) => (
        <MenuItem key={v} value={v} dense>
          {text}
        </MenuItem>
      ))}
    </TextField>
  );
}

/** A text that counts once it is finished: on Enter, or on leaving the field. It may be emptied where `clear` says so.
 * Of several `lines` Enter begins another. A date is written year first, so that no order of day and month is guessed; what is no date is put back. */
export function Written({
  label,
  value,
  change,
  type = 'text',
  multiline = false,
  lines = false,
  help,
  clear = false,
}: {
  label: string;
  value: string;
  change: (value: string) => void;
  type?: string;
  multiline?: boolean;
  lines?: boolean;
  help?: string;
  clear?: boolean;
}) {
  const [draft, setDraft] = useState(value);
  const [before, setBefore] = useState(value);
  if (before !== value) {
    setBefore(value);
    setDraft(value);
  }
  const isDay = type === 'date';
  const done = () => {
    const text = draft.trim();
    const good = text === '' ? clear : !isDay || datesIn(text)?.length === 1;
    if (good && text !== value) change(text);
    if (!good) setDraft(value);
  };
  return (
    <TextField
      fullWidth
      label={label}
      type={isDay ? 'text' : type}
      placeholder={isDay ? '2026-12-31' : undefined}
      value={draft}
      multiline={multiline || lines}
      helperText={help}
      slotProps={{ inputLabel: { shrink: true } }}
      onChange={(event) => setDraft(event.target.value)}
      onBlur={done}
      onKeyDown={(event) => {
        if (event.key === 'Enter' && !event.shiftKey && !lines) {
          event.preventDefault();
          done();
        }
      }}
    />
  );
}
