import { Button } from '@mui/material';

import type { ColumnView, Report, SheetView } from '../../api/client';
import { AxisEditor } from './AxisEditor';
import { BesideEditor } from './BesideEditor';
import type { Phrase } from '../brief/brief';
import { siblings, withEntry, withFigure } from '../change';
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
}

/** The small editor that opens at a phrase. */
export function PhraseEditor(props: Props) {
  const { report, phrase, change, move, remove, turn } = props;
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
      />
    ) : null;
  }
  if (kind === 'only') {
    return (
      <OnlyEditor
        condition={report.only?.[index] ?? ''}
        source={source}
        columns={columns}
        change={(next) => {
          const only = [...(report.only ?? [])];
          only[index] = next;
          change({ ...report, only });
        }}
        close={close}
      />
    );
  }
  if (kind === 'totals') return <TotalsEditor report={report} change={change} />;
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
      change={(next) => change(withEntry(report, kind, index, next))}
    />
  ) : null;
}
