import type { ColumnView, Figure, Report, Taken } from '../api/client';
import { useSource, useSources } from '../api/queries';
import { Choose, Written } from '../parts/Field';
import { capital } from '../parts/words';
import { useLabels } from '../definition/sentence';
import { Compared, MovingFields, TakeDetails, withNeeds } from './figureFields';
import { FormatFields } from './FormatFields';
import { numbersFor, retaken, TAKES } from './takes';
import { Tried } from './Tried';
import { useFollowing } from './useFollowing';

const TOTALS: [string, string][] = [
  ['all', 'of the grand total'],
  ['parent', 'of its group'],
  ['column', 'of its column'],
  ['line', 'of its line'],
];
const same = (names: string[]): [string, string][] => names.map((name) => [name, name]);

interface Props {
  figure: Figure;
  others: string[];
  columns: ColumnView[];
  made: NonNullable<Report['columns']>;
  /** The sources set beside the report's own. */
  beside: string[];
  change: (figure: Figure) => void;
  /** The report with the figure applied, to validate a formula. */
  tried: (figure: Figure) => Report;
  set: (report: Report) => void;
}

/** A figure's take and name; an automatic name follows the take. */
export function FigureEditor(props: Props) {
  const { figure, change } = props;
  const follow = useFollowing(props);
  return (
    <>
      <Written label="Name" value={figure.name} change={(name) => change({ ...figure, name })} />
      <Kind {...props} change={follow} />
      <FormatFields figure={figure} change={change} />
    </>
  );
}

function Kind(props: Props) {
  const { figure, others, change, tried, set } = props;
  if ('compare' in figure) return <Compared figure={figure} others={others} change={change} />;
  if ('share' in figure) {
    return (
      <>
        <Choose
          label="Share of"
          value={figure.share}
          options={same(others)}
          change={(share) => change({ ...figure, share })}
        />
        <Choose
          label="Part"
          value={figure.of_total ?? 'all'}
          options={TOTALS}
          change={(t) => change({ ...figure, of_total: t } as Figure)}
        />
      </>
    );
  }
  if ('running' in figure) {
    const restarts: [string, string][] = [['never', 'never'], ...same(['year', 'half', 'quarter', 'month'])];
    return (
      <>
        <Choose
          label="Running total of"
          value={figure.running}
          options={same(others)}
          change={(running) => change({ ...figure, running })}
        />
        <Choose
          label="Restart every"
          value={figure.restart ?? 'never'}
          options={restarts}
          change={(restart) => change({ ...figure, restart })}
        />
      </>
    );
  }
  if ('rank' in figure)
    return (
      <Choose
        label="Rank by"
        value={figure.rank}
        options={same(others)}
        change={(rank) => change({ ...figure, rank })}
      />
    );
  if ('formula' in figure)
    return (
      <Tried
        label="Formula"
        value={figure.formula}
        made={(formula) => tried({ ...figure, formula })}
        change={set}
        help={'figures by name in double quotes, as "Net fare" / "Tickets"'}
      />
    );
  if ('moving' in figure) return <MovingFields figure={figure} others={others} change={change} />;
  return <TakenFields {...props} figure={figure} />;
}

/** The take and its column, of the report's own source or of one set beside it. */
function TakenFields({ figure, columns: own, made, beside, change }: Props & { figure: Taken }) {
  const labels = useLabels();
  const id = useSources().data?.find((s) => s.name === figure.source)?.id;
  const theirs = useSource(id).data?.columns ?? [];
  const columns = figure.source ? theirs : own;
  const names = [...numbersFor(figure, columns), ...(figure.source ? [] : made.map((m) => m.name))];
  return (
    <>
      {beside.length > 0 && (
        <Choose
          label="Of the records of"
          value={figure.source ?? ''}
          options={[['', 'the report’s own source'], ...same(beside)]}
          change={(source) => change({ ...figure, source: source || null, take: 'count', of: null })}
        />
      )}
      <Choose
        label="Calculate"
        value={figure.take}
        options={TAKES.map((take) => [take, capital(labels?.take?.[take] ?? take)])}
        change={(take) => change(withNeeds(retaken(figure, take, names[0]), columns))}
      />
      {figure.take !== 'count' && (
        <Choose
          label="Of"
          value={figure.of ?? ''}
          options={same(names)}
          change={(of) => change({ ...figure, of })}
        />
      )}
      <TakeDetails figure={figure} columns={columns} change={change} />
    </>
  );
}
