import './trail.css';
import '../parts/chip.css';
import '../parts/note.css';

import { useQuery } from '@tanstack/react-query';
import { useState } from 'react';

import { get, type DriversView, type SheetView } from '../api/client';
import { FaultNote } from '../parts/Fault';
import type { Questioned } from '../sheet/questioned';
import { addressed } from './addressed';
import type { SheetPlace } from '../api/paths';

const SHOWN = 8;

/** What drove a change: its parts by a column, as a bridge from the base to the value that adds up exactly. */
export function Drivers({ base, sheet, cell }: { base: SheetPlace; sheet: SheetView; cell: Questioned }) {
  const [name, setName] = useState('');
  const [more, setMore] = useState(false);
  const found = useQuery({
    queryKey: ['drivers', sheet.key, cell],
    queryFn: ({ signal }) => get(addressed(base, sheet, cell, 'drivers'), { signal }),
    staleTime: Infinity,
    retry: false,
  });
  const ways = found.data ?? [];
  const by = ways.find((one) => one.name === name) ?? ways[0];
  if (found.isLoading) return <p className="quiet">Taking it apart…</p>;
  if (found.error) return <FaultNote error={found.error} />;
  if (!by) return <p className="quiet">No column tells the records behind it apart.</p>;
  return (
    <>
      <div className="chips" role="group" aria-label="By">
        {ways.slice(0, more ? ways.length : SHOWN).map((one) => (
          <button
            key={one.name}
            className={`chip tree${one === by ? ' on' : ''}`}
            aria-pressed={one === by}
            onClick={() => setName(one.name)}
          >
            {one.name}
          </button>
        ))}
        {ways.length > SHOWN && (
          <button className="chip" onClick={() => setMore(!more)}>
            {more ? 'fewer' : `${ways.length - SHOWN} more`}
          </button>
        )}
      </div>
      <Bridge by={by} />
      <div className="note">
        <p>{by.sentence}</p>
        <p>These lines add up to {by.difference}, the whole difference.</p>
      </div>
    </>
  );
}

/** From the base, by each member's difference, to the value. */
function Bridge({ by }: { by: DriversView }) {
  const ends = [by.base_number, by.value_number, ...by.movers.flatMap((m) => [m.from_, m.to])];
  const low = Math.min(...ends);
  const high = Math.max(...ends);
  const zero = low - (high - low) * 0.35;
  const from = low >= 0 ? Math.max(0, zero) : low;
  const x = (n: number) => ((Math.max(n, from) - from) / (high - from || 1)) * 78;
  const drawn = (a: number, b: number, tone: string) => (
    <svg viewBox="0 0 80 14" width="80" height="14" aria-hidden="true">
      <line x1="0.5" x2="0.5" y1="0" y2="14" stroke="#6c736c" />
      <rect
        x={Math.min(x(a), x(b))}
        width={Math.max(1, Math.abs(x(a) - x(b)))}
        y="1"
        height="12"
        fill={tone}
      />
    </svg>
  );
  return (
    <table className="bridge">
      <tbody>
        <tr>
          <th scope="row">base</th>
          <td>{drawn(from, by.base_number, '#c6b795')}</td>
          <td className="num">{by.base}</td>
        </tr>
        {by.movers.map((mover) => (
          <tr key={mover.label}>
            <th
              scope="row"
              title={mover.base ? `${mover.label}: ${mover.base} → ${mover.value}` : mover.label}
            >
              {mover.label}
            </th>
            <td>{drawn(mover.from_, mover.to, mover.to < mover.from_ ? '#9a2a2a' : '#0d5a6a')}</td>
            <td className={`num${mover.difference.startsWith('(') ? ' neg' : ''}`} title={mover.share}>
              {mover.difference}
            </td>
          </tr>
        ))}
        <tr className="whole">
          <th scope="row">value</th>
          <td>{drawn(from, by.value_number, '#c6b795')}</td>
          <td className="num">{by.value}</td>
        </tr>
      </tbody>
    </table>
  );
}
