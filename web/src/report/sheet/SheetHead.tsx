import type { SheetView } from '../../api/client';
import { capital } from '../../parts/words';
import { headings } from './outline';

/** The headings over the columns; they stay in view. */
export function SheetHead({
  sheet,
  widths,
  starts,
}: {
  sheet: SheetView;
  widths: number[];
  starts: boolean[];
}) {
  const levels = headings(sheet);
  const figures = sheet.figures.length;
  const names = sheet.down.map((level) => capital(level.name)).join(' · ');
  const alone = figures === 1 && levels.length > 0;
  return (
    <thead>
      {levels.map((spans, level) => {
        const offsets = spans.map((_, i) => spans.slice(0, i).reduce((sum, s) => sum + s.columns, 0));
        return (
          <tr key={level}>
            <th className="corner">{alone && level === levels.length - 1 ? names : ''}</th>
            {spans.map((s, i) => {
              const column = offsets[i] ?? 0;
              const gap = starts[column] && <th key={`${s.key}-gap`} className="gap" />;
              const inner = gapsWithin(starts, column, s.columns);
              const kind = sheet.across[level]?.kind ?? '';
              return [
                gap,
                <th
                  key={s.key}
                  colSpan={s.columns * figures + inner}
                  className={s.label ? `span ${kind}${alone && s.columns === 1 ? ' single' : ''}` : ''}
                >
                  {s.label}
                </th>,
              ];
            })}
          </tr>
        );
      })}
      {alone ? (
        <tr className="last widths" aria-hidden="true">
          <th />
          {sheet.columns.map((c, i) => [
            starts[i] && <th key={`${c.id}-gap`} className="gap" />,
            <th key={c.id} style={{ minWidth: `${widths[i]}ch` }} />,
          ])}
        </tr>
      ) : (
        <tr className="last">
          <th className="corner">{names}</th>
          {sheet.columns.map((c, i) =>
            sheet.figures.map((figure, f) => [
              starts[i] && f === 0 && <th key={`${c.id}-gap`} className="gap" />,
              <th
                key={`${c.id}-${figure.name}`}
                className="num"
                style={{ minWidth: `${widths[i * figures + f]}ch` }}
              >
                {figure.name}
              </th>,
            ]),
          )}
        </tr>
      )}
    </thead>
  );
}

/** Columns before which a gap stands: each new member of the outermost level, where columns hold several figures or levels. */
export function groupStarts(sheet: SheetView): boolean[] {
  const grouped = sheet.across.length > 1 || (sheet.across.length === 1 && sheet.figures.length > 1);
  return sheet.columns.map(
    (column, i) => grouped && i > 0 && column.labels[0] !== sheet.columns[i - 1]?.labels[0],
  );
}

const gapsWithin = (starts: boolean[], from: number, count: number) =>
  starts.slice(from + 1, from + count).filter(Boolean).length;

/** How wide each column of figures is, in characters, from the cells at hand and its heading. */
export function columnWidths(sheet: SheetView): number[] {
  const figures = sheet.figures.length;
  const alone = figures === 1 && sheet.across.length > 0;
  const widths = sheet.columns.flatMap((column) =>
    sheet.figures.map(
      (figure) => (alone ? (column.labels[column.labels.length - 1] ?? '').length : figure.name.length) + 2,
    ),
  );
  for (const texts of Object.values(sheet.cells))
    texts.forEach((text, i) => {
      if (text.length + 3 > (widths[i] ?? 0)) widths[i] = text.length + 3;
    });
  return widths;
}
