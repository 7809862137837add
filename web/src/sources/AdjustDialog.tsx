import './adjust.css';

import { Button, Dialog, DialogActions, DialogContent, DialogTitle, TextField } from '@mui/material';
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { useDeferredValue, useState } from 'react';

import { post, type SourceView } from '../api/client';
import { FaultNote } from '../parts/Fault';
import { count, counted, kindWords, money } from '../parts/words';

type Line = Record<string, string>;
const isFilled = (line: Line) => Object.values(line).some((text) => text.trim() !== '');

/** Records entered by hand, line by line or pasted, with the reason for them; read as they are typed. */
export function AdjustDialog({ source, close }: { source: SourceView; close: () => void }) {
  const queries = useQueryClient();
  const [lines, setLines] = useState<Line[]>([{}]);
  const [reason, setReason] = useState('');
  const made = new Set(source.made.map((m) => m.column.name));
  const columns = source.columns.filter((column) => !made.has(column.name));
  const names = columns.map((column) => column.name);
  const shown = lines.some(isFilled) && isFilled(lines[lines.length - 1] as Line) ? [...lines, {}] : lines;
  const tried = useTried(source.id, lines);
  const save = useMutation({
    mutationFn: () => post(`/sources/${source.id}/adjustments`, { lines: lines.filter(isFilled), reason }),
    onSuccess: () => {
      void queries.invalidateQueries();
      close();
    },
  });
  const put = (at: number, name: string, text: string) =>
    setLines(shown.map((line, i) => (i === at ? { ...line, [name]: text } : line)));
  const paste = (at: number, name: string, text: string) => setLines(pasted(shown, at, name, text, names));
  const read = tried.data;
  return (
    <Dialog open onClose={close} fullWidth maxWidth="lg">
      <DialogTitle>Adjust {source.name} by hand</DialogTitle>
      <DialogContent sx={{ display: 'grid', gap: 2, pt: '8px !important' }}>
        <p className="say">
          These lines stand beside the files and are named as entered by hand wherever they count. No file
          replaces them. Lines copied from a table can be pasted; where their first line is headings, they go
          by these.
        </p>
        <TextField
          autoFocus
          label="Reason"
          value={reason}
          onChange={(event) => setReason(event.target.value)}
          slotProps={{ htmlInput: { maxLength: 300 } }}
        />
        <div className="adjust-lines">
          <table>
            <thead>
              <tr>
                {columns.map((column) => (
                  <th key={column.name}>
                    {column.name} <span className="quiet">{kindWords(column.kind, column.places)}</span>
                  </th>
                ))}
              </tr>
            </thead>
            <tbody>
              {shown.map((line, at) => (
                <tr key={at}>
                  {columns.map((column) => (
                    <td key={column.name}>
                      <input
                        className={column.role === 'number' ? 'num' : ''}
                        aria-label={`${column.name}, line ${at + 1}`}
                        value={line[column.name] ?? ''}
                        onChange={(event) => put(at, column.name, event.target.value)}
                        onPaste={(event) => {
                          const text = event.clipboardData.getData('text/plain');
                          if (!/[\t\n]/.test(text.trim())) return;
                          event.preventDefault();
                          paste(at, column.name, text);
                        }}
                      />
                    </td>
                  ))}
                </tr>
              ))}
            </tbody>
          </table>
        </div>
        <FaultNote error={save.error ?? tried.error} />
        {read && !tried.error && (
          <p className="say" aria-busy={tried.isPlaceholderData}>
            Adds {counted(read.lines.length, 'record')}
            {read.sums.map(([name, sum]) => `, ${name} ${money(sum)}`).join('')} to the{' '}
            {count(source.records)} that stand.
          </p>
        )}
      </DialogContent>
      <DialogActions>
        <Button onClick={close}>Cancel</Button>
        <Button
          variant="contained"
          disabled={!reason.trim() || !read || tried.error !== null || tried.isFetching || save.isPending}
          onClick={() => save.mutate()}
        >
          Add the lines
        </Button>
      </DialogActions>
    </Dialog>
  );
}

/** The lines as they would be kept; nothing is asked while all are empty. */
function useTried(source: number, lines: Line[]) {
  const filled = useDeferredValue(lines).filter(isFilled);
  return useQuery({
    queryKey: ['adjusting', source, JSON.stringify(filled)],
    queryFn: () => post(`/sources/${source}/adjustments/try`, { lines: filled }),
    enabled: filled.length > 0,
    placeholderData: (before) => before,
    retry: false,
  });
}

/** Lines with pasted ones from a place on: under their own headings where the first line has them. */
function pasted(lines: Line[], at: number, name: string, text: string, names: string[]): Line[] {
  const rows = text
    .replace(/\r/g, '')
    .replace(/\n+$/, '')
    .split('\n')
    .map((row) => row.split('\t'));
  const known = new Map(names.map((n) => [n.trim().toLowerCase(), n]));
  const headings = (rows[0] ?? []).map((cell) => known.get(cell.trim().toLowerCase()));
  const isHeaded = headings.every((heading) => heading !== undefined);
  const under = isHeaded ? (headings as string[]) : names.slice(names.indexOf(name));
  const found = (isHeaded ? rows.slice(1) : rows).map((row) =>
    Object.fromEntries(row.flatMap((cell, i) => (under[i] === undefined ? [] : [[under[i], cell.trim()]]))),
  );
  const after = [...lines];
  found.forEach((line, i) => (after[at + i] = { ...after[at + i], ...line }));
  return after;
}
