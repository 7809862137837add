import './editors.css';

import { Checkbox } from '@mui/material';

import type { Report, SheetView } from '../api/client';
import { Choose, Written } from '../parts/Field';

type Layout = NonNullable<Report['layout']>;

/** The layout of lines: in one column or one a level, spacing by level, and the label of the grand total. */
export function LayoutEditor({
  report,
  sheet,
  change,
}: {
  report: Report;
  sheet: SheetView | undefined;
  change: (report: Report) => void;
}) {
  const layout = report.layout ?? {};
  const set = (more: Layout) => change({ ...report, layout: { ...layout, ...more } });
  const look = (level: string, key: 'space' | 'bold' | 'page_break', on: boolean) =>
    set({ levels: { ...layout.levels, [level]: { ...layout.levels?.[level], [key]: on } } });
  return (
    <>
      <Choose
        label="Lines"
        value={layout.lines ?? 'indented'}
        options={[
          ['indented', 'indented under their groups'],
          ['columns', 'one column a level'],
        ]}
        change={(lines) => set({ lines: lines as 'indented' })}
      />
      {layout.lines === 'columns' && (
        <Choose
          label="Labels"
          value={layout.labels ?? 'once'}
          options={[
            ['once', 'shown once'],
            ['each', 'on each line'],
          ]}
          change={(labels) => set({ labels: labels as 'once' })}
        />
      )}
      <Written
        label="The grand total is called"
        value={layout.grand ?? ''}
        clear
        change={(grand) => set({ grand })}
        help="Total, where left empty"
      />
      {sheet && sheet.down.length > 0 && (
        <table className="looks">
          <thead>
            <tr>
              <th>Each</th>
              <th>space before</th>
              <th>in bold</th>
              <th>on a new page</th>
            </tr>
          </thead>
          <tbody>
            {sheet.down.map(({ name }) => (
              <tr key={name}>
                <th scope="row">{name}</th>
                {(['space', 'bold', 'page_break'] as const).map((key) => (
                  <td key={key}>
                    <Checkbox
                      size="small"
                      sx={{ p: 0.25 }}
                      checked={layout.levels?.[name]?.[key] ?? false}
                      onChange={(event) => look(name, key, event.target.checked)}
                      slotProps={{ input: { 'aria-label': `${name}: ${key.replace('_', ' ')}` } }}
                    />
                  </td>
                ))}
              </tr>
            ))}
          </tbody>
        </table>
      )}
    </>
  );
}
