import type { BoardView, CrossingView } from '../api/client';

/** A crossing of the board: the report, its period, and its position. */
export interface Picked {
  report: number;
  lastDay: string;
}

export const isAt = (picked: Picked | null, report: number, crossing: CrossingView) =>
  picked !== null && picked.report === report && picked.lastDay === crossing.last_day;

const NEEDS = ['late', 'due', 'waiting'];

/** The crossing selected first: a late one, else due, else waiting, else the latest edition of the first report. */
export function firstOf(board: BoardView): Picked | null {
  const every = board.rows.flatMap((row) =>
    row.cells.flatMap((cell) => cell.map((crossing) => ({ report: row.id, crossing }))),
  );
  const by = (state: string) => every.find(({ crossing }) => crossing.state === state);
  const moved = every.find(({ crossing }) => crossing.moved);
  const found = NEEDS.map(by).find(Boolean) ?? moved ?? every.filter((one) => one.crossing.edition).pop();
  return found ? { report: found.report, lastDay: found.crossing.last_day } : null;
}

/** The crossing a step away; the last of a cell with several, skipping empty cells. */
export function moved(board: BoardView, from: Picked, down: number, right: number): Picked {
  let row = board.rows.findIndex((one) => one.id === from.report);
  let column =
    board.rows[row]?.cells.findIndex((cell) => cell.some((c) => c.last_day === from.lastDay)) ?? -1;
  for (;;) {
    row += down;
    column += right;
    const cell = board.rows[row]?.cells[column];
    if (!cell) return from;
    const crossing = cell[cell.length - 1];
    if (crossing) return { report: board.rows[row]?.id ?? from.report, lastDay: crossing.last_day };
  }
}
