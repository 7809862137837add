import './sheet.css';

import { useCallback, useEffect, useImperativeHandle, useMemo, useRef, type Ref } from 'react';

import type { Report, SheetView } from '../api/client';
import { DrawnRows, type Row } from './outline';
import { SheetHead, type Sorted } from './SheetHead';
import { Edges, HEAD_ROW, Marked } from './SheetOverlay';
import { RecordRow, SheetRow, type Moved } from './SheetRow';
import { inView, isAlone, laidOut, ROW, type Tracks } from './tracks';
import { useCells, useWanted } from './useCells';
import { led, type At, type Grid } from './grid';
import { useListed } from './useListed';
import { STEP, useScrolled, useSnapped } from './useScrolled';
import type { SheetPlace } from '../api/paths';

const OVERSCAN = 4;

/** The actions on the sheet. */
export interface SheetActions {
  focus: (to: At, extend: boolean) => void;
  drag: (to: At) => void;
  choose: (row: Row, more: boolean, range: boolean) => void;
  toggle: (row: Row) => void;
  question: (at: At) => void;
  sort: (place: number) => void;
  drop: (row: Row, before: Row) => void;
  reorder: (row: Row, by: number) => void;
  menu: (at: At, where: { top: number; left: number }) => void;
  clear: () => void;
}

export interface Scrolling {
  show: (row: number) => void;
  focus: () => void;
}

/** The sheet, laid out like a financial statement; only the rows and columns in view are rendered. */
export function SheetTable({
  base,
  layout,
  sheet,
  rows,
  grid,
  chosen,
  sorted,
  actions,
  seen,
  handle,
  moved,
}: {
  base: SheetPlace;
  layout: NonNullable<Report['layout']>;
  sheet: SheetView;
  rows: Row[];
  grid: Grid;
  chosen: ReadonlySet<string>;
  sorted: Sorted;
  actions: SheetActions;
  seen: (at: number, first: number) => void;
  handle: Ref<Scrolling>;
  moved?: Moved;
}) {
  const scroller = useRef<HTMLDivElement>(null);
  const at = useScrolled(scroller);
  const columns = layout.lines === 'columns' && sheet.down.length > 0;
  const all = useMemo(
    () => laidOut(sheet, layout, columns, Math.max(300, at.width - 2)),
    [sheet, layout, columns, at.width],
  );
  useSnapped(scroller, all);
  const drawn = useMemo(() => new DrawnRows(rows), [rows]);
  const [from, to] = inView(all, at.left, at.width);
  const window = useMemo<[number, number]>(() => [from, to], [from, to]);
  const top = Math.max(0, Math.floor(at.top / ROW) - OVERSCAN);
  const bottom = Math.min(drawn.total, Math.ceil((at.top + at.height) / ROW) + STEP + OVERSCAN);
  const inSight = Array.from({ length: Math.max(0, bottom - top) }, (_, i) => drawn.at(top + i));
  const cells = useCells(base, sheet);
  const isCut = useCallback((line: number, place: number) => cells.isCut(line, place), [cells]);
  const listed = useListed(base, sheet, inSight);
  const lines = [
    ...new Set(inSight.flatMap((one) => (one?.kind === 'row' && one.row.filled ? [one.row.line] : []))),
  ];
  useWanted(cells, lines, columnAt(all, from, sheet), columnAt(all, to - 1, sheet) + 1);
  const firstRow = inSight[0]?.row.at ?? 0;
  const firstColumn = columnAt(all, from, sheet);
  useEffect(() => seen(firstRow, firstColumn), [seen, firstRow, firstColumn]);
  useScrollTo(scroller, all, drawn, grid, sheet, handle);

  const heads = sheet.headings.length + (isAlone(sheet) ? 0 : 1);
  const span = all.labels.length + (window[1] - window[0]) + 2;
  const tracks = all.tracks.slice(...window);
  const end = tracks[tracks.length - 1];
  const beyond = end ? all.width - end.left - end.width : 0; // columns that are not drawn keep their room
  const focused = grid.corner ?? grid.at;
  return (
    <div className="sheet-wrap">
      <div
        className="sheet-scroll"
        ref={scroller}
        onKeyDown={(event) => onKey(event, grid, rows, sheet, actions)}
        {...pointing(rows, actions)}
      >
        <div className="sheet-inner" style={{ width: all.width }}>
          <table
            className="sheet-table"
            role="grid"
            tabIndex={0}
            aria-label="Sheet"
            aria-multiselectable="true"
            aria-rowcount={drawn.total + heads}
            aria-colcount={all.labels.length + sheet.columns.length * sheet.figures.length}
            aria-activedescendant={focused ? `cell-${focused.row}-${focused.place}` : undefined}
            style={{ width: all.width }}
          >
            <colgroup>
              {all.labels.map((width, k) => (
                <col key={k} style={{ width }} />
              ))}
              {(tracks[0]?.left ?? all.labelsWidth) > all.labelsWidth && (
                <col style={{ width: (tracks[0]?.left ?? 0) - all.labelsWidth }} />
              )}
              {tracks.map((track) => (
                <col key={track.key} style={{ width: track.width }} />
              ))}
              {beyond > 0 && <col style={{ width: beyond }} />}
            </colgroup>
            <SheetHead sheet={sheet} all={all} window={window} columns={columns} sorted={sorted} />
            <tbody>
              {top > 0 && <Spacer height={top * ROW} span={span} />}
              {inSight.map((one, i) => {
                if (!one) return null;
                const aria = heads + top + i + 1;
                if (one.kind === 'space')
                  return <Spacer key={`space ${one.row.at}`} height={ROW} span={span} />;
                if (one.kind === 'record')
                  return (
                    <RecordRow
                      key={`record ${one.row.line} ${one.record}`}
                      cells={listed(one.row.line, one.record)}
                      all={all}
                      window={window}
                      numeric={sheet.listed?.numeric ?? []}
                      aria={aria}
                    />
                  );
                return (
                  <SheetRow
                    key={one.row.at}
                    sheet={sheet}
                    row={one.row}
                    index={one.index}
                    before={rows[one.index - 1]}
                    texts={cells.line(one.row.line)}
                    isCut={isCut}
                    moved={moved}
                    all={all}
                    window={window}
                    columns={columns}
                    each={layout.labels === 'each'}
                    chosen={chosen.has(one.row.path) && one.row.depth > 0}
                    bold={layout.levels?.[sheet.down[one.row.depth - 1]?.name ?? '']?.bold ?? false}
                    aria={aria}
                  />
                );
              })}
              {bottom < drawn.total && <Spacer height={(drawn.total - bottom) * ROW} span={span} />}
            </tbody>
          </table>
          <Marked grid={grid} all={all} drawn={drawn} heads={heads} />
        </div>
      </div>
      <Edges
        all={all}
        left={at.left}
        width={at.width}
        height={at.height}
        below={at.top + at.height < drawn.total * ROW}
      />
    </div>
  );
}

