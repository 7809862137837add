import './beneath.css';

import type { SheetView } from '../api/client';
import { capital } from '../parts/words';

/** How far the sheet is opened, by level name. */
export function DepthBar({
  sheet,
  depth,
  open,
}: {
  sheet: SheetView;
  depth: number;
  open: (depth: number) => void;
}) {
  if (sheet.down.length === 0) return null;
  const names = [{ name: 'Total', kind: 'total' }, ...sheet.down];
  return (
    <div className="depth" role="group" aria-label="Depth">
      <span>show to</span>
      {names.map(({ name, kind }, level) => (
        <button
          key={name}
          className={level <= depth ? `in ${kind}` : ''}
          aria-pressed={level <= depth}
          onClick={() => open(level)}
        >
          {capital(name)}
        </button>
      ))}
    </div>
  );
}
