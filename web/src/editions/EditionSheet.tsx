import '../sheet/sheet.css';
import './editions.css';
import '../parts/tools.css';
import '../sheet/beneath.css';

import { useMemo, useRef, useState, type ReactNode } from 'react';

import type { Report, SheetView } from '../api/client';
import { Chart } from '../chart/Chart';
import { Chosen } from '../sheet/Chosen';
import { DepthBar } from '../sheet/DepthBar';
import { Find } from '../sheet/Find';
import { Footnotes } from '../sheet/Footnotes';
import type { At } from '../sheet/grid';
import { outline, PATH, type Row } from '../sheet/outline';
import type { Questioned } from '../sheet/questioned';
import type { Moved } from '../sheet/SheetRow';
import { usePrinted } from '../sheet/usePrinted';
import { SheetTable, type Scrolling, type SheetActions } from '../sheet/SheetTable';
import { useGrid } from '../sheet/useGrid';
import { useOpenness } from '../sheet/useOpenness';
import { useSheetKeys } from '../sheet/useSheetKeys';
import type { EditionPlace } from '../api/paths';

const NOTHING = () => undefined;
const NONE: ReadonlySet<string> = new Set();
const UNSORTED = { place: null, falling: false };

/** The sheet of an edition, read-only: levels open and close, lines can be found, numbers explained. */
export function EditionSheet({
  base,
  sheet,
  layout,
  moved,
  question,
  head,
}: {
  base: EditionPlace;
  sheet: SheetView;
  layout: NonNullable<Report['layout']>;
  moved: Moved;
  question: ((cell: Questioned | null) => void) | null;
  head: ReactNode;
}) {
  const [open, setOpen] = useOpenness(base, sheet.down.length);
  usePrinted(base);
  const columns = layout.lines === 'columns';
  const rows = useMemo(() => {
    const spaced = new Set(
      sheet.down.flatMap((level, k) => (layout.levels?.[level.name]?.space ? [k + 1] : [])),
    );
    return outline(sheet, open, columns, spaced);
  }, [sheet, open, columns, layout]);
  const { grid, move, extend, clear } = useGrid();
  const [finding, setFinding] = useState(false);
  const [charted, setCharted] = useState(false);
  const table = useRef<Scrolling>(null);
  useSheetKeys({ find: () => setFinding(true), chart: () => setCharted(!charted) });
  const toggle = (row: Row) =>
    row.open !== null && setOpen({ ...open, byHand: { ...open.byHand, [row.path]: !row.open } });
  const ask = (at: At) => {
    const row = rows[at.row];
    const column = sheet.columns[Math.floor(at.place / sheet.figures.length)];
    const figure = sheet.figures[at.place % sheet.figures.length];
    if (row?.filled && column && figure)
      question?.({ figure: figure.name, line: row.line, column: column.id });
  };
  const actions: SheetActions = {
    focus: move,
    drag: extend,
    choose: toggle,
    toggle,
    question: ask,
    sort: NOTHING,
    drop: NOTHING,
    reorder: NOTHING,
    menu: NOTHING,
    clear: () => {
      clear();
      question?.(null);
    },
  };
  const reveal = (row: Row) => {
    const byHand = { ...open.byHand };
    row.path.split(PATH).forEach((_, k, parts) => (byHand[parts.slice(0, k).join(PATH)] = true));
    setOpen({ ...open, byHand });
  };
  return (
    <section className="paper sheet-paper edition-paper">
      {head}
      <div className="edition-tools">
        <button
          className={`tool${charted ? ' on' : ''}`}
          onClick={() => setCharted(!charted)}
          title="Chart (C)"
        >
          chart
        </button>
        <button className="tool" onClick={() => setFinding(true)} title="Find on the sheet (F)">
          find
        </button>
        {sheet.scale && <span className="scaled">{sheet.scale}</span>}
        <DepthBar
          sheet={sheet}
          depth={Math.min(open.depth, sheet.down.length)}
          open={(depth) => setOpen({ depth, byHand: {} })}
        />
      </div>
      {finding && (
        <Find
          sheet={sheet}
          rows={rows}
          close={() => {
            setFinding(false);
            table.current?.focus();
          }}
          go={(row) => {
            move({ row, place: -1 }, false);
            table.current?.show(row);
          }}
          reveal={reveal}
        />
      )}
      {charted ? (
        <Chart base={base} sheet={sheet} rows={rows} chosen={NONE} title={sheet.title} />
      ) : (
        <SheetTable
          base={base}
          layout={layout}
          sheet={sheet}
          rows={rows}
          grid={grid}
          chosen={NONE}
          sorted={UNSORTED}
          actions={actions}
          seen={NOTHING}
          handle={table}
          moved={moved}
        />
      )}
      <Footnotes sheet={sheet} />
      <Chosen base={base} sheet={sheet} rows={rows} grid={grid} chosen={[]} />
    </section>
  );
}