const columnAt = (all: Tracks, at: number, sheet: SheetView) =>
  Math.max(0, Math.min(sheet.columns.length - 1, all.tracks[Math.max(0, at)]?.column ?? 0));

const Spacer = ({ height, span }: { height: number; span: number }) => (
  <tr aria-hidden="true" className="spacer">
    <td colSpan={span} style={{ height, padding: 0, border: 0 }} />
  </tr>
);

/** Brings a row into view below headings of a height. */
function showRow(element: HTMLElement, top: number, heads: number) {
  const bottom = top + ROW * 2 - element.clientHeight + heads;
  if (top < element.scrollTop) element.scrollTo({ top });
  else if (bottom - ROW > element.scrollTop) element.scrollTo({ top: bottom });
}

/** Brings a column into view beside the labels. */
function showTrack(element: HTMLElement, all: Tracks, place: number) {
  const track = all.tracks.find((t) => t.kind === 'cell' && t.place === place);
  if (!track) return;
  const right = track.left + track.width - element.clientWidth + 4;
  if (track.left - all.labelsWidth < element.scrollLeft)
    element.scrollTo({ left: track.left - all.labelsWidth });
  else if (right > element.scrollLeft) element.scrollTo({ left: right });
}

/** Keep the focused cell in view, and let others scroll to a row. */
function useScrollTo(
  scroller: React.RefObject<HTMLDivElement | null>,
  all: Tracks,
  drawn: DrawnRows,
  grid: Grid,
  sheet: SheetView,
  handle: Ref<Scrolling>,
) {
  const heads = (sheet.headings.length + (isAlone(sheet) ? 0 : 1)) * HEAD_ROW;
  const corner = grid.corner;
  useImperativeHandle(handle, () => ({
    show: (row) => scroller.current && showRow(scroller.current, drawn.placeOf(row) * ROW, heads),
    focus: () => scroller.current?.querySelector('table')?.focus(),
  }));
  useEffect(() => {
    const element = scroller.current;
    if (!corner || !element) return;
    showRow(element, drawn.placeOf(corner.row) * ROW, heads);
    showTrack(element, all, corner.place);
    // the focus moves the view, not the other way round
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [corner]);
}

/** The cell of an event. */
function cellOf(event: { target: EventTarget }): At | null {
  const cell = (event.target as HTMLElement).closest<HTMLElement>('[data-p]');
  const row = cell?.closest<HTMLElement>('[data-r]');
  if (!cell) return null;
  return { row: row ? Number(row.dataset.r) : -1, place: Number(cell.dataset.p) };
}

/** The heading over several columns that an event is at: in a row of its own, −2 for the outermost. */
function spanOf(event: { target: EventTarget }): At | null {
  const span = (event.target as HTMLElement).closest<HTMLElement>('[data-over]');
  return span && { row: -2 - Number(span.dataset.level), place: Number(span.dataset.over) };
}

/** What the mouse does: a click on a heading sorts, on a label chooses the line, on a number questions it; dragged, it
 * chooses a block. */
function pointing(rows: Row[], actions: SheetActions) {
  return {
    onMouseDown: (event: React.MouseEvent) => {
      const at = cellOf(event);
      if (!at || at.row < 0 || event.button !== 0) return;
      if (at.place >= 0) actions.focus(at, event.shiftKey);
    },
    onMouseOver: (event: React.MouseEvent) => {
      if (event.buttons !== 1) return;
      const at = cellOf(event);
      if (at && at.row >= 0 && at.place >= 0) actions.drag(at);
    },
    onClick: (event: React.MouseEvent) => {
      const at = cellOf(event);
      if (!at) return;
      if (at.row < 0) return actions.sort(at.place);
      const row = rows[at.row];
      if (!row) return;
      if ((event.target as HTMLElement).closest('[data-twist]')) return actions.toggle(row);
      if (at.place < 0) {
        actions.focus({ row: at.row, place: -1 }, false);
        actions.choose(row, event.ctrlKey || event.metaKey, event.shiftKey);
      } else if (!event.shiftKey) actions.question(at);
    },
    onDragStart: (event: React.DragEvent) => {
      const at = cellOf(event);
      if (at && at.row >= 0) event.dataTransfer.setData('application/x-line', String(at.row));
    },
    onDragOver: (event: React.DragEvent) => {
      if (event.dataTransfer.types.includes('application/x-line')) event.preventDefault();
    },
    onDrop: (event: React.DragEvent) => {
      const from = rows[Number(event.dataTransfer.getData('application/x-line') || -1)];
      const to = rows[cellOf(event)?.row ?? -1];
      if (!from || !to) return;
      event.preventDefault();
      actions.drop(from, to);
    },
    onContextMenu: (event: React.MouseEvent) => {
      const at = cellOf(event) ?? spanOf(event);
      if (!at) return;
      event.preventDefault();
      actions.menu(at, { top: event.clientY, left: event.clientX });
    },
  };
}

/** The keyboard actions on the sheet. */
function onKey(event: React.KeyboardEvent, grid: Grid, rows: Row[], sheet: SheetView, actions: SheetActions) {
  const from = grid.corner ?? { row: 0, place: -1 };
  const places = sheet.columns.length * sheet.figures.length;
  const to = led(from, event.key, event.ctrlKey || event.metaKey, rows.length, places);
  if (to && !event.altKey) {
    event.preventDefault();
    return grid.at ? actions.focus(to, event.shiftKey) : actions.focus(from, false);
  }
  const row = rows[from.row];
  const by = { ArrowUp: -1, ArrowDown: 1 }[event.key];
  if (row && event.altKey && by) {
    event.preventDefault();
    return actions.reorder(row, by);
  }
  if (!row || event.altKey) return;
  const box = () => {
    const found = document.querySelector('.focus-cell')?.getBoundingClientRect();
    return { top: found?.bottom ?? 200, left: found?.left ?? 200 };
  };
  if (event.key === 'Enter') {
    event.preventDefault();
    if (from.place < 0) actions.toggle(row);
    else actions.question(from);
  } else if (event.key === ' ' && from.place < 0) {
    event.preventDefault();
    actions.choose(row, true, false);
  } else if (event.key === 'ContextMenu' || (event.key === 'F10' && event.shiftKey) || event.key === 'm') {
    event.preventDefault();
    actions.menu(from, box());
  } else if (event.key === 's' && !event.ctrlKey && !event.metaKey) actions.sort(from.place);
  else if (event.key === 'Escape') actions.clear();
}
