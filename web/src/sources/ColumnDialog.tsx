import { Button, Dialog, DialogActions, DialogContent, DialogTitle, TextField } from '@mui/material';
import { useMutation, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';

import { Fault, patch, post, put, type ColumnReading, type ColumnView, type SourceView } from '../api/client';
import { FaultNote } from '../parts/Fault';
import { Choose } from '../parts/Field';
import { counted } from '../parts/words';
import { watched } from '../parts/jobs';
import { readingOf, READINGS } from '../intake/readings';

const SLASHED: [string, string][] = [
  ['%d/%m/%Y', 'date, day first'],
  ['%m/%d/%Y', 'date, month first'],
];

/** A column's name, and how it is read from the files that are kept. */
export function ColumnDialog({
  source,
  column,
  close,
}: {
  source: SourceView;
  column: ColumnView;
  close: () => void;
}) {
  const queries = useQueryClient();
  const [name, setName] = useState(column.name);
  const [type, setType] = useState<string>(column.kind);
  const [unit, setUnit] = useState(column.unit);
  const retyped = type !== column.kind;
  const amounts = ['whole', 'decimal', 'approximate'].includes(type);
  const others = source.columns.filter((c) => c.kind === 'text' && c.name !== column.name);
  const save = useMutation({
    mutationFn: async (blank: boolean) => {
      if (retyped) {
        const dated = SLASHED.some(([format]) => format === type);
        const reading: ColumnReading = dated ? { type: 'date', format: type } : readingOf(type);
        const asked = { column: column.name, reading, blank_unread: blank };
        const job = await watched(await post(`/sources/${source.id}/columns`, asked), () => undefined);
        if (job.state !== 'done') throw new Fault(job.message);
      }
      if (unit !== column.unit) {
        await put(`/sources/${source.id}/columns/unit`, { column: column.name, unit });
      }
      if (name.trim() !== column.name) {
        await patch(`/sources/${source.id}/columns`, { column: column.name, name });
      }
    },
    onSuccess: close,
    onSettled: () => queries.invalidateQueries(),
  });
  const unread = save.error?.message.includes('cannot be read as') ?? false;
  return (
    <Dialog open onClose={close} maxWidth="xs" fullWidth>
      <DialogTitle>The column {column.name}</DialogTitle>
      <DialogContent sx={{ display: 'grid', gap: 2, pt: '8px !important' }}>
        <TextField label="Name" value={name} onChange={(event) => setName(event.target.value)} />
        <Choose label="Read as" value={type} options={[...READINGS, ...SLASHED]} change={setType} />
        {amounts && others.length > 0 && (
          <Choose
            label="Currency or unit of each amount"
            value={unit}
            options={[
              ['', 'one and the same'],
              ...others.map((c): [string, string] => [c.name, `in ${c.name}`]),
            ]}
            change={setUnit}
          />
        )}
        <p className="say">
          {retyped && `It is read again from ${counted(source.intakes.length, 'file')}, as they came. `}
          {unit && unit !== column.unit && 'Amounts of several are never added up. '}
          Reports, made columns and look-ups follow another name; editions that were issued stay as they are.
        </p>
        <FaultNote error={save.error} />
      </DialogContent>
      <DialogActions>
        <Button onClick={close}>Cancel</Button>
        {unread && (
          <Button variant="outlined" disabled={save.isPending} onClick={() => save.mutate(true)}>
            Leave them blank
          </Button>
        )}
        <Button
          variant="contained"
          disabled={
            save.isPending ||
            !name.trim() ||
            (!retyped && unit === column.unit && name.trim() === column.name)
          }
          onClick={() => save.mutate(false)}
        >
          {save.isPending ? 'Reading…' : 'Save'}
        </Button>
      </DialogActions>
    </Dialog>
  );
}
