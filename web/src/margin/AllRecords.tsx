import './trail.css';
import '../parts/tools.css';
import '../sheet/sheet.css';

import { Button, Dialog, DialogActions, DialogContent, DialogTitle, TextField } from '@mui/material';
import { keepPreviousData, useQuery } from '@tanstack/react-query';
import { useState } from 'react';

import { get, type SheetView, type TrailView } from '../api/client';
import { FaultNote } from '../parts/Fault';
import { count, counted } from '../parts/words';
import type { Questioned } from '../sheet/questioned';
import { addressed } from './addressed';
import type { SheetPlace } from '../api/paths';

const PAGE = 100;

/** All records behind a number, paged, sorted, searched, and exported. */
export function AllRecords({
  base,
  sheet,
  cell,
  trail,
  part: first,
  close,
}: {
  base: SheetPlace;
  sheet: SheetView;
  cell: Questioned;
  trail: TrailView;
  part: string;
  close: () => void;
}) {
  const [part, setPart] = useState(first);
  const [start, setStart] = useState(0);
  const [search, setSearch] = useState('');
  const [sort, setSort] = useState<{ by: string; desc: boolean } | null>(null);
  const more =
    `&part=${encodeURIComponent(part)}&start=${start}&count=${PAGE}&search=${encodeURIComponent(search)}` +
    (sort ? `&sort=${encodeURIComponent(sort.by)}&desc=${sort.desc}` : '');
  const found = useQuery({
    queryKey: ['records', sheet.key, cell, more],
    queryFn: ({ signal }) => get(addressed(base, sheet, cell, 'records', more), { signal }),
    placeholderData: keepPreviousData,
    retry: false,
  });
  const page = found.data;
  const by = (name: string) => {
    setStart(0);
    setSort(sort?.by !== name ? { by: name, desc: false } : sort.desc ? null : { by: name, desc: true });
  };
  const heading = (name: string, numeric: boolean) => (
    <th
      key={name}
      className={numeric ? 'num' : ''}
      aria-sort={sort?.by === name ? (sort.desc ? 'descending' : 'ascending') : undefined}
    >
      <button className={`sort${sort?.by === name ? ' on' : ''}`} onClick={() => by(name)}>
        {name}
        {sort?.by === name && (sort.desc ? ' ▾' : ' ▴')}
      </button>
    </th>
  );
  return (
    <Dialog open onClose={close} maxWidth="lg" fullWidth>
      <DialogTitle>
        {trail.lines.join(' › ') || 'Total'}
        {trail.columns.length > 0 && `, ${trail.columns.join(' › ')}`}: {trail.figure} {trail.number}
      </DialogTitle>
      <DialogContent>
        <div className="records-tools">
          {trail.parts.length > 1 && (
            <span className="tools" role="group" aria-label="Part">
              {trail.parts.map((one) => (
                <button
                  key={one.name}
                  className={`tool${one.name === part ? ' on' : ''}`}
                  onClick={() => {
                    setPart(one.name);
                    setStart(0);
                  }}
                >
                  {one.name === 'value' ? 'this side' : one.name}
                </button>
              ))}
            </span>
          )}
          <TextField
            placeholder="Search the records"
            value={search}
            onChange={(event) => {
              setSearch(event.target.value);
              setStart(0);
            }}
            slotProps={{ htmlInput: { 'aria-label': 'Search the records' } }}
          />
          <span className="quiet" role="status">
            {page && counted(page.total, 'record')}
          </span>
        </div>
        <FaultNote error={found.error} />
        {page && (
          <div className="records-scroll" tabIndex={0} role="region" aria-label="Records">
            <table className="records">
              <thead>
                <tr>
                  {heading('amount', true)}
                  {page.columns.map((name, i) => heading(name, page.numeric[i] ?? false))}
                  <th>file</th>
                  <th className="num">line</th>
                </tr>
              </thead>
              <tbody>
                {page.records.map((record, i) => (
                  <tr key={`${start}-${i}`} className={record.by_hand ? 'by-hand' : ''}>
                    <td className={`num${record.amount.startsWith('(') ? ' neg' : ''}`}>{record.amount}</td>
                    {record.cells.map((text, k) => (
                      <td key={page.columns[k]} className={page.numeric[k] ? 'num' : ''}>
                        {text}
                      </td>
                    ))}
                    <td className="quiet">{record.file}</td>
                    <td className="num quiet">{record.line || ''}</td>
                  </tr>
                ))}
              </tbody>
            </table>
          </div>
        )}
      </DialogContent>
      <DialogActions className="records-foot">
        <Button component="a" href={`/api${addressed(base, sheet, cell, 'records/file')}`}>
          Export all as CSV
        </Button>
        <span style={{ flex: 1 }} />
        {page && page.total > PAGE && (
          <>
            <Button disabled={start === 0} onClick={() => setStart(Math.max(0, start - PAGE))}>
              Previous
            </Button>
            <span className="quiet">
              {count(start + 1)} – {count(Math.min(page.total, start + PAGE))}
            </span>
            <Button disabled={start + PAGE >= page.total} onClick={() => setStart(start + PAGE)}>
              Next
            </Button>
          </>
        )}
        <Button onClick={close}>Close</Button>
      </DialogActions>
    </Dialog>
  );
}
