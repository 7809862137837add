import { MenuItem, TextField } from '@mui/material';
import { memo, useRef, useState } from 'react';

import { datesIn } from './dates';
import { useLatest } from './useLatest';

interface Choice {
  label: string;
  value: string;
  options: [string, string][];
  change: (value: string) => void;
}

/** A choice among a few; options are `[value, label]`. It is drawn again only when it says something else. */
export const Choose = (props: Choice) => <Chooser {...props} change={useLatest(props.change)} />;

const sameChoice = (one: Choice, other: Choice) =>
  one.label === other.label && one.value === other.value && one.options.join() === other.options.join();

const Chooser = memo(function Chooser({ label, value, options, change }: Choice) {
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
}, sameChoice);

/** A text that counts once it is finished: on Enter, or on leaving the field. It may be emptied where `clear` says so.
 * Of several `lines` Enter begins another. A date is written year first, so that no order of day and month is guessed; what is no date is put back. */
export const Written = (props: Writing) => <Writer {...props} change={useLatest(props.change)} />;

interface Writing {
  label: string;
  value: string;
  change: (value: string) => void;
  type?: string;
  multiline?: boolean;
  lines?: boolean;
  help?: string;
  clear?: boolean;
}

const Writer = memo(function Writer({
  label,
  value,
  change,
  type = 'text',
  multiline = false,
  lines = false,
  help,
  clear = false,
}: Writing) {
  const [draft, setDraft] = useState(value);
  const [before, setBefore] = useState(value);
  if (before !== value) {
    setBefore(value);
    setDraft(value);
  }
  const isDay = type === 'date';
  const discarded = useRef(false);
  const sent = useRef<string | null>(null); // what was sent may be refused: leaving the field does not send it again
  const done = (leaving: boolean) => {
    if (leaving && discarded.current) return setDraft(value);
    const text = draft.trim();
    const good = text === '' ? clear : !isDay || datesIn(text)?.length === 1;
    if (good && text !== value && !(leaving && text === sent.current)) {
      sent.current = text;
      change(text);
    }
    if (!good) setDraft(value);
  };
  return (
    <TextField
      fullWidth
      data-written=""
      label={label}
      type={isDay ? 'text' : type}
      placeholder={isDay ? '2026-12-31' : undefined}
      value={draft}
      multiline={multiline || lines}
      helperText={help}
      slotProps={{ inputLabel: { shrink: true } }}
      onChange={(event) => {
        discarded.current = false;
        setDraft(event.target.value);
      }}
      onBlur={() => done(true)}
      onKeyDown={(event) => {
        if (event.key === 'Escape') discarded.current = true;
        if (event.key === 'Enter' && !event.shiftKey && !lines) {
          event.preventDefault();
          done(false);
        }
      }}
    />
  );
});
