import './sources.css';

/** How a column's values spread, as small bars. */
export function Spread({ bars }: { bars: number[] }) {
  return (
    <span className="spread" aria-hidden="true">
      {bars.map((height, i) => (
        <i key={i} style={{ height: `${Math.max(4, height * 100)}%` }} />
      ))}
    </span>
  );
}
