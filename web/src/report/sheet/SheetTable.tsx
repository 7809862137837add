import { useVirtualizer } from '@tanstack/react-virtual';
import { useMemo, useRef } from 'react';

import type { SheetView } from '../../api/client';
import type { Row } from './outline';
import { columnWidths, groupStarts, SheetHead } from './SheetHead';
import { useCells } from './useCells';

const ROW = 27;
const MARKS = new Set(['new', 'gone', 'n/m']);
const SPECIAL = ['', ' other', ' loose', ' blankline', ' worked', ''];
const CUT = 'Compared to the as-of date only; the figure beside it counts all that is shown.';

/** The sheet, set like a financial statement; only the rows in view are drawn. */
export function SheetTable({
  report,
  sheet,
  rows,
  toggle,
  chosen,
  choose,
}: {
  report: number;
  sheet: SheetView;
  rows: Row[];
  toggle: (row: Row) => void;
  chosen: Row[];
  choose: (row: Row, more: boolean) => void;
}) {
  const scroller = useRef<HTMLDivElement>(null);
  const virtual = useVirtualizer({
    count: rows.length,
    getScrollElement: () => scroller.current,
    estimateSize: () => ROW,
    overscan: 20,
  });
  const items = virtual.getVirtualItems();
  const first = items[0]?.start ?? 0;
  const after = virtual.getTotalSize() - (items[items.length - 1]?.end ?? 0);
  const inView = items.map((item) => rows[item.index]).filter((row): row is Row => row !== undefined);
  const cells = useCells(report, sheet, [
    ...new Set(inView.filter((row) => row.filled).map((row) => row.line)),
  ]);
  const figures = sheet.figures.length;
  const widths = useMemo(() => columnWidths(sheet), [sheet]);
  const starts = useMemo(() => groupStarts(sheet), [sheet]);
  const span = 1 + sheet.columns.length * figures + starts.filter(Boolean).length;

  return (
    <div className="sheet-scroll" ref={scroller} tabIndex={0} aria-label="Sheet">
      <table className={`sheet-table${sheet.columns.length * figures <= 3 ? ' narrow' : ''}`}>
        <SheetHead sheet={sheet} widths={widths} starts={starts} />
        <tbody>
          {first > 0 && <Spacer height={first} span={span} />}
          {inView.map((row) => (
            <tr
              key={row.at}
              className={`row ${row.role} d${row.depth}${SPECIAL[row.special] ?? ''}${chosen.some((c) => c.path === row.path && row.value !== null) ? ' chosen' : ''}`}
              data-line={row.line}
            >
              <th
                scope="row"
                style={{ paddingLeft: indent(row) }}
                className={row.value !== null ? 'choosable' : undefined}
                aria-selected={chosen.some((c) => c.path === row.path)}
                onClick={(event) =>
                  row.value !== null && choose(row, event.ctrlKey || event.metaKey || event.shiftKey)
                }
              >
                {row.open !== null && (
                  <button
                    className={`twist ${sheet.down[row.depth - 1]?.kind ?? ''}`}
                    aria-expanded={row.open}
                    aria-label={`${row.open ? 'Close' : 'Open'} ${row.label}`}
                    onClick={() => toggle(row)}
                  >
                    {row.open ? '▾' : '▸'}
                  </button>
                )}
                {row.label}
              </th>
              {sheet.columns.map((column, c) => {
                const found = row.filled ? cells(row.line) : undefined;
                return sheet.figures.map((figure, f) => {
                  const text = found?.texts?.[c * figures + f] ?? '';
                  const cut = found?.cut.includes(c * figures + f) ?? false;
                  const gap = starts[c] && f === 0 && <td key={`${column.id}-gap`} className="gap" />;
                  return [
                    gap,
                    <td
                      key={`${column.id}-${figure.name}`}
                      className={`${cellClass(text)}${cut ? ' cut' : ''}`}
                      title={cut ? CUT : undefined}
                    >
                      {text}
                    </td>,
                  ];
                });
              })}
            </tr>
          ))}
          {after > 0 && <Spacer height={after} span={span} />}
        </tbody>
      </table>
    </div>
  );
}

/** Totals below their group stand as deep as its members. */
const indent = (row: Row) =>
  10 + 20 * (Math.max(0, row.depth - 1) + (row.role === 'subtotal' && row.open === null ? 1 : 0));

const cellClass = (text: string) =>
  `num${text.startsWith('(') || text.startsWith('−') ? ' neg' : ''}${MARKS.has(text) ? ' mark' : ''}`;

const Spacer = ({ height, span }: { height: number; span: number }) => (
  <tr aria-hidden="true">
    <td colSpan={span} style={{ height, padding: 0, border: 0 }} />
  </tr>
);
