import './sheet.css';

import { blockOf, type Block, type Grid } from './grid';
import type { DrawnRows } from './outline';
import { ROW, type Tracks } from './tracks';

export const HEAD_ROW = 26;

/** The focused cell and the selected block, drawn over the table. */
export function Marked({
  grid,
  all,
  drawn,
  heads,
}: {
  grid: Grid;
  all: Tracks;
  drawn: DrawnRows;
  heads: number;
}) {
  const block = blockOf(grid);
  const box = (b: Block) => {
    const cells = all.tracks.filter((t) => t.kind === 'cell' && t.place >= b.first && t.place <= b.last);
    const left = b.first < 0 ? 0 : (cells[0]?.left ?? 0);
    const end = cells[cells.length - 1];
    const right = end ? end.left + end.width : all.labelsWidth;
    const top = drawn.placeOf(b.top) * ROW;
    return {
      left,
      width: right - left,
      top: `calc(${top}px + var(--heads, ${heads * HEAD_ROW}px))`,
      height: (drawn.placeOf(b.bottom) - drawn.placeOf(b.top) + 1) * ROW,
    };
  };
  const { at } = grid;
  return (
    <>
      {block && <div className="block" style={box(block)} aria-hidden="true" />}
      {at && at.row < drawn.rows.length && (
        <div
          className={`focus-cell${at.place < 0 ? ' label' : ''}`}
          style={box({ top: at.row, bottom: at.row, first: at.place, last: at.place })}
          aria-hidden="true"
        />
      )}
    </>
  );
}

/**
 * Veils over partly visible columns, so that no cut number is read as a number; each says that there are more columns.
 */
export function Edges({
  all,
  left,
  width,
  height,
  below,
}: {
  all: Tracks;
  left: number;
  width: number;
  height: number;
  below: boolean;
}) {
  const room = width;
  const cellsAt = all.tracks.filter((t) => t.kind !== 'gap');
  const cutLeft = cellsAt.find(
    (t) => t.left < left + all.labelsWidth && t.left + t.width > left + all.labelsWidth + 1,
  );
  const cutRight = all.tracks.find((t) => t.left < left + room - 1 && t.left + t.width > left + room + 1);
  const last = cellsAt[cellsAt.length - 1];
  const more = last ? last.left + last.width > left + room + 1 : false;
  return (
    <>
      {left > 1 && (
        <div
          className="edge left"
          style={{
            left: all.labelsWidth,
            height,
            width: cutLeft ? cutLeft.left + cutLeft.width - left - all.labelsWidth : 10,
          }}
          aria-hidden="true"
        />
      )}
      {more && (
        <div
          className="edge right"
          style={{
            width: cutRight ? Math.max(18, left + room - cutRight.left + 4) : 18,
            left: 'auto',
            height,
          }}
          aria-hidden="true"
        >
          ›
        </div>
      )}
      {below && <div className="edge bottom" aria-hidden="true" />}
    </>
  );
}
