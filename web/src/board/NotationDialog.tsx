import { Button, Dialog, DialogActions, DialogContent, DialogTitle } from '@mui/material';
import { useMutation } from '@tanstack/react-query';
import { useState } from 'react';

import { put } from '../api/client';
import { FaultNote } from '../parts/Fault';
import { Choose } from '../parts/Field';
import type { Notation } from '../parts/notation';
import { useSession } from '../parts/useSession';

type Marks = Pick<Notation, 'decimal' | 'thousands'>;

const MARKS: [string, Marks][] = [
  ['1,234.50', { decimal: '.', thousands: ',' }],
  ['1.234,50', { decimal: ',', thousands: '.' }],
  ['1\u00a0234,50', { decimal: ',', thousands: '\u00a0' }],
  ['1\u00a0234.50', { decimal: '.', thousands: '\u00a0' }],
  ['1’234.50', { decimal: '.', thousands: '’' }],
  ['1234.50', { decimal: '.', thousands: '' }],
  ['1234,50', { decimal: ',', thousands: '' }],
];
const DATES: [string, string][] = [
  ['mixed', '31 Jul 2026; in lists of records 2026-07-31'],
  ['day', '31 Jul 2026'],
  ['month', 'Jul 31, 2026'],
  ['year', '2026-07-31'],
];

/** How numbers and dates are written in this workspace, on screen and in files. */
export function NotationDialog({ close }: { close: () => void }) {
  const { now } = useSession();
  const [draft, setDraft] = useState<Notation | undefined>(now?.notation);
  const saving = useMutation({
    mutationFn: (notation: Notation) => put('/workspace', { notation }),
    onSuccess: () => window.location.reload(), // everything on the page is written anew
  });
  if (!draft) return null;
  const marks = MARKS.find(([, m]) => m.decimal === draft.decimal && m.thousands === draft.thousands);
  return (
    <Dialog open onClose={close} maxWidth="xs" fullWidth>
      <DialogTitle>Numbers and dates</DialogTitle>
      <DialogContent sx={{ display: 'grid', gap: 1 }}>
        <p className="quiet">
          How they are written in this workspace, on screen and in files. Editions that were issued stay as
          they were. A workbook follows the settings of whoever opens it.
        </p>
        <Choose
          label="Numbers"
          value={marks?.[0] ?? ''}
          options={MARKS.map(([text]) => [text, text])}
          change={(text) => setDraft({ ...draft, ...MARKS.find(([t]) => t === text)?.[1] })}
        />
        <Choose
          label="Dates"
          value={draft.dates}
          options={DATES}
          change={(dates) => setDraft({ ...draft, dates: dates as Notation['dates'] })}
        />
        <p className="quiet">
          Sentences and formulas are typed with a decimal point everywhere; data files (CSV, JSON, Parquet)
          keep plain numbers and dates.
        </p>
        <FaultNote error={saving.error} />
      </DialogContent>
      <DialogActions>
        <Button onClick={close}>Cancel</Button>
        <Button variant="contained" disabled={saving.isPending} onClick={() => saving.mutate(draft)}>
          Save
        </Button>
      </DialogActions>
    </Dialog>
  );
}
