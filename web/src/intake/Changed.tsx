import './changed.css';
import '../parts/note.css';

import { MenuItem, Select } from '@mui/material';

import type { WaitingView } from '../api/client';
import { count, counted, listed } from '../parts/words';
import type { BringingIn } from './useBringingIn';

type Changes = NonNullable<WaitingView['changes']>;
type Change = Changes['columns'][number];
type Fresh = Changes['fresh'][number];
type Part<T> = { way: BringingIn; waiting: WaitingView; one: T };

const BLANK = '';

/** Where a file that is not like the others came from, and how many columns of it differ. */
export function cameFrom({ changes, source, dropped }: WaitingView): string {
  if (!changes) return '';
  const renamed = changes.columns.map((one) => one.heading).filter(Boolean);
  const differ = changes.columns.length + changes.fresh.filter((f) => !renamed.includes(f.heading)).length;
  const here = dropped ? `Dropped for ${source}, and waiting. ` : '';
  const before = `${counted(changes.alike, 'file')} ${changes.alike === 1 ? 'was' : 'were'} read before it`;
  return `${here}${before}; this one differs ${differ === 0 ? 'in how it is laid out' : `in ${counted(differ, 'column')}`}.`;
}

const headingNow = ({ columns }: WaitingView, name: string) =>
  columns.find((column) => column.name === name)?.heading ?? BLANK;

/** The columns of a source beside those of a file that is not like the files before, and what each is taken to be. */
export function Changed({
  way,
  waiting,
  changes,
}: {
  way: BringingIn;
  waiting: WaitingView;
  changes: Changes;
}) {
  const taken = changes.columns.map((one) => headingNow(waiting, one.name));
  const [first, ...more] = changes.same;
  return (
    <section className="paper changed" aria-label="What changed">
      <table>
        <thead>
          <tr>
            <th>{waiting.source} has</th>
            <th>This file has</th>
            <th>So it is</th>
          </tr>
        </thead>
        <tbody>
          {changes.columns.map((one) => (
            <Known key={one.name} way={way} waiting={waiting} one={one} />
          ))}
          {changes.fresh
            .filter((one) => !taken.includes(one.heading))
            .map((one) => (
              <New key={one.heading} way={way} waiting={waiting} one={one} />
            ))}
          {first && (
            <tr className="same">
              <td>
                <b>{first}</b>
                {more.length > 0 && ` and ${count(more.length)} more`}
              </td>
              <td>as before</td>
              <td>read as before</td>
            </tr>
          )}
        </tbody>
      </table>
      {changes.layout && <p className="heed">The file as a whole: {changes.layout}.</p>}
    </section>
  );
}

/** A column of the source, and what it is in this file. */
function Known({ way, waiting, one }: Part<Change>) {
  const heading = headingNow(waiting, one.name);
  const came = waiting.changes?.fresh.find((f) => f.heading === heading)?.came ?? one.came;
  const usedBy = heading === BLANK && one.used_by;
  return (
    <tr className="odd">
      <td>
        <b>{one.name}</b>
        <small>{one.known}</small>
      </td>
      <td>
        {heading === BLANK ? (
          <span className="quiet">nothing</span>
        ) : (
          <>
            <b>{heading}</b>
            <small>{came}</small>
          </>
        )}
      </td>
      <td>
        {one.what === 'renamed' || one.what === 'missing' ? (
          <Heading way={way} waiting={waiting} one={one} />
        ) : (
          <Otherwise way={way} waiting={waiting} one={one} />
        )}
        <small className="why">{usedBy || (heading === one.heading && whyOf(one))}</small>
      </td>
    </tr>
  );
}

/** Why a column is taken to be what it is, without what is chosen already. */
const whyOf = (one: Change) => {
  if (one.what === 'renamed' || one.what === 'missing') return one.why;
  return one.why.includes(': ') ? one.why.slice(one.why.indexOf(': ') + 2) : '';
};

/** Which heading of the file a column of the source is, or that it stays blank. */
function Heading({ way, waiting, one }: Part<Change>) {
  const heading = headingNow(waiting, one.name);
  return (
    <Pick
      label={`${one.name} is`}
      value={heading}
      shown={heading === BLANK ? 'blank from now on' : 'the same column, renamed'}
      options={[
        ...(waiting.changes?.fresh ?? []).map((f): [string, string] => [
          f.heading,
          `it is called ${f.heading}`,
        ]),
        [BLANK, 'blank from now on'],
      ]}
      change={(to) => way.readAgain({ pairs: { [one.name]: to || null } })}
    />
  );
}

