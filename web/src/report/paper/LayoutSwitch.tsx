import '../../intake/intake.css';
import '../../parts/tools.css';

import type { Report, SheetView } from '../../api/client';

/** Indented under their groups, or one column a level with labels once or on each line. */
export function LayoutSwitch({
  report,
  sheet,
  change,
}: {
  report: Report;
  sheet: SheetView;
  change: (report: Report) => void;
}) {
  if (sheet.down.length < 2) return null;
  const layout = report.layout ?? {};
  const columns = layout.lines === 'columns';
  const set = (more: typeof layout) => change({ ...report, layout: { ...layout, ...more } });
  return (
    <span className="tools" role="group" aria-label="Layout">
      <button className={`tool${columns ? '' : ' on'}`} onClick={() => set({ lines: 'indented' })}>
        indented
      </button>
      <button className={`tool${columns ? ' on' : ''}`} onClick={() => set({ lines: 'columns' })}>
        columns
      </button>
      {columns && (
        <button
          className={`tool${layout.labels === 'each' ? ' on' : ''}`}
          onClick={() => set({ labels: layout.labels === 'each' ? 'once' : 'each' })}
        >
          repeat labels
        </button>
      )}
    </span>
  );
}
