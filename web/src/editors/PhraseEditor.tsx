import './editors.css';

import { Button } from '@mui/material';

import type { ColumnView, Report, SheetView } from '../api/client';
import { AxisEditor } from './AxisEditor';
import { BesideEditor } from './BesideEditor';
import type { Phrase } from '../definition/sentence';
import { siblings, silenced, withEntry, withFigure } from '../definition/change';
import { Tried } from './Tried';
import { LayoutEditor } from './LayoutEditor';
import { RecordsEditor } from './RecordsEditor';
import { FigureEditor } from './FigureEditor';
import { KeepEditor } from './KeepEditor';
import { OnlyEditor } from './OnlyEditor';
import { TotalsEditor } from './TotalsEditor';
import { WindowEditor } from './WindowEditor';

interface Props {
  report: Report;
  phrase: Phrase;
  columns: ColumnView[];
  source: number | undefined;
  sheet: SheetView | undefined;
  change: (report: Report) => void;
  close: () => void;
  remove: () => void;
  move: (by: number) => void;
  turn: () => void;
  silence: () => void;
}

/** The small editor that opens at a phrase. */
export function PhraseEditor(props: Props) {
  const { report, phrase, change, move, remove, turn, silence } = props;
  const count = siblings(report, phrase);
  const lastFigure = phrase.kind === 'figure' && count === 1;
  const onAxis = phrase.kind === 'down' || phrase.kind === 'across';
  return (
    <div className="editor">
      <Body {...props} change={change} />
      <div className="foot">
        {onAxis && <Button onClick={turn}>Turn {phrase.kind === 'down' ? 'across' : 'down'}</Button>}
        {phrase.index > 0 && <Button onClick={() => move(-1)}>Earlier</Button>}
        {phrase.index < count - 1 && <Button onClick={() => move(1)}>Later</Button>}
        {phrase.kind === 'silenced' ? (
          <Button onClick={silence}>Use it again</Button>
        ) : (
          silenced(report, phrase) && (
            <Button onClick={silence} title="disabled: stays in the sentence, has no effect (X)">
              {isHidden(report, phrase) ? 'Show' : phrase.kind === 'figure' ? 'Hide' : 'Disable'}
            </Button>
          )
        )}
        <span style={{ flex: 1 }} />
        <Button
          color="error"
          disabled={lastFigure}
          onClick={remove}
          title={lastFigure ? 'a report needs a figure' : ''}
        >
          Remove
        </Button>
      </div>
    </div>
  );
}

const isHidden = (report: Report, { kind, index }: Phrase) =>
  kind === 'figure' && Boolean(report.figures[index]?.hide);

function Body({ report, phrase, columns, source, sheet, change, close }: Props) {
  const { kind, index } = phrase;
  if (kind === 'figure') {
    const figure = report.figures[index];
    return figure ? (
      <FigureEditor
        figure={figure}
        others={report.figures.filter((f) => f.name !== figure.name).map((f) => f.name)}
        columns={columns}
        made={report.columns ?? []}
        beside={(report.beside ?? []).map((b) => b.source)}
        change={(next) => change(withFigure(report, index, next))}
        tried={(next) => withFigure(report, index, next)}
        set={change}
      />
    ) : null;
  }
  if (kind === 'only') {
    return (
      <OnlyEditor
        condition={report.only?.[index] ?? ''}
        source={source}
        columns={columns}
        made={(next) => {
          const only = [...(report.only ?? [])];
          only[index] = next;
          return { ...report, only };
        }}
        set={change}
        close={close}
      />
    );
  }
  if (kind === 'totals') return <TotalsEditor report={report} sheet={sheet} change={change} />;
  if (kind === 'layout') return <LayoutEditor report={report} sheet={sheet} change={change} />;
  if (kind === 'records') return <RecordsEditor report={report} columns={columns} change={change} />;
  if (kind === 'silenced')
    return (
      <p className="say">This phrase is kept in the report and not heeded. Use it again when it is wanted.</p>
    );
  if (kind === 'sight')
    return (
      <p className="say">Lines and columns left out of sight; totals count them. Remove this to show them.</p>
    );
  if (kind === 'lines') {
    const line = report.lines?.[index];
    return line ? (
      <Tried
        label={`${line.name} is worked out as`}
        value={line.formula}
        help={`lines of ${line.level} by name, as Gross - Discounts`}
        made={(formula) => {
          const lines = [...(report.lines ?? [])];
          lines[index] = { ...line, formula };
          return { ...report, lines };
        }}
        change={change}
      />
    ) : null;
  }
  if (kind === 'keep') {
    const levels = (sheet?.down ?? []).map((l) => l.name);
    return <KeepEditor report={report} index={index} levels={levels} change={change} />;
  }
  if (kind === 'beside') {
    const other = report.beside?.[index];
    return other ? (
      <BesideEditor
        report={report}
        other={other}
        columns={columns}
        change={(next) => {
          const beside = [...(report.beside ?? [])];
          beside[index] = next;
          change({ ...report, beside });
        }}
      />
    ) : null;
  }
  if (kind === 'window') {
    return report.window ? (
      <WindowEditor
        window={report.window}
        columns={columns}
        change={(window) => change({ ...report, window })}
      />
    ) : null;
  }
  const entry = report[kind]?.[index];
  return entry ? (
    <AxisEditor
      entry={entry}
      source={report.source}
      columns={columns}
      report={kind === 'down' ? report : undefined}
      set={change}
      figures={report.figures.map((f) => f.name)}
      asOf={sheet?.as_of}
      change={(next) => change(withEntry(report, kind, index, next))}
    />
  ) : null;
}
