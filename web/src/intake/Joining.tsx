import './intake.css';
import './strip.css';
import '../parts/note.css';

import { Button, Checkbox, FormControlLabel } from '@mui/material';

import type { WaitingView } from '../api/client';
import { Choose } from '../parts/Field';
import { capital, count, counted, listed } from '../parts/words';
import { MonthTable } from './MonthTable';
import type { BringingIn } from './useBringingIn';
import { nameOfWay } from './ways';

type Way = WaitingView['outcome']['ways'][number];

/** How a file joins what is there: the ways that there are, each with what it would do. */
export function Joining({ way, waiting }: { way: BringingIn; waiting: WaitingView }) {
  const { outcome } = waiting;
  const suggested = outcome.ways.find((one) => one.held.length === 0 && !lacksKey(one))?.join;
  return (
    <>
      <div className="ways" role="radiogroup" aria-label="How it joins">
        {outcome.ways.map((one) => (
          <WayCard
            key={one.join}
            one={one}
            chosen={one.join === waiting.join}
            suggested={one.join === suggested && outcome.held.length > 0}
            choose={() => way.readAgain({ join: one.join, join_by: one.join_by })}
          />
        ))}
      </div>
      {waiting.join === 'update' && <KeyFields way={way} waiting={waiting} />}
      <FormControlLabel
        control={
          <Checkbox
            size="small"
            checked={waiting.always}
            onChange={(e) => way.readAgain({ always: e.target.checked })}
          />
        }
        label={`Always so for ${waiting.source}`}
      />
      {outcome.unplaced.map((words) => (
        <div key={words} className="heed">
          {words}.
        </div>
      ))}
      {outcome.held.map((reason) => (
        <div key={reason} className="heed" role="alert">
          {capital(reason)}.
        </div>
      ))}
    </>
  );
}

function WayCard({
  one,
  chosen,
  suggested,
  choose,
}: {
  one: Way;
  chosen: boolean;
  suggested: boolean;
  choose: () => void;
}) {
  return (
    <button role="radio" aria-checked={chosen} className={`way${chosen ? ' on' : ''}`} onClick={choose}>
      <b>{nameOfWay(one.join, one.about)}</b>
      <span>{saysOf(one)}</span>
      {suggested && <i>Suggested.</i>}
    </button>
  );
}

const lacksKey = (one: Way) => one.join === 'update' && one.join_by.length === 0;

/** What a way would do, for short. */
function saysOf(one: Way): string {
  if (lacksKey(one)) return 'Choose the key: no columns tell all records apart.';
  const key = one.join === 'update' ? `By ${listed(one.join_by)}. ` : '';
  const leave = one.leave === 0 ? 'Nothing leaves.' : `${counted(one.leave, 'record')} leave.`;
  return `${key}${leave}${one.held.length > 0 ? ' Held.' : ''}`;
}

/** The columns of the key, each on its own, and the values by which it does not tell records apart. */
function KeyFields({ way, waiting }: { way: BringingIn; waiting: WaitingView }) {
  const left = waiting.columns.map((c) => c.name).filter((name) => !waiting.join_by.includes(name));
  const put = (join_by: string[]) => way.readAgain({ join: 'update', join_by });
  return (
    <>
      {waiting.join_by.map((name) => (
        <div key={name} className="key-part">
          <b>{name}</b>
          {waiting.join_by.length > 1 && (
            <Button size="small" onClick={() => put(waiting.join_by.filter((one) => one !== name))}>
              leave out
            </Button>
          )}
        </div>
      ))}
      <Choose
        label={waiting.join_by.length ? 'And by' : 'By the key column'}
        value=""
        options={left.map((n) => [n, n])}
        change={(name) => put([...waiting.join_by, name])}
      />
      {waiting.outcome.repeated.length > 0 && (
        <div className="heed">
          More than one record has the key {listed(waiting.outcome.repeated)}: all of them are replaced.
        </div>
      )}
    </>
  );
}

const OF_KEY = {
  same: 'stand already, the same in every column',
  changed: 'stand with other values, and are replaced',
  new: 'are new',
};

/** What a file would do to records of the same key. */
function ByKey({ outcome, by }: { outcome: WaitingView['outcome']; by: string[] }) {
  return (
    <table>
      <thead>
        <tr>
          <th>By {listed(by)}</th>
          <th className="num">leave</th>
          <th className="num">come</th>
          <th>the first of them</th>
        </tr>
      </thead>
      <tbody>
        {outcome.keys.map((line) => (
          <tr key={line.what}>
            <td>{capital(OF_KEY[line.what])}</td>
            <td className={`num${line.leave ? ' neg' : ''}`}>{line.leave ? count(line.leave) : '–'}</td>
            <td className="num">{line.come ? count(line.come) : '–'}</td>
            <td className="quiet">{line.first.join(', ')}</td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}

/** What a file would do, month by month: records that stand now, leave, come and stand then. */
export function Strip({ waiting }: { waiting: WaitingView }) {
  const { months, keys } = waiting.outcome;
  return (
    <section className="paper strip" aria-label="What it would do">
      <h2>
        What it would do <small>records by month</small>
      </h2>
      <MonthTable months={months} />
      {keys.length > 0 && <ByKey outcome={waiting.outcome} by={waiting.join_by} />}
    </section>
  );
}
