import './editors.css';

import { Button } from '@mui/material';

import type { Report, WorkedLine } from '../api/client';
import { Choose, Written } from '../parts/Field';

/** Lines computed from other lines of a level by a formula, such as a margin from sales and cost. */
export function WorkedLines({
  levels,
  report,
  change,
}: {
  levels: string[];
  report: Report;
  change: (report: Report) => void;
}) {
  const all = report.lines ?? [];
  const set = (lines: WorkedLine[]) => change({ ...report, lines });
  const add = () => {
    const level = levels[0];
    if (level) set([...all, { name: freeName(all), level, formula: '0' }]);
  };
  return (
    <details className="worked" open={all.some((l) => levels.includes(l.level))}>
      <summary>Lines calculated from other lines</summary>
      {all.map((line, i) =>
        levels.includes(line.level) ? (
          <OneLine
            key={i}
            line={line}
            levels={levels}
            change={(next) =>
              set(next ? all.map((l, k) => (k === i ? next : l)) : all.filter((_, k) => k !== i))
            }
          />
        ) : null,
      )}
      <Button onClick={add}>Make a line</Button>
    </details>
  );
}

function OneLine({
  line,
  levels,
  change,
}: {
  line: WorkedLine;
  levels: string[];
  change: (line: WorkedLine | null) => void;
}) {
  return (
    <div className="worked-line">
      <Written label="Name of the line" value={line.name} change={(name) => change({ ...line, name })} />
      <Written
        label="Made as"
        value={line.formula}
        help={'lines by label in double quotes, as "Sales" - "Cost"'}
        change={(formula) => change({ ...line, formula })}
      />
      {levels.length > 1 && (
        <Choose
          label="Among the lines of"
          value={line.level}
          options={levels.map((l) => [l, l])}
          change={(level) => change({ ...line, level })}
        />
      )}
      <Written
        label="Stands after"
        value={line.after ?? ''}
        help="a line’s label; empty is after all of them"
        clear
        change={(after) => change({ ...line, after: after || null })}
      />
      <Button color="error" onClick={() => change(null)}>
        Take the line out
      </Button>
    </div>
  );
}

function freeName(lines: WorkedLine[]): string {
  let name = 'New line';
  for (let n = 2; lines.some((l) => l.name === name); n += 1) name = `New line ${n}`;
  return name;
}
