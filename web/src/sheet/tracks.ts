import type { Report, SheetView } from '../api/client';

export const ROW = 27;
const GAP = 14;
const PADDING = 22;
const MOST_LABEL = 420;
const CELL_FONT = "13.5px 'IBM Plex Sans Variable', system-ui, sans-serif";
const HEAD_FONT = "500 12.5px 'IBM Plex Sans Variable', system-ui, sans-serif";
const LABEL_FONT = "600 13.5px 'IBM Plex Sans Variable', system-ui, sans-serif";

/** A strip of the table from top to bottom: the place of a figure's column, a gap between groups, or, before the first
 * column, one of the records that are listed. `key` is the same on every sheet of a report, whatever the widths, so that
 * its cells are updated in place. */
export interface Track {
  key: string;
  kind: 'cell' | 'gap' | 'record';
  place: number;
  column: number;
  figure: number;
  width: number;
  left: number;
}

export interface Tracks {
  labels: number[];
  labelsWidth: number;
  tracks: Track[];
  width: number;
}

let canvas: CanvasRenderingContext2D | null = null;
/** How wide a text is, in pixels. */
export function measured(text: string, font: string): number {
  canvas ??= document.createElement('canvas').getContext('2d');
  if (!canvas) return text.length * 8;
  canvas.font = font;
  return canvas.measureText(text).width;
}

/** Columns before which a gap stands: each new member of the outermost level, where columns hold several figures or
 * levels. */
export function groupStarts(sheet: SheetView): boolean[] {
  const grouped = sheet.across.length > 1 || (sheet.across.length === 1 && sheet.figures.length > 1);
  return sheet.columns.map(
    (column, i) => grouped && i > 0 && column.labels[0] !== sheet.columns[i - 1]?.labels[0],
  );
}

/** Whether the last row of headings is that of the columns themselves, for there is but one figure. */
export const isAlone = (sheet: SheetView) => sheet.figures.length === 1 && sheet.across.length > 0;

type Layout = NonNullable<Report['layout']>;

/** The widths and places of all columns, spread over `room` pixels where they need less. */
export function laidOut(sheet: SheetView, layout: Layout, columns: boolean, room: number): Tracks {
  const digit = measured('0', CELL_FONT);
  const set = layout.widths ?? {};
  const labels = labelWidths(sheet, columns).map((w) => (set[''] ? set[''] * digit : w));
  const tracks: Track[] = [];
  sheet.listed?.columns.forEach((name, i) => {
    const needed = Math.max((sheet.listed?.widths[i] ?? 0) * digit, measured(name, HEAD_FONT));
    const width = needed + PADDING;
    tracks.push({ key: `record ${i}`, kind: 'record', place: i, column: 0, figure: -1, width, left: 0 });
  });
  const starts = groupStarts(sheet);
  const alone = isAlone(sheet);
  const figures = sheet.figures.length;
  sheet.columns.forEach((column, c) => {
    if (starts[c])
      tracks.push({ key: `gap ${c}`, kind: 'gap', place: -1, column: c, figure: -1, width: GAP, left: 0 });
    sheet.figures.forEach((figure, f) => {
      const heading = alone ? (column.labels[column.labels.length - 1] ?? '') : figure.name;
      const place = c * figures + f;
      const needed = Math.max((sheet.widths[place] ?? 0) * digit, measured(heading, HEAD_FONT) + 20);
      const wide = set[figure.name];
      const width = Math.ceil(wide ? wide * digit + PADDING : Math.max(64, needed + PADDING));
      tracks.push({ key: `cell ${place}`, kind: 'cell', place, column: c, figure: f, width, left: 0 });
    });
  });
  widened(sheet, alone, tracks);
  return spread(labels, tracks, room);
}

