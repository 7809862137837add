import type { SheetView } from '../../api/client';

/** A row as shown: `open` is null for rows that have nothing under them; `filled` rows bear figures. */
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
}

/** Which groups are open: down to a level, but for those opened or closed by hand (by path). */
export interface Openness {
  depth: number;
  byHand: Record<string, boolean>;
}

/** The rows that are shown when groups are open or closed as given. A closed group shows its own total in its heading. */
export function outline(sheet: SheetView, open: Openness): Row[] {
  const { line, depth, role, label, special, value, entry } = sheet.rows;
  const deepest = sheet.down.length;
  const shown: Row[] = [];
  const headed = new Set<number>();
  const labels: string[] = [];
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
    }
    const path = labels.slice(0, d).join('\u001f');
    const heads = d > 0 && d < deepest && r !== 'leaf' && !headed.has(l);
    const isOpen = heads ? (open.byHand[path] ?? d < open.depth) : null;
    if (heads) headed.add(l);
    if (isOpen === false) closed = { line: l, depth: d };
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
    });
  }
  return shown;
}

/** A heading cell over several columns. */
export interface Span {
  label: string;
  columns: number;
  key: string;
}

/** The rows of headings over the columns, from the outside in; a total's label stands in the last row of its own. */
export function headings(sheet: SheetView): Span[][] {
  return sheet.headings.map((row) => {
    let at = 0;
    return row.map(({ label, columns }) => {
      const key = String(sheet.columns[at]?.id);
      at += columns;
      return { label, columns, key };
    });
  });
}