/** How a column that is there is written now; where it can be read in two ways, the other one can be chosen. */
function Otherwise({ way, waiting, one }: Part<Change>) {
  const column = waiting.columns.find((c) => c.name === one.name);
  if (one.what === 'wider') return <>read with {one.why} from now on</>;
  if (one.what === 'unread' || !column) {
    return <>read as before; {counted(waiting.refused_count, 'line')} cannot be and would be refused</>;
  }
  const other = one.other ?? '';
  const isMark = other.length === 1 || column.kind === 'decimal' || column.kind === 'whole';
  const now = (isMark ? column.reading.decimal_mark : column.reading.format) ?? '';
  const known = [now, other].filter(Boolean);
  if (other === '' || !now) return <>{one.why.split(': ')[0]}</>;
  return (
    <Pick
      label={`${one.name} is written`}
      value={now}
      options={[...new Set([...known, ...known.map(otherOf)])].map((form) => [form, wordsOf(form)])}
      change={(form) =>
        way.readAgain({
          columns: {
            [one.name]: {
              type: column.reading.type,
              ...(isMark ? { decimal_mark: form as '.' } : { format: form }),
            },
          },
        })
      }
    />
  );
}

const otherOf = (form: string) =>
  form === '.' ? ',' : form === ',' ? '.' : form.replace('%d', '%_').replace('%m', '%d').replace('%_', '%m');

const wordsOf = (form: string) =>
  form === ','
    ? 'with a decimal comma'
    : form === '.'
      ? 'with a decimal point'
      : form.startsWith('%d')
        ? 'day first'
        : form.startsWith('%m')
          ? 'month first'
          : 'year first';

/** A heading that the source has no column for: taken in, or left out from now on. */
function New({ way, waiting, one }: Part<Fresh>) {
  const ignored = waiting.ignored.includes(one.heading);
  return (
    <tr className="odd">
      <td>
        <span className="quiet">nothing</span>
      </td>
      <td>
        <b>{one.heading}</b>
        <small>{one.came}</small>
      </td>
      <td>
        <Pick
          label={`${one.heading} is`}
          value={ignored ? 'ignored' : 'new'}
          options={[
            ['new', 'a new column, blank in the records before'],
            ['ignored', 'ignored from now on'],
          ]}
          change={(to) =>
            way.readAgain({ columns: { [one.heading]: to === 'ignored' ? { skip: true } : {} } })
          }
        />
      </td>
    </tr>
  );
}

function Pick({
  label,
  value,
  shown,
  options,
  change,
}: {
  label: string;
  value: string;
  shown?: string;
  options: [string, string][];
  change: (value: string) => void;
}) {
  return (
    <Select
      className="pick"
      size="small"
      displayEmpty
      value={value}
      inputProps={{ 'aria-label': label }}
      renderValue={(now) => shown ?? options.find(([v]) => v === now)?.[1] ?? now}
      onChange={(event) => change(event.target.value)}
    >
      {options.map(([v, text]) => (
        <MenuItem key={v} value={v} dense>
          {text}
        </MenuItem>
      ))}
    </Select>
  );
}

/** What is decided with this file, for those that come after it. */
export function FromNowOn({ waiting, changes }: { waiting: WaitingView; changes: Changes }) {
  const said = changes.columns.map((one) => {
    const heading = headingNow(waiting, one.name);
    if (one.what === 'renamed' || one.what === 'missing')
      return heading === BLANK ? `${one.name} blank` : `${heading} as ${one.name}`;
    return `${one.name} ${one.what === 'wider' ? `with ${one.why}` : one.why.split(': ')[0]}`;
  });
  const ignored = waiting.ignored.filter((name) => changes.fresh.some((f) => f.heading === name));
  const all = [...said, ...(ignored.length > 0 ? [`without ${listed(ignored)}`] : [])];
  return (
    <>
      <h2>From this file on</h2>
      <p className="say">
        {all.length > 0 && <>Files are read with {listed(all)}. </>}
        {changes.alike === 1
          ? 'The one before keeps its own way, also when read again, and a file like it'
          : `The ${count(changes.alike)} before keep their own way, also when read again, and a file like them`}{' '}
        is still known. Undoing this file takes both back.
      </p>
    </>
  );
}
