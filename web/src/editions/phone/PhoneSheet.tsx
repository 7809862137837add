import './phone.css';

import { useMemo, useRef, type TouchEvent } from 'react';

import type { SheetView } from '../../api/client';
import type { EditionPlace } from '../../api/paths';
import { outline, type Row } from '../../sheet/outline';
import type { Questioned } from '../../sheet/questioned';
import { useCells, useWanted } from '../../sheet/useCells';
import { useOpenness } from '../../sheet/useOpenness';
import { periods } from './periods';

const SWIPED = 60;

interface Props {
  base: EditionPlace;
  sheet: SheetView;
  /** Which of the periods is shown, and how another is. */
  shown: number;
  show: (shown: number) => void;
  cell: Questioned | null;
  question: ((cell: Questioned | null) => void) | null;
}

/** One period of a sheet on a phone: groups open by touch, other periods by a swipe or a menu. */
export function PhoneSheet({ base, sheet, shown, show, cell, question }: Props) {
  const [open, setOpen] = useOpenness(`${base}/phone`, 1);
  const rows = useMemo(() => withTotals(outline(sheet, open)), [sheet, open]);
  const store = useCells(base, sheet);
  const among = useMemo(() => periods(sheet), [sheet]);
  const at = among[shown]?.at ?? 0;
  const column = sheet.columns[at];
  useWanted(
    store,
    rows.map((row) => row.line),
    at,
    at + 1,
  );
  const touched = useRef({ x: 0, y: 0 });
  const start = ({ touches }: TouchEvent) => (touched.current = placeOf(touches[0]));
  const end = ({ changedTouches }: TouchEvent) => {
    const now = placeOf(changedTouches[0]);
    const [x, y] = [now.x - touched.current.x, now.y - touched.current.y];
    if (Math.abs(x) < SWIPED || Math.abs(x) < 2 * Math.abs(y)) return;
    show(Math.max(0, Math.min(among.length - 1, shown + (x < 0 ? 1 : -1))));
  };
  const toggle = (row: Row) => setOpen({ ...open, byHand: { ...open.byHand, [row.path]: !row.open } });
  return (
    <>
      {among.length > 1 && (
        <div className="phone-periods" role="group" aria-label="Period">
          {among.map((one, i) => (
            <button key={one.at} aria-pressed={i === shown} onClick={() => show(i)}>
              {one.label}
            </button>
          ))}
        </div>
      )}
      <div className="phone-sheet paper" onTouchStart={start} onTouchEnd={end}>
        <table>
          <thead>
            <tr>
              <th scope="col">{sheet.down.map((level) => level.name).join(' · ')}</th>
              {sheet.figures.map((figure) => (
                <th scope="col" className="num" key={figure.name}>
                  {figure.name}
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {rows.map((row) => (
              <tr key={`${row.at} ${row.path}`} className={look(row)}>
                <th scope="row" style={{ paddingLeft: 12 + 18 * Math.max(0, row.depth - 1) }}>
                  {row.open === null ? (
                    row.label
                  ) : (
                    <button aria-expanded={row.open} onClick={() => toggle(row)}>
                      {row.label}
                    </button>
                  )}
                </th>
                {sheet.figures.map((figure, f) => {
                  const text = store.line(row.line)?.[at * sheet.figures.length + f] ?? '';
                  const asked =
                    cell?.line === row.line && cell.column === column?.id && cell.figure === figure.name;
                  return (
                    <td
                      key={figure.name}
                      className={`num${/^[(−]/.test(text) ? ' neg' : ''}${asked ? ' asked' : ''}`}
                    >
                      {question && column && text ? (
                        <button
                          onClick={({ currentTarget }) => {
                            question({ figure: figure.name, line: row.line, column: column.id });
                            requestAnimationFrame(() => currentTarget.scrollIntoView({ block: 'start' }));
                          }}
                        >
                          {text}
                        </button>
                      ) : (
                        text
                      )}
                    </td>
                  );
                })}
              </tr>
            ))}
          </tbody>
        </table>
      </div>
    </>
  );
}

const placeOf = (touch: { clientX: number; clientY: number } | undefined) => ({
  x: touch?.clientX ?? 0,
  y: touch?.clientY ?? 0,
});

const look = (row: Row) =>
  row.depth === 0 ? 'total' : row.open !== null ? 'group' : row.special === 2 ? 'inside flagged' : 'inside';

/** Rows in which an open group shows its total in its own row instead of a separate one. */
function withTotals(rows: Row[]): Row[] {
  const open = new Set(rows.filter((row) => row.open).map((row) => row.line));
  return rows.filter((row) => !(row.role === 'subtotal' && row.open === null && open.has(row.line)));
}
