import type { SheetView } from '../api/client';

/** A row as shown: `open` is null for rows that have nothing under them; `filled` rows bear figures. `own` are the labels
 * of its members from the outermost in, by which it is known. `records` is how many records are listed under it. */
export interface Row {
  at: number;
  line: number;
  depth: number;
  role: string;
  label: string;
  special: number;
  value: string | null;
  entry: number;
  open: boolean | null;
  filled: boolean;
  path: string;
  own: string[];
  records: number;
  space: boolean;
}

/** Which groups are open: down to a level, except those opened or closed by hand (by path). */
export interface Openness {
  depth: number;
  byHand: Record<string, boolean>;
}

export const PATH = '\u001f';

/** The rows that are shown when groups are open or closed as given. A closed group shows its own total in its heading;
 * with one column a level the headings of open groups are left out, for their labels stand on the lines. `spaced` are
 * levels (by depth) before whose groups an empty row stands. */
export function outline(
  sheet: SheetView,
  open: Openness,
  columns = false,
  spaced: ReadonlySet<number> = new Set(),
): Row[] {
  const { line, depth, role, label, special, value, entry } = sheet.rows;
  const names = sheet.rows.name;
  const records = sheet.listed?.records;
  const deepest = records ? sheet.down.length + 1 : sheet.down.length;
  const shown: Row[] = [];
  const headed = new Set<number>();
  const labels: string[] = [];
  const own: string[] = [];
  let closed: { line: number; depth: number } | null = null;
  for (let at = 0; at < line.length; at += 1) {
    const d = depth[at] ?? 0;
    const l = line[at] ?? 0;
    const r = role[at] ?? 'leaf';
    if (d > 0 && open.depth === 0) continue;
    if (closed && (d > closed.depth || l === closed.line)) continue;
    closed = null;
    if (d > 0) {
      labels.length = d - 1;
      labels.push(label[at] ?? '');
      own.length = d - 1;
      own.push(names[at] ?? label[at] ?? '');
    }
    const path = labels.slice(0, d).join(PATH);
    const heads = d > 0 && d < deepest && r !== 'leaf' && !headed.has(l);
    const isOpen = heads ? (open.byHand[path] ?? d < open.depth) : null;
    const first = !headed.has(l);
    if (heads) headed.add(l);
    if (isOpen === false) closed = { line: l, depth: d };
    if (columns && r === 'heading' && isOpen === true && d < sheet.down.length) continue;
    shown.push({
      at,
      line: l,
      depth: d,
      role: isOpen === false ? 'closed' : r,
      label: label[at] ?? '',
      special: special[at] ?? 0,
      value: value[at] ?? null,
      entry: entry[at] ?? -1,
      open: isOpen,
      filled: r !== 'heading' || isOpen === false,
      path,
      own: own.slice(0, d),
      records: isOpen === true ? (records?.[at] ?? 0) : 0,
      space: first && shown.length > 0 && spaced.has(d),
    });
  }
  return shown;
}

/** What is at a position among the rendered rows: a row, an empty row before it, or a record listed under it. */
export type Drawn =
  | { kind: 'row'; row: Row; index: number }
  | { kind: 'space'; row: Row; index: number }
  | { kind: 'record'; row: Row; index: number; record: number };

/** The rendered rows, including records and empty rows, looked up by position without listing them all. */
export class DrawnRows {
  readonly total: number;
  private readonly starts: number[];
  readonly rows: Row[];

  constructor(rows: Row[]) {
    this.rows = rows;
    this.starts = new Array<number>(rows.length);
    let at = 0;
    rows.forEach((row, i) => {
      this.starts[i] = at;
      at += 1 + row.records + (row.space ? 1 : 0);
    });
    this.total = at;
  }

  /** What is rendered at a position. */
  at(place: number): Drawn | undefined {
    let low = 0;
    let high = this.rows.length - 1;
    while (low < high) {
      const middle = (low + high + 1) >> 1;
      if ((this.starts[middle] ?? 0) <= place) low = middle;
      else high = middle - 1;
    }
    const row = this.rows[low];
    if (!row || place < 0 || place >= this.total) return undefined;
    const within = place - (this.starts[low] ?? 0) - (row.space ? 1 : 0);
    if (within < 0) return { kind: 'space', row, index: low };
    return within === 0
      ? { kind: 'row', row, index: low }
      : { kind: 'record', row, index: low, record: within - 1 };
  }

  /** The position at which a row is rendered. */
  placeOf(index: number): number {
    return (this.starts[index] ?? 0) + (this.rows[index]?.space ? 1 : 0);
  }
}

/** A heading over several columns. */
export interface Span {
  label: string;
  columns: number;
  first: number;
  key: string;
}

/** The rows of headings over the columns, outermost first; a total's label is in the last row. */
export function headings(sheet: SheetView): Span[][] {
  return sheet.headings.map((row) => {
    let at = 0;
    return row.map(({ label, columns }) => {
      const key = String(sheet.columns[at]?.id);
      const first = at;
      at += columns;
      return { label, columns, first, key };
    });
  });
}

/** The labels of a row with one column a level: once, or on each line. */
export function levelLabels(row: Row, before: Row | undefined, levels: number, each: boolean): string[] {
  const labels = row.path.split(PATH).slice(0, row.depth);
  const here = Array.from({ length: levels }, (_, k) => labels[k] ?? '');
  if (row.depth === 0) return [row.label, ...here.slice(1)];
  here[row.depth - 1] = row.label;
  if (each || !before) return here;
  const earlier = before.path.split(PATH);
  let same = 0;
  while (same < row.depth && same < before.depth && earlier[same] === labels[same]) same += 1;
  return here.map((label, k) => (k < same && k < row.depth - 1 ? '' : label));
}
