import './beneath.css';

import { useQuery } from '@tanstack/react-query';
import { useEffect } from 'react';

import { post, type ChosenView, type SheetView } from '../api/client';
import { isElsewhere } from '../parts/keys';
import { count } from '../parts/words';
import { PATH, type Row } from './outline';
import { blockOf, type Grid } from './grid';
import type { SheetPlace } from '../api/paths';

interface Props {
  base: SheetPlace;
  sheet: SheetView;
  rows: Row[];
  grid: Grid;
  chosen: Row[];
}

/** The selection: a block of cells, or whole lines. */
function area({ sheet, rows, grid, chosen }: Props) {
  const places = sheet.columns.length * sheet.figures.length;
  const block = blockOf(grid);
  if (block && block.last >= 0) {
    const picked = rows.slice(block.top, block.bottom + 1).filter((row) => row.filled);
    return { rows: picked, first: Math.max(0, block.first), last: block.last + 1 };
  }
  if (chosen.length > 1) return { rows: chosen, first: 0, last: places };
  return null;
}

/** The sum of the selected cells at the foot; Ctrl C copies them. */
export function Chosen(props: Props) {
  const { base, sheet } = props;
  const what = area(props);
  const lines = what?.rows.map((row) => row.line) ?? [];
  const found = useQuery({
    queryKey: ['chosen', sheet.key, lines, what?.first, what?.last],
    queryFn: () =>
      post(`${base}/sheets/${sheet.key}/chosen`, {
        lines,
        first: what?.first ?? 0,
        last: what?.last ?? 0,
      }),
    enabled: what !== null && lines.length > 0,
    staleTime: Infinity,
    retry: false,
  }).data;
  useEffect(() => {
    const copy = (event: ClipboardEvent) => {
      if (!found || !what || found.plain.length === 0 || isElsewhere(event as unknown as KeyboardEvent))
        return;
      event.preventDefault();
      event.clipboardData?.setData('text/plain', asTabs(what.rows, found));
      event.clipboardData?.setData('text/html', asHtml(what.rows, found));
    };
    document.addEventListener('copy', copy);
    return () => document.removeEventListener('copy', copy);
  });
  if (!what || !found) return null;
  return (
    <div className="chosen-strip" role="status">
      {count(found.count)} chosen
      {found.sum && (
        <>
          {' '}
          · sum <b>{found.sum}</b> · average <b>{found.average}</b>
          {found.without_totals && ', without the totals of what is chosen'}
        </>
      )}
      {found.plain.length > 0 ? ' · Ctrl C copies' : ' · too many to copy'}
    </div>
  );
}

const labelled = (row: Row) => row.path.split(PATH).join(' › ') || row.label;
const clean = (text: string) => text.replaceAll(/[\t\r\n]+/g, ' ');

/** Tab-separated text: headings, then a line for each row, numbers plain. */
function asTabs(rows: Row[], found: ChosenView): string {
  const head = ['', ...found.headings].map(clean).join('\t');
  return [
    head,
    ...found.plain.map((texts, i) => [labelled(rows[i] as Row), ...texts].map(clean).join('\t')),
  ].join('\n');
}

const escaped = (text: string) =>
  text.replaceAll('&', '&amp;').replaceAll('<', '&lt;').replaceAll('>', '&gt;');

/** The same as a table, numbers as shown. */
function asHtml(rows: Row[], found: ChosenView): string {
  const cells = (tag: string, texts: string[]) => texts.map((t) => `<${tag}>${escaped(t)}</${tag}>`).join('');
  const body = found.shown.map(
    (texts, i) => `<tr><th>${escaped(labelled(rows[i] as Row))}</th>${cells('td', texts)}</tr>`,
  );
  return `<table><tr>${cells('th', ['', ...found.headings])}</tr>${body.join('')}</table>`;
}
