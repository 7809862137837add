import { Button, Dialog, DialogActions, DialogContent, DialogTitle, TextField } from '@mui/material';
import { useMutation, useQueryClient } from '@tanstack/react-query';
import { useRef, useState } from 'react';
import { useNavigate } from 'react-router';

import { post, sendTree, type Grouping } from '../api/client';
import { useSource, useSources } from '../api/queries';
import { MainButton } from '../parts/Masthead';
import { FaultNote } from '../parts/Fault';
import { Choose } from '../parts/Field';

/** A year of twelve civil months as a table to edit. */
const yearByTable = (year: number) => ({
  periods: Array.from({ length: 12 }, (_, i) => ({
    start: `${year}-${String(i + 1).padStart(2, '0')}-01`,
    name: `P${i + 1}`,
    quarter: `Q${Math.floor(i / 3) + 1}`,
    year: String(year),
  })),
  ends: `${year}-12-31`,
});

const STARTS: Record<string, (name: string) => Grouping> = {
  tree: (name) => ({ kalendor: 1, kind: 'tree', name, levels: ['Group', 'Value'], roots: [] }),
  months: (name) => ({
    kalendor: 1,
    kind: 'calendar',
    name,
    months: { start_month: 4 },
    year_name: { by: 'end', prefix: 'FY', digits: 2 },
  }),
  weeks: (name) => ({
    kalendor: 1,
    kind: 'calendar',
    name,
    weeks: { pattern: '4-4-5', ends: 'nearest', weekday: 'saturday', month: 1 },
    year_name: { by: 'start', prefix: 'RY', digits: 2 },
  }),
  table: (name) => ({ kalendor: 1, kind: 'calendar', name, table: yearByTable(new Date().getFullYear()) }),
  buckets: (name) => ({ kalendor: 1, kind: 'buckets', name, cut: [0, 30, 60, 90, 120] }),
};
const KINDS: [string, string][] = [
  ['tree', 'Category tree, empty'],
  ['file', 'Category tree from a file'],
  ['columns', 'Category tree from two columns of a source'],
  ['months', 'Calendar of months'],
  ['weeks', 'Calendar of 52 or 53 weeks'],
  ['table', 'Calendar by table, for short and changed years'],
  ['buckets', 'Bucket set'],
];
const same = (names: string[]): [string, string][] => names.map((n) => [n, n]);

/** A new grouping to start from. */
export function NewGrouping() {
  const [open, setOpen] = useState(false);
  const [kind, setKind] = useState('tree');
  const [name, setName] = useState('');
  const [from, setFrom] = useState({ source: '', outer: '', inner: '' });
  const file = useRef<HTMLInputElement>(null);
  const queries = useQueryClient();
  const go = useNavigate();
  const sources = useSources().data ?? [];
  const source = useSource(sources.find((s) => s.name === from.source)?.id).data;
  const names = same(source?.columns.map((c) => c.name) ?? []);
  const add = useMutation({
    mutationFn: (chosen?: File) => {
      if (chosen) return sendTree(chosen, name.trim());
      if (kind === 'columns')
        return post('/trees/from-columns', {
          name: name.trim(),
          source: from.source,
          columns: [from.outer, from.inner],
        });
      return post('/groupings', STARTS[kind]?.(name.trim()) as Grouping);
    },
    onSuccess: (view) => {
      setOpen(false);
      setName('');
      void queries.invalidateQueries({ queryKey: ['groupings'] });
      go(`/groupings/${view.id}`);
    },
  });
  return (
    <>
      <MainButton onClick={() => setOpen(true)}>New grouping</MainButton>
      <Dialog open={open} onClose={() => setOpen(false)} fullWidth maxWidth="xs">
        <DialogTitle>New grouping</DialogTitle>
        <DialogContent sx={{ display: 'grid', gap: 2, pt: '8px !important' }}>
          <FaultNote error={add.error} />
          <Choose label="Kind" value={kind} options={KINDS} change={setKind} />
          <TextField label="Name of the grouping" value={name} onChange={(e) => setName(e.target.value)} />
          {kind === 'columns' && (
            <>
              <Choose
                label="Source"
                value={from.source}
                options={same(sources.map((s) => s.name))}
                change={(s) => setFrom({ source: s, outer: '', inner: '' })}
              />
              <Choose
                label="Categories from"
                value={from.outer}
                options={names}
                change={(outer) => setFrom({ ...from, outer })}
              />
              <Choose
                label="Values from"
                value={from.inner}
                options={names}
                change={(inner) => setFrom({ ...from, inner })}
              />
            </>
          )}
          {kind === 'file' && (
            <p className="say">A delimited file with headings: one column a level, the last one the value.</p>
          )}
        </DialogContent>
        <DialogActions>
          <input
            ref={file}
            hidden
            type="file"
            aria-label="Tree file"
            onChange={(e) => e.target.files?.[0] && add.mutate(e.target.files[0])}
          />
          <Button onClick={() => setOpen(false)}>Cancel</Button>
          <Button
            variant="contained"
            disabled={!name.trim() || add.isPending}
            onClick={() => (kind === 'file' ? file.current?.click() : add.mutate(undefined))}
          >
            {kind === 'file' ? 'Choose the file' : 'Create'}
          </Button>
        </DialogActions>
      </Dialog>
    </>
  );
}