/** Groups of columns wide enough for the headings over them. */
function widened(sheet: SheetView, alone: boolean, tracks: Track[]) {
  sheet.headings.forEach((spans, level) => {
    if (alone && level === sheet.headings.length - 1) return;
    let first = 0;
    for (const span of spans) {
      const under = tracks.filter(
        (t) => t.kind === 'cell' && t.column >= first && t.column < first + span.columns,
      );
      const short =
        measured(span.label, `600 ${HEAD_FONT.slice(4)}`) + 16 - under.reduce((s, t) => s + t.width, 0);
      if (short > 0) under.forEach((t) => (t.width += Math.ceil(short / under.length)));
      first += span.columns;
    }
  });
}

function spread(labels: number[], tracks: Track[], room: number): Tracks {
  const cells = tracks.filter((t) => t.kind !== 'gap');
  let labelsWidth = labels.reduce((sum, w) => sum + w, 0);
  const needed = labelsWidth + tracks.reduce((sum, t) => sum + t.width, 0);
  if (needed > room) {
    // a little less air where that saves some sideways scrolling
    const less = Math.min(8, Math.ceil((needed - room) / Math.max(1, cells.length)));
    if (needed - less * cells.length <= room) cells.forEach((t) => (t.width -= less));
  }
  const spare = Math.max(0, Math.min(room, cells.length <= 3 ? 760 : room) - needed);
  if (spare > 0 && labels.length > 0) {
    const each = Math.floor((spare * 0.8) / Math.max(1, cells.length));
    cells.forEach((t) => (t.width += Math.min(each, 90)));
    const given = cells.reduce((sum) => sum + Math.min(each, 90), 0);
    labels[labels.length - 1] = (labels[labels.length - 1] ?? 0) + Math.max(0, Math.min(spare - given, 260));
    labelsWidth = labels.reduce((sum, w) => sum + w, 0);
  }
  let left = labelsWidth;
  for (const track of tracks) {
    track.left = left;
    left += track.width;
  }
  return { labels, labelsWidth, tracks, width: left };
}

/** How wide the column of labels is, or each level's own. */
function labelWidths(sheet: SheetView, columns: boolean): number[] {
  const { label, depth } = sheet.rows;
  const levels = columns ? Math.max(1, sheet.down.length) : 1;
  const longest = Array.from({ length: levels }, () => [] as [number, string][]);
  label.forEach((text, i) => {
    const d = Math.max(1, depth[i] ?? 0);
    const indent = columns ? 0 : 20 * (d - 1) + 24;
    longest[columns ? Math.min(levels, d) - 1 : 0]?.push([text.length * 8 + indent, text]);
  });
  return longest.map((texts, k) => {
    const few = texts.sort((a, b) => b[0] - a[0]).slice(0, 40);
    const wide = few.map(([guess, text]) => guess - text.length * 8 + measured(text, LABEL_FONT));
    const heading = columns
      ? measured(sheet.down[k]?.name ?? '', HEAD_FONT)
      : measured(sheet.down.map((l) => l.name).join(' · '), HEAD_FONT);
    return Math.ceil(
      Math.min(MOST_LABEL, Math.max(columns ? 70 : 150, heading + PADDING, ...wide.map((w) => w + PADDING))),
    );
  });
}

/** The tracks that are in view from `left` on over `width` pixels, and some beside them. */
export function inView(all: Tracks, left: number, width: number, overscan = 240): [number, number] {
  const from = left + all.labelsWidth - overscan;
  const to = left + width + overscan;
  let first = 0;
  while (first < all.tracks.length && edge(all, first) < from) first += 1;
  let last = first;
  while (last < all.tracks.length && (all.tracks[last]?.left ?? 0) < to) last += 1;
  return [first, last];
}

const edge = (all: Tracks, i: number) => (all.tracks[i]?.left ?? 0) + (all.tracks[i]?.width ?? 0);

/** The scroll position near `left` at which no column is cut at its left edge. */
export function snapped(all: Tracks, left: number): number {
  let best = 0;
  for (const track of all.tracks) {
    if (track.kind === 'gap') continue;
    const at = track.left - all.labelsWidth;
    if (Math.abs(at - left) < Math.abs(best - left)) best = at;
  }
  return best;
}
