import './beneath.css';

import { TextField } from '@mui/material';
import { useEffect, useMemo, useRef, useState } from 'react';

import type { SheetView } from '../api/client';
import { useEscape } from '../parts/useEscape';
import { counted } from '../parts/words';
import { outline, type Row } from './outline';

const ALL = { depth: 99, byHand: {} };

/** Find lines by their labels, those of closed groups included, which are opened for it. */
export function Find({
  sheet,
  rows,
  close,
  go,
  reveal,
}: {
  sheet: SheetView;
  rows: Row[];
  close: () => void;
  go: (row: number) => void;
  reveal: (row: Row) => void;
}) {
  const [typed, setTyped] = useState('');
  const [at, setAt] = useState(-1);
  useEscape(close);
  const awaited = useRef<string | null>(null);
  const every = useMemo(() => outline(sheet, ALL), [sheet]);
  const found = useMemo(() => {
    const wanted = typed.trim().toLowerCase();
    if (!wanted) return [];
    const seen = new Set<string>();
    return every.filter((row) => {
      const first = !seen.has(row.path);
      seen.add(row.path);
      return first && row.depth > 0 && (row.own[row.depth - 1] ?? '').toLowerCase().includes(wanted);
    });
  }, [every, typed]);
  useEffect(() => {
    if (awaited.current === null) return;
    const shown = rows.findIndex((row) => row.path === awaited.current);
    if (shown < 0) return;
    awaited.current = null; // its group was opened for it
    go(shown);
  }, [rows, go]);
  const step = (by: number, list = found, from = at) => {
    if (list.length === 0) return;
    const next = (from + by + list.length) % list.length;
    setAt(next);
    const row = list[next];
    if (!row) return;
    const here = rows.findIndex((r) => r.path === row.path);
    if (here >= 0) return go(here);
    awaited.current = row.path;
    reveal(row);
  };
  return (
    <div className="find" role="search">
      <TextField
        autoFocus
        placeholder="Find a line"
        value={typed}
        onChange={(event) => {
          setTyped(event.target.value);
          setAt(-1);
        }}
        onKeyDown={(event) => {
          if (event.key === 'Enter') step(event.shiftKey ? -1 : 1);
        }}
        slotProps={{ htmlInput: { 'aria-label': 'Find a line' } }}
      />
      <span className="quiet" role="status">
        {typed.trim() && (found.length ? counted(found.length, 'line') : 'no such line')}
        {found.length > 1 && at >= 0 && `, number ${at + 1} shown`}
      </span>
      {found.length > 1 && (
        <>
          <button className="link" onClick={() => step(-1)} title="Shift Enter">
            Back
          </button>
          <button className="link" onClick={() => step(1)} title="Enter">
            Next
          </button>
        </>
      )}
      <button className="link" onClick={close}>
        Close
      </button>
    </div>
  );
}
