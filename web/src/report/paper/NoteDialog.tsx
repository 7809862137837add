import { Button, Dialog, DialogActions, DialogContent, DialogTitle, TextField } from '@mui/material';
import { useState } from 'react';

import type { Report } from '../../api/client';
import { Choose } from '../../parts/Field';
import { day } from '../../parts/words';

/** The place of a note: a line, or with a column and figure one of its numbers; without any, the whole sheet. */
export interface NotePlace {
  line?: string[];
  column?: string[];
  figure?: string;
}

const words = ({ line, column, figure }: NotePlace) =>
  line === undefined
    ? 'the sheet'
    : [line.join(' › ') || 'Total', (column ?? []).join(' › '), figure].filter(Boolean).join(' · ');

/** A note on the sheet, a line or a number: for the current edition, or for every edition. */
export function NoteDialog({
  place,
  asOf,
  report,
  change,
  close,
}: {
  place: NotePlace;
  asOf: string;
  report: Report;
  change: (report: Report) => void;
  close: () => void;
}) {
  const [text, setText] = useState('');
  const [kept, setKept] = useState('once');
  const add = () => {
    const note = { text: text.trim(), ...place, as_of: kept === 'once' ? asOf : null };
    change({ ...report, notes: [...(report.notes ?? []), note] });
    close();
  };
  return (
    <Dialog open onClose={close} maxWidth="xs" fullWidth>
      <DialogTitle>Note on {words(place)}</DialogTitle>
      <DialogContent sx={{ display: 'grid', gap: 2 }}>
        <TextField
          autoFocus
          multiline
          minRows={2}
          placeholder="Why it moved, or what a reader should know"
          value={text}
          onChange={(event) => setText(event.target.value)}
          slotProps={{ htmlInput: { 'aria-label': 'Note', maxLength: 1000 } }}
        />
        <Choose
          label="It stands on"
          value={kept}
          options={[
            ['once', `the sheet as of ${day(asOf)} alone`],
            ['always', 'this and all later editions'],
          ]}
          change={setKept}
        />
      </DialogContent>
      <DialogActions>
        <Button onClick={close}>Cancel</Button>
        <Button variant="contained" disabled={!text.trim()} onClick={add}>
          Add the note
        </Button>
      </DialogActions>
    </Dialog>
  );
}

/** The report without the note number `at` under the sheet. */
export function withoutNote(report: Report, asOf: string, at: number): Report {
  const notes = report.notes ?? [];
  const shown = notes.filter((note) => !note.as_of || note.as_of === asOf);
  return { ...report, notes: notes.filter((note) => note !== shown[at]) };
}
